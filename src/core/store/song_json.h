#pragma once

#include <string>
#include <string_view>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

inline constexpr int kSongSchema = 3;

/// The song as text: docs/file-format.md. Stable key order, one value a line, ends with a newline.
std::string songToJson(const Song& song);

/// Reads such a text. Treats it as hostile: every number is checked, every name must be known, every rule of a song
/// must hold. `fileName` is for the error's sentence.
Result<Song> songFromJson(std::string_view text, const std::string& fileName);

}  // namespace ochron
