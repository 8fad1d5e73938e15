#include "render/loudness.h"

#include <ebur128.h>

#include <algorithm>
#include <cmath>
#include <memory>
#include <vector>

#include "render/render.h"

namespace ochron {
namespace {

constexpr double kSpotSeconds = 0.8;  // two of the measure's blocks
constexpr std::int64_t kSpots = 75;
constexpr double kSilentLufs = -60;

struct Closer {
  void operator()(ebur128_state* s) const { ebur128_destroy(&s); }
};

}  // namespace

std::optional<double> loudnessOf(const RenderPlan& plan, FrameRange range, Progress& progress) {
  const std::int64_t spot = std::llround(kSpotSeconds * plan.rate);
  const std::unique_ptr<ebur128_state, Closer> meter(
      ebur128_init(2, static_cast<unsigned long>(plan.rate), EBUR128_MODE_I));
  if (!meter || range.empty()) return {};
  const std::int64_t length = range.length().value;
  const auto spots = std::clamp<std::int64_t>(length / spot, 1, kSpots);
  const auto wide = static_cast<std::size_t>(std::min(length, spot));
  std::vector<float> left(wide);
  std::vector<float> right(wide);
  std::vector<float> scratch(wide);
  std::vector<float> both(2 * wide);
  for (std::int64_t i = 0; i < spots; ++i) {
    if (progress.cancelled()) return {};
    std::fill(left.begin(), left.end(), 0.0F);
    std::fill(right.begin(), right.end(), 0.0F);
    const std::int64_t room = length - static_cast<std::int64_t>(wide);
    const Frames at = range.start + Frames{spots > 1 ? room * i / (spots - 1) : room / 2};
    addMix(plan, at, left, right, scratch, {});
    for (std::size_t k = 0; k < wide; ++k) {
      both[2 * k] = left[k];
      both[2 * k + 1] = right[k];
    }
    if (ebur128_add_frames_float(meter.get(), both.data(), wide) != EBUR128_SUCCESS) return {};
  }
  double lufs = 0;
  if (ebur128_loudness_global(meter.get(), &lufs) != EBUR128_SUCCESS || !(lufs > kSilentLufs)) return {};
  return lufs;
}

}  // namespace ochron
