#include "tune/tuned_sound.h"

#include <algorithm>
#include <cmath>

#include "dsp/fade.h"
#include "tune/period_marks.h"

namespace ochron {
namespace {

constexpr double kLeavesMs = 8;
constexpr double kIntoJoint = 0.015;  // s that it goes on past its values into what is left as it is
constexpr double kIntoRest = 0.04;    // s at most that it fades out in after its last value

double halfOf(std::size_t gap) { return 0.5 * PitchTrack::secondsAt(gap); }

PeriodsBeyond beyond(const MovedStretch& s) {
  return {s.gapBefore == 0 ? kIntoJoint : std::min(kIntoJoint, halfOf(s.gapBefore)),
          s.gapAfter == 0 ? kIntoJoint : std::min(kIntoRest, halfOf(s.gapAfter))};
}

}  // namespace

Regrained tunedSound(const std::vector<std::span<const float>>& channels, std::span<const float> mono, int rate,
                     Frames start, const PitchTrack& track, const MovedStretch& stretch) {
  const auto marks =
      periodMarks(mono, start, rate, track, stretch.first, stretch.first + stretch.cents.size(), beyond(stretch));
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
  // Only what is sung on must be met in its period: to bend the last ones into it is heard as another pitch.
  const bool endsFreely = stretch.gapAfter > 0;
  auto out = regrain(channels, rate, marks, {ratioOf(stretch.cents), ratioOf(stretch.formants), {}, endsFreely});
  if (!endsFreely || out.channels.empty()) return out;
  // It leaves with a whole period of its own, and what follows comes in.
  const auto length = std::ssize(out.channels.front());
  const auto fade = static_cast<std::size_t>(std::min(framesFromMs(kLeavesMs, rate).value, length / 2));
  for (std::size_t c = 0; c < channels.size(); ++c)
    crossInto(std::span(out.channels[c]).last(fade),
              channels[c].subspan(static_cast<std::size_t>(out.start.value + length) - fade, fade));
  return out;
}

}  // namespace ochron
