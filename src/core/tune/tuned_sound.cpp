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
constexpr double kSoft = 0.05;        // of its power: what follows is so soft that it need not go on in its period

double halfOf(std::size_t gap) { return 0.5 * PitchTrack::secondsAt(gap); }

PeriodsBeyond beyond(const MovedStretch& s) {
  return {s.gapBefore == 0 ? kIntoJoint : std::min(kIntoJoint, halfOf(s.gapBefore)),
          s.gapAfter == 0 ? kIntoJoint : std::min(kIntoRest, halfOf(s.gapAfter))};
}

double meanPower(std::span<const float> x, double from, double to) {
  const auto first = std::clamp<std::int64_t>(std::llround(from), 0, std::ssize(x));
  const auto last = std::clamp<std::int64_t>(std::llround(to), first, std::ssize(x));
  double sum = 0;
  for (auto i = first; i < last; ++i)
    sum += static_cast<double>(x[static_cast<std::size_t>(i)]) * x[static_cast<std::size_t>(i)];
  return last > first ? sum / static_cast<double>(last - first) : 0;
}

/// Whether next to nothing sounds in the period after the last mark.
bool fadesOut(std::span<const float> mono, const std::vector<double>& marks) {
  if (marks.size() < 2) return true;
  const double period = marks.back() - marks[marks.size() - 2];
  return meanPower(mono, marks.back() + 0.5 * period, marks.back() + 1.5 * period) <
         kSoft * meanPower(mono, marks.front(), marks.back());
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
  const bool endsFreely = stretch.gapAfter > 0 && fadesOut(mono, marks);
  auto out = regrain(channels, rate, marks, {ratioOf(stretch.cents), ratioOf(stretch.formants), {}, endsFreely});
  if (!endsFreely || out.channels.empty()) return out;
  // Nothing goes on in its period: it leaves with a whole one of its own, and what follows comes in.
  const auto length = std::ssize(out.channels.front());
  const auto fade = static_cast<std::size_t>(std::min(framesFromMs(kLeavesMs, rate).value, length / 2));
  for (std::size_t c = 0; c < channels.size(); ++c)
    crossInto(std::span(out.channels[c]).last(fade),
              channels[c].subspan(static_cast<std::size_t>(out.start.value + length) - fade, fade));
  return out;
}

}  // namespace ochron
