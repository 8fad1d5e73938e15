#include "render/cell_sound.h"

#include <algorithm>

#include "render/render.h"

namespace ochron {

std::array<std::vector<float>, 2> cellSound(const RenderPlan& plan, FrameRange range, const TrackMask& leftOut) {
  constexpr std::size_t kBlock = 8192;
  constexpr double kEndMs = 4;
  const auto n = static_cast<std::size_t>(range.length().value);
  std::array<std::vector<float>, 2> out{std::vector<float>(n, 0.0F), std::vector<float>(n, 0.0F)};
  std::vector<float> scratch(kBlock);
  for (std::size_t at = 0; at < n; at += kBlock) {
    const auto part = std::min(kBlock, n - at);
    addMix(plan, range.start + Frames{static_cast<std::int64_t>(at)}, std::span(out[0]).subspan(at, part),
           std::span(out[1]).subspan(at, part), scratch, {}, leftOut);
  }
  const auto fade = std::min(n, static_cast<std::size_t>(framesFromMs(kEndMs, plan.rate).value));
  for (auto& side : out)
    for (std::size_t i = 0; i < fade; ++i)
      side[n - 1 - i] *= static_cast<float>((static_cast<double>(i) + 0.5) / static_cast<double>(fade));
  return out;
}

TrackMask allBut(const RenderPlan& plan, SetId set) {
  TrackMask out;
  for (std::size_t i = 0; i < std::min(out.size(), plan.tracks.size()); ++i) out[i] = plan.tracks[i].set != set;
  return out;
}

}  // namespace ochron
