#include "tune/period_marks.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

#include "analysis/pitch_course.h"

namespace ochron {
namespace {

constexpr double kSearch = 0.12;  // of a period: how far the next one may be from where the pitch says
constexpr double kHalf = 0.8;     // of a period: what is compared to either side of a mark
constexpr double kLeastAlike = 0.4;
constexpr double kLater = 0.12;  // of a period after its peak: what a pulse makes ring comes after it

class Walker {
 public:
  Walker(std::span<const float> samples, Frames start, int rate, const PitchTrack& track, std::size_t first,
         std::size_t last)
      : x_(samples),
        start_(static_cast<double>(start.value)),
        rate_(rate),
        first_(first),
        course_(pitchCourse(track, first, last)) {}

  double periodAt(double frame) const {
    const double value = (frame + start_) / rate_ / PitchTrack::kHop - static_cast<double>(first_);
    const auto k = static_cast<std::size_t>(std::clamp(value, 0.0, static_cast<double>(course_.size() - 1)));
    const auto next = std::min(k + 1, course_.size() - 1);
    const double along = std::clamp(value - static_cast<double>(k), 0.0, 1.0);
    return rate_ / std::exp2((course_[k] + (course_[next] - course_[k]) * along) / 1200);
  }

  /// The mark a period on (`way` 1) or back (-1); 0 where nothing like it is near.
  double next(double mark, int way) const {
    const double period = periodAt(mark + way * 0.5 * periodAt(mark));
    const auto half = static_cast<std::int64_t>(kHalf * period);
    const auto here = std::llround(mark);
    const auto low = static_cast<std::int64_t>(std::floor(period * (1 - kSearch)));
    const auto high = static_cast<std::int64_t>(std::ceil(period * (1 + kSearch)));
    std::vector<double> alike;
    for (auto lag = low - 1; lag <= high + 1; ++lag) alike.push_back(likeness(here, here + way * lag, half));
    const auto best = std::max_element(alike.begin() + 1, alike.end() - 1);
    if (*best < kLeastAlike) return 0;
    const double bend = *(best - 1) - 2 * *best + *(best + 1);
    const double shift = bend < 0 ? std::clamp(0.5 * (*(best - 1) - *(best + 1)) / bend, -0.5, 0.5) : 0;
    return mark + way * (static_cast<double>(low - 1) + static_cast<double>(best - alike.begin()) + shift);
  }

  /// The loudest peak within a period of a frame.
  double peakNear(double frame) const {
    const auto half = static_cast<std::int64_t>(0.5 * periodAt(frame));
    auto best = static_cast<std::int64_t>(frame);
    for (auto i = best - half; i <= static_cast<std::int64_t>(frame) + half; ++i)
      if (std::abs(at(i)) > std::abs(at(best))) best = i;
    return static_cast<double>(best);
  }

  double power(double frame) const {
    const auto half = static_cast<std::int64_t>(periodAt(frame));
    double sum = 0;
    for (auto i = static_cast<std::int64_t>(frame) - half; i <= static_cast<std::int64_t>(frame) + half; ++i)
      sum += static_cast<double>(at(i)) * at(i);
    return sum / static_cast<double>(2 * half + 1);
  }

 private:
  float at(std::int64_t i) const { return i < 0 || i >= std::ssize(x_) ? 0.0F : x_[static_cast<std::size_t>(i)]; }
  double likeness(std::int64_t a, std::int64_t b, std::int64_t half) const {
    double ab = 0;
    double aa = 1e-12;
    double bb = 1e-12;
    for (auto i = -half; i <= half; ++i) {
      const double p = at(a + i);
      const double q = at(b + i);
      ab += p * q;
      aa += p * p;
      bb += q * q;
    }
    return ab / std::sqrt(aa * bb);
  }

  std::span<const float> x_;
  double start_;
  int rate_;
  std::size_t first_;
  std::vector<double> course_;
};

}  // namespace

std::vector<double> periodMarks(std::span<const float> samples, Frames start, int rate, const PitchTrack& track,
                                std::size_t first, std::size_t last, const PeriodsBeyond& beyond) {
  if (first >= last) return {};
  const Walker walk(samples, start, rate, track, first, last);
  const auto frameOf = [&](std::size_t value) {
    return PitchTrack::secondsAt(value) * rate - static_cast<double>(start.value);
  };
  double loudest = frameOf(first);
  double most = -1;
  for (auto t = first; t < last; ++t) {
    const double p = walk.power(frameOf(t));
    if (p <= most) continue;
    most = p;
    loudest = frameOf(t);
  }
  const double begin = frameOf(first) - beyond.before * rate;
  const double end = frameOf(last) + beyond.after * rate;
  std::vector<double> out;
  const double anchor = walk.peakNear(loudest);
  for (double m = anchor; m > 0 && m >= begin; m = walk.next(m, -1)) out.push_back(m);
  std::reverse(out.begin(), out.end());
  for (double m = walk.next(anchor, 1); m > 0 && m <= end; m = walk.next(m, 1)) out.push_back(m);
  for (auto& m : out) m += kLater * walk.periodAt(m);
  return out;
}

}  // namespace ochron
