#pragma once

#include <filesystem>
#include <map>
#include <string>
#include <vector>

#include "base/progress.h"
#include "base/result.h"
#include "feel/plan_timing.h"
#include "media/pool.h"
#include "render/render_plan.h"
#include "song/song.h"

namespace ochron {

/// A hand-over folder opens anywhere, because it needs nothing: every track as one file from its first bar on, tempo,
/// meters, markers, hits and notes as MIDI, layers as MIDI with their sounds, and what the session is as a text and as
/// JSON (docs/file-format.md), with checksums of all of it.
struct HandoverSettings {
  bool recordings = false;  ///< the recordings, untouched, too
};
struct HandoverReport {
  std::size_t files = 0;
  std::int64_t beyondFullScale = 0;  ///< samples; kept, as the tracks are 32-bit float
};
/// Writes one to `folder`, which is not there yet or empty: it appears whole at the end, or not at all. `plan` has
/// nothing missing; `timing` by set.
Result<HandoverReport> writeHandover(const Song& song, const MediaPool& pool, const RenderPlan& plan,
                                     const std::map<SetId, TimingResult>& timing, const std::filesystem::path& folder,
                                     const HandoverSettings& settings, Progress& progress);

/// What is wrong with a hand-over folder, one sentence each: files that are missing, were changed or do not fit what
/// the session says. Fails when it is no hand-over folder at all.
Result<std::vector<std::string>> checkHandover(const std::filesystem::path& folder, Progress& progress);

/// A song of a hand-over folder: its tracks in one take, tempo map, markers, gains and pans. Fails with a sentence when
/// something is wrong with it.
Result<Song> songOfHandover(const std::filesystem::path& folder, Progress& progress);

}  // namespace ochron
