#include "kit/stroke_level.h"

#include <algorithm>
#include <cmath>

#include "base/units.h"

namespace ochron {
namespace {

constexpr double kLoudMs = 10;
constexpr double kAttackPart = 0.01;   // of the peak: -40 dB
constexpr double kQuietMs = 0.75;      // as quiet for so long, and what lies before belongs to something else
constexpr double kPeakWithinMs = 500;  // what rises later is no part of the attack

}  // namespace

double strokeDb(std::span<const float> sound, std::int64_t attack, int rate) {
  const auto window = framesFromMs(kLoudMs, rate).value;
  const auto from = std::clamp<std::int64_t>(attack, 0, std::ssize(sound));
  const auto to = std::min<std::int64_t>(std::ssize(sound), from + framesFromMs(kStrokeMs, rate).value);
  const auto square = [&](std::int64_t i) {
    const double x = static_cast<double>(sound[static_cast<std::size_t>(i)]);
    return x * x;
  };
  double sum = 0;
  double most = 0;
  for (auto i = from; i < to; ++i) {
    sum += square(i);
    if (i - from >= window) sum -= square(i - window);
    most = std::max(most, sum);
  }
  const double mean = most / static_cast<double>(window);
  return mean > 0 ? std::max(kSilentStroke, 10 * std::log10(mean)) : kSilentStroke;
}

std::int64_t attackIn(std::span<const float> sound, int rate, float floor) {
  const auto loud =
      sound.first(std::min(sound.size(), static_cast<std::size_t>(framesFromMs(kPeakWithinMs, rate).value)));
  const auto top =
      std::max_element(loud.begin(), loud.end(), [](float a, float b) { return std::abs(a) < std::abs(b); });
  if (top == loud.end() || *top == 0) return 0;
  const float least = std::max(floor, static_cast<float>(kAttackPart) * std::abs(*top));
  const auto quietest = framesFromMs(kQuietMs, rate).value;
  auto first = top - loud.begin();
  std::int64_t quiet = 0;
  for (auto i = first; i >= 0 && quiet < quietest; --i) {
    if (std::abs(loud[static_cast<std::size_t>(i)]) > least) {
      first = i;
      quiet = 0;
    } else {
      ++quiet;
    }
  }
  return first;
}

}  // namespace ochron
