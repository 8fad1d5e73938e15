#pragma once

#include <filesystem>
#include <string>
#include <string_view>

#include "base/result.h"
#include "song/scale.h"

namespace ochron {

/// A scale in the Scala format (https://www.huygens-fokker.org/scala/scl_format.html): comments, a title, the number of
/// steps, then a step a line in cents or as a ratio; the last is the octave. At most 1 200 steps. `tonic`: semitones
/// above C of its first pitch.
Result<Scale> loadScala(const std::filesystem::path& file, int tonic);
/// The same from the file's text; `name` is for the error's sentence.
Result<Scale> scalaFromText(std::string_view text, int tonic, const std::string& name);

}  // namespace ochron
