#pragma once

#include <cstdint>
#include <span>
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

/// Clicks as the engine plays them.
class ClickVoice {
 public:
  explicit ClickVoice(int rate) : plain_(clickSound(rate, false)), accent_(clickSound(rate, true)) {}
  /// Adds what of them is heard from a frame of the song on. Audio thread.
  void add(std::span<const ClickEvent> clicks, float gain, Frames at, std::span<float> left,
           std::span<float> right) const noexcept;

 private:
  std::vector<float> plain_;
  std::vector<float> accent_;
};

/// Writes the click of a range as a mono file, at the speeds that an export of the song has: the clicks lie on its
/// beats, and each sounds as long as ever.
Result<void> exportClick(const Song& song, const ExportSettings& settings, const std::filesystem::path& target,
                         Outputs& outputs, Progress& progress);

}  // namespace ochron
