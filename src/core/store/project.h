#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <string_view>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

/// A project is a folder NAME.ochron with song.json, media/ and cache/ (which may be deleted at any time).
inline constexpr const char* kProjectEnding = ".ochron";
inline constexpr const char* kSongFile = "song.json";
inline constexpr const char* kAutosaveFile = "song.autosave.json";

/// The steps of a safe write; tests put failing ones in.
struct FileOps {
  std::function<bool(const std::filesystem::path&, std::string_view)> writeAndSync;
  std::function<bool(const std::filesystem::path&, const std::filesystem::path&)> rename;
  std::function<bool(const std::filesystem::path&)> syncFolder;
  static FileOps real();
};

/// Writes beside, syncs, renames, syncs the folder: afterwards the file is the old one or the new one, never a mix.
Result<void> writeAtomically(const std::filesystem::path& file, std::string_view content,
                             const FileOps& ops = FileOps::real());
Result<std::string> readWholeFile(const std::filesystem::path& file, std::size_t mostBytes);

/// Saves to `folder` (made when missing); recordings inside the folder are named relative to it. Removes the autosaved
/// copy.
Result<void> saveProject(const Song& song, const std::filesystem::path& folder, const FileOps& ops = FileOps::real());
/// Paths come back absolute. Missing recordings are not an error here.
Result<Song> openProject(const std::filesystem::path& folder);

/// The second copy for the time between saves.
Result<void> autosaveProject(const Song& song, const std::filesystem::path& folder);
bool hasAutosave(const std::filesystem::path& folder);
Result<Song> openAutosave(const std::filesystem::path& folder);
void discardAutosave(const std::filesystem::path& folder);

/// True for a project folder or the song.json in one.
bool looksLikeProject(const std::filesystem::path& path);

}  // namespace ochron
