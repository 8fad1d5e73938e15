#pragma once

#include <string>
#include <string_view>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

inline constexpr int kSongSchema = 11;

/// The song as text: docs/file-format.md. Stable key order, one value a line, ends with a newline.
/// `continues` (when not empty) names the saved state of the song that this copy goes on from.
std::string songToJson(const Song& song, const std::string& continues = {});
/// The state that a text goes on from; empty when it says none.
std::string continuedState(std::string_view text);

/// Reads such a text. Treats it as hostile: every number is checked, every name must be known, every rule of a song
/// must hold. `fileName` is for the error's sentence.
///
/// A file of a newer version is refused, or with `look` read as far as it is known, to be looked at: what is not known
/// is named in Song::foreign, kept and written back.
enum class Newer { refuse, look };
Result<Song> songFromJson(std::string_view text, const std::string& fileName, Newer newer = Newer::refuse);

}  // namespace ochron
