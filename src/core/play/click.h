#pragma once

#include <cstdint>
#include <vector>

#include "render/export.h"
#include "time/tempo_map.h"

namespace ochron {

struct ClickEvent {
  Frames at;
  bool accent = false;  ///< a bar's first beat
};

/// Clicks on every beat of the song's meters in [from, to).
std::vector<ClickEvent> clicksOf(const TempoMap& map, FrameRange range);

/// The sound of one click, 30 ms.
std::vector<float> clickSound(int rate, bool accent);

/// Writes the click of a range as a mono file, at the speeds that an export of the song has: the clicks lie on its
/// beats, and each sounds as long as ever.
Result<void> exportClick(const Song& song, const ExportSettings& settings, const std::filesystem::path& target,
                         Outputs& outputs, Progress& progress);

}  // namespace ochron
