#pragma once

#include <filesystem>
#include <vector>

#include "base/progress.h"
#include "base/result.h"
#include "files/outputs.h"
#include "render/render_plan.h"
#include "song/song.h"

namespace ochron {

/// Every clip of a set as a sound of its own (24-bit WAV, stereo, as it is heard with its mixer), an SFZ instrument
/// that plays them from key 36 up with their choke groups, and the order they stand in as MIDI with the song's tempo:
/// files of `folder`. Muted clips are left out. How many sounds were written; refused when there is none.
Result<std::size_t> writeCells(const Song& song, const RenderPlan& plan, SetId set, const std::filesystem::path& folder,
                               Outputs& outputs, Progress& progress);

/// A pattern as MIDI with the song's tempo from `from` on: a key for each slice, from 36 up in the order of the take,
/// velocities as hard as was struck.
Result<void> writePattern(const Song& song, const Pattern& pattern, Frames from, const std::filesystem::path& file,
                          Outputs& outputs);

/// All files of that, in their place; none when there is no clip.
std::vector<std::filesystem::path> cellFiles(const Song& song, SetId set, const std::filesystem::path& folder);

}  // namespace ochron
