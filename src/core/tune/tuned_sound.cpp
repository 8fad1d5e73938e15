#include "tune/tuned_sound.h"

#include <algorithm>
#include <cmath>

#include "tune/period_marks.h"

namespace ochron {

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
  return regrain(channels, rate, marks, {ratioOf(stretch.cents), ratioOf(stretch.formants)});
}

}  // namespace ochron
