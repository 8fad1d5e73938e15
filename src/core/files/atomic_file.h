#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <string_view>

#include "base/result.h"

namespace ochron {

/// The steps of a safe write; tests put failing ones in.
struct FileOps {
  std::function<bool(const std::filesystem::path&, std::string_view)> writeAndSync;
  std::function<bool(const std::filesystem::path&, const std::filesystem::path&)> rename;
  std::function<bool(const std::filesystem::path&)> syncFolder;
  static FileOps real();
};

/// Writes beside under a name of its own, syncs, renames, syncs the folder: afterwards the file is the old one or the
/// new one, never a mix. A link is followed; the mode of what was there stays. A file that nobody may write to is
/// refused, and so is anything that is no ordinary file.
Result<void> writeAtomically(const std::filesystem::path& file, std::string_view content,
                             const FileOps& ops = FileOps::real());

/// The whole content. Fails with a sentence that tells a missing file from one that may not be read.
Result<std::string> readWholeFile(const std::filesystem::path& file, std::size_t mostBytes);

/// Why `path` cannot be opened for reading as an ordinary file; the error kind says which.
Result<void> checkReadable(const std::filesystem::path& path);

/// Moves a damaged file aside under a name that says so and when, so that it can be looked at and is never overwritten.
/// The new name.
Result<std::filesystem::path> setAside(const std::filesystem::path& file);

/// Syncs a folder, so that what was renamed in it is on the disk. An empty path is the current folder.
bool syncFolder(const std::filesystem::path& folder);

/// The absolute form without "." and ".."; never throws (a path that cannot be made absolute is given back as it is).
std::filesystem::path absolutePath(const std::filesystem::path& path);

}  // namespace ochron
