#pragma once

#include <filesystem>
#include <functional>
#include <string>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

/// A project's folder of what effects hold beside their controls: a folder for each state, named by its content.
inline constexpr const char* kEffectStates = "effects";

/// Puts those of a song that are not there yet into the project's folder, each whole or not at all.
Result<void> writeEffectStates(const Song& song, const std::filesystem::path& project);
/// Reads those that a song names. One that is not there, or is another than its name says, stays missing.
void readEffectStates(Song& song, const std::filesystem::path& project);

/// Calls for every file of a song's states with its path in a project; each state comes once.
void eachStateFile(const Song& song, const std::function<void(const std::string& path, const std::string& bytes)>& f);

}  // namespace ochron
