#include "render/moved_sound.h"

#include <algorithm>
#include <cmath>

#include "tune/tuned_sound.h"

namespace ochron {
namespace {

constexpr double kAroundSeconds = 0.2;

}  // namespace

Frames windowStart(const MovedStretch& s, int rate) {
  const double from = PitchTrack::secondsAt(s.first) - kAroundSeconds;
  return Frames{std::max<std::int64_t>(0, std::llround(from * rate))};
}

Frames windowEnd(const MovedStretch& s, int rate) {
  const double until = static_cast<double>(s.first + s.cents.size()) * PitchTrack::kHop + kAroundSeconds;
  return Frames{std::llround(until * rate)};
}

Channels movedWindow(const Voices& voices, const PitchTrack& track, const MovedStretch& s) {
  const auto start = windowStart(s, voices.rate);
  const auto length = (windowEnd(s, voices.rate) - start).value;
  Channels out;
  std::vector<float> mono(static_cast<std::size_t>(length), 0.0F);
  for (const auto& v : voices.list) {
    out.push_back(v.read(start, length));
    for (std::size_t i = 0; i < mono.size(); ++i) mono[i] += out.back()[i] / static_cast<float>(v.sound->channels());
  }
  const auto recorded = out;
  const auto made = tunedSound({recorded.begin(), recorded.end()}, mono, voices.rate, start, track, s);
  for (std::size_t c = 0; c < made.channels.size(); ++c)
    std::copy(made.channels[c].begin(), made.channels[c].end(), out[c].begin() + made.start.value);
  return out;
}

void layWindow(std::span<const float> window, Frames start, std::span<const float> raw, std::span<float> to) {
  for (std::int64_t i = 0; i < std::ssize(window); ++i) {
    const auto at = start.value + i;
    if (at < 0 || at >= std::ssize(to)) continue;
    const float x = window[static_cast<std::size_t>(i)];
    if (x != raw[static_cast<std::size_t>(at)]) to[static_cast<std::size_t>(at)] = x;
  }
}

}  // namespace ochron
