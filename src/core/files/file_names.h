#pragma once

#include <filesystem>
#include <set>
#include <string>

namespace ochron {

/// Some text as the name of a file (without ending): what file systems do not take becomes "_", no leading dot, at most
/// 120 bytes. `fallback` when nothing is left.
std::string fileNameFor(const std::string& text, const std::string& fallback = "track");

/// A path in a folder that no file has yet and that is not `taken`: the name, or the name and a number from 2 on.
std::filesystem::path freeFile(const std::filesystem::path& folder, const std::string& name, const std::string& ending,
                               const std::set<std::filesystem::path>& taken = {});

/// The ending in small letters, with its dot.
std::string endingOf(const std::filesystem::path& file);
/// True for .mid and .midi, however written.
bool isMidiName(const std::filesystem::path& file);

/// A path as text for messages and files: bytes that are no UTF-8 are shown as a replacement character.
std::string shownPath(const std::filesystem::path& path);

}  // namespace ochron
