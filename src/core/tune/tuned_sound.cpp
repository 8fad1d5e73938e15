#include "tune/tuned_sound.h"

#include <algorithm>
#include <cmath>

#include "dsp/fade.h"
#include "tune/period_marks.h"

namespace ochron {

constexpr double kLeavesMs = 8;

Regrained tunedSound(const std::vector<std::span<const float>>& channels, std::span<const float> mono, int rate,
                     Frames start, const PitchTrack& track, const MovedStretch& stretch) {
  const auto marks = periodMarks(mono, start, rate, track, stretch.first, stretch.first + stretch.cents.size());
  const auto ratioOf = [&](const std::vector<double>& cents) {
    return [&, list = &cents](double frame) {
      const double value =
          (frame + static_cast<double>(start.value)) / rate / PitchTrack::kHop - static_cast<double>(stretch.first);
      const auto last = static_cast<double>(list->size() - 1);
      const auto k = static_cast<std::size_t>(std::clamp(std::floor(value), 0.0, last));
      const auto next = std::min(k + 1, list->size() - 1);
      const double along = std::clamp(value - static_cast<double>(k), 0.0, 1.0);
      return std::exp2(((*list)[k] + ((*list)[next] - (*list)[k]) * along) / 1200);
    };
  };
  auto out =
      regrain(channels, rate, marks, {ratioOf(stretch.cents), ratioOf(stretch.formants), {}, !stretch.joinedAfter});
  if (stretch.joinedAfter || out.channels.empty()) return out;
  // Nothing goes on in its period: it leaves with a whole one of its own, and what follows comes in.
  const auto length = std::ssize(out.channels.front());
  const auto fade = static_cast<std::size_t>(std::min(framesFromMs(kLeavesMs, rate).value, length / 2));
  for (std::size_t c = 0; c < channels.size(); ++c)
    crossInto(std::span(out.channels[c]).last(fade),
              channels[c].subspan(static_cast<std::size_t>(out.start.value + length) - fade, fade));
  return out;
}

}  // namespace ochron
