#pragma once

#include <filesystem>
#include <map>
#include <string>

#include "base/result.h"

namespace ochron {

/// Bytes of files by their place in a folder, with "/" between the parts.
using FilesInFolder = std::map<std::string, std::string>;

/// All files of a folder and of those in it, links followed. Fails when they are more, or together larger, than that.
Result<FilesInFolder> readWholeFolder(const std::filesystem::path& folder, std::size_t mostFiles,
                                      std::size_t mostBytes);

/// Puts them into a new folder, which appears whole or not at all. Where one of that name is, nothing is done.
Result<void> writeWholeFolder(const std::filesystem::path& folder, const FilesInFolder& files);

/// Names them all by their content, as contentId() names a file.
std::string contentId(const FilesInFolder& files);

}  // namespace ochron
