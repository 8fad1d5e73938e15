#include "tune/period_marks.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

#include "analysis/pitch/pitch_course.h"
#include "dsp/peak.h"

namespace ochron {
namespace {

constexpr double kSearch = 0.12;  // of a period: how far the next one may be from where the pitch says
constexpr double kHalf = 0.8;     // of a period: what is compared to either side of a mark
constexpr double kLeastAlike = 0.4;
constexpr double kSame = 0.6;          // correlation by which a waveform is the same again behind a break
constexpr std::size_t kLeastRun = 3;   // marks that follow each other; fewer are chance
constexpr double kLookSeconds = 0.05;  // behind a break: how far at a time something periodic is looked for
constexpr double kLater = 0.12;        // of a period after its peak: what a pulse makes ring comes after it

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
    const double shift = peakOf(*(best - 1), *best, *(best + 1)).shift;
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

  /// The place within half a period of a frame whose waveform is most like that of a mark; 0 where none is.
  double sameNear(double mark, double frame) const {
    const double period = periodAt(frame);
    const auto half = static_cast<std::int64_t>(kHalf * period);
    const auto reach = static_cast<std::int64_t>(0.5 * period);
    std::int64_t best = 0;
    double most = kSame;
    for (auto at = std::llround(frame) - reach; at <= std::llround(frame) + reach; ++at) {
      const double alike = likeness(std::llround(mark), at, half);
      if (alike <= most) continue;
      most = alike;
      best = at;
    }
    return static_cast<double>(best);
  }

  /// Where most power lies in a stretch, looked at every few ms.
  double loudestIn(double from, double to) const {
    double best = from;
    double most = -1;
    for (double frame = from; frame < to; frame += PitchTrack::kHop * rate_) {
      const double p = power(frame);
      if (p <= most) continue;
      most = p;
      best = frame;
    }
    return best;
  }

  double rate() const { return rate_; }

 private:
  double power(double frame) const {
    const auto half = static_cast<std::int64_t>(periodAt(frame));
    double sum = 0;
    for (auto i = static_cast<std::int64_t>(frame) - half; i <= static_cast<std::int64_t>(frame) + half; ++i)
      sum += static_cast<double>(at(i)) * at(i);
    return sum / static_cast<double>(2 * half + 1);
  }
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

/// Frames of what is voiced, and how far beyond it periods are followed while they go on alike.
struct Bounds {
  double from;
  double to;
  double before;
  double after;

  bool voiced(double frame) const { return frame >= from && frame <= to; }
  bool within(double frame) const { return frame > 0 && frame >= before && frame <= after; }
};

/// Appends the marks that follow the last one, `way` 1 or -1, as long as each is like its neighbour and `in` holds.
template <class In>
void follow(const Walker& walk, int way, const In& in, std::vector<double>& marks) {
  for (double m = walk.next(marks.back(), way); m > 0 && in(m); m = walk.next(m, way)) marks.push_back(m);
}

/// The next run of marks that follow each other, behind all that was tried; `tried` moves to its end. Empty: none is
/// left.
std::vector<double> nextRun(const Walker& walk, int way, const Bounds& bounds, double last, double& tried) {
  while (true) {
    const double from = tried + way * walk.periodAt(tried);
    if (!bounds.voiced(from)) return {};
    const double look = std::clamp(from + way * kLookSeconds * walk.rate(), bounds.from, bounds.to);
    const double near = walk.loudestIn(std::min(from, look), std::max(from, look) + 1);
    const double same = walk.sameNear(last, near);
    std::vector<double> run{same > 0 ? same : walk.peakNear(near)};
    tried = way * std::max(way * run.front(), way * from);
    const double nearest = last + way * 0.5 * walk.periodAt(last);
    if (way * (run.front() - nearest) <= 0) continue;
    follow(
        walk, -way, [&](double m) { return way * (m - nearest) > 0; }, run);
    std::reverse(run.begin(), run.end());
    follow(
        walk, way, [&](double m) { return bounds.within(m); }, run);
    tried = way * std::max(way * run.back(), way * tried);
    if (run.size() >= kLeastRun) return run;
  }
}

/// Marks from an anchor on to one side, in that order. Behind a break they begin anew where something is periodic, in
/// step with what was before where that is the same sound; what lies between two runs, or nothing follows, is divided
/// as the pitch says.
std::vector<double> marksFrom(const Walker& walk, double anchor, int way, const Bounds& bounds) {
  std::vector<double> out{anchor};
  follow(
      walk, way, [&](double m) { return bounds.within(m); }, out);
  double tried = out.back();
  for (auto run = nextRun(walk, way, bounds, out.back(), tried); !run.empty();
       run = nextRun(walk, way, bounds, out.back(), tried)) {
    const double from = out.back();
    const double gap = run.front() - from;
    const auto count = std::llround(std::abs(gap) / walk.periodAt(from + 0.5 * gap));
    for (std::int64_t i = 1; i < count; ++i)
      out.push_back(from + gap * static_cast<double>(i) / static_cast<double>(count));
    out.insert(out.end(), run.begin(), run.end());
  }
  const auto straightOn = [&](double m) { return m + way * walk.periodAt(m + way * 0.5 * walk.periodAt(m)); };
  for (double m = straightOn(out.back()); bounds.voiced(m); m = straightOn(m)) out.push_back(m);
  return out;
}

}  // namespace

std::vector<double> periodMarks(std::span<const float> samples, Frames start, int rate, const PitchTrack& track,
                                std::size_t first, std::size_t last, const PeriodsBeyond& beyond) {
  const Walker walk(samples, start, rate, track, first, last);
  const auto frameOf = [&](std::size_t value) {
    return PitchTrack::secondsAt(value) * rate - static_cast<double>(start.value);
  };
  const Bounds bounds{std::max(0.0, frameOf(first)), std::min(frameOf(last), static_cast<double>(samples.size())),
                      frameOf(first) - beyond.before * rate, frameOf(last) + beyond.after * rate};
  if (first >= last || bounds.from >= bounds.to) return {};
  const double anchor = walk.peakNear(walk.loudestIn(bounds.from, bounds.to));
  auto out = marksFrom(walk, anchor, -1, bounds);
  std::reverse(out.begin(), out.end());
  out.pop_back();
  const auto after = marksFrom(walk, anchor, 1, bounds);
  out.insert(out.end(), after.begin(), after.end());
  for (auto& m : out) m += kLater * walk.periodAt(m);
  while (!out.empty() && out.back() > static_cast<double>(samples.size()) - 1) out.pop_back();
  return out;
}

}  // namespace ochron
