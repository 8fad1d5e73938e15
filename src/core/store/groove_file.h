#pragma once

#include <filesystem>
#include <string>
#include <string_view>

#include "base/result.h"
#include "files/outputs.h"
#include "song/timing.h"
#include "time/grid.h"

namespace ochron {

/// A groove as a file of its own, as one of `outputs`: MIDI when the name says so, else JSON with the same keys as in
/// song.json.
Result<void> writeGroove(const Groove& groove, const std::filesystem::path& file, Outputs& outputs);
/// Reads either. MIDI files are read on the lines of `grid`.
Result<Groove> readGrooveFile(const std::filesystem::path& file, const Grid& grid);
/// The text of a groove file in JSON; `name` is for the error's sentence.
Result<Groove> grooveFromJson(std::string_view text, const std::string& name);

/// The file a groove of this name gets in a folder of grooves: what file systems do not take is left out.
std::filesystem::path grooveFileName(const std::string& name);

}  // namespace ochron
