#include "tune/period_colour.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstdint>
#include <deque>

#include "dsp/fft.h"
#include "dsp/window.h"

namespace ochron {
namespace {

constexpr double kHeard = 2;          // periods to either side that levels are heard in
constexpr double kNear = 0.25;        // of the pitch: how far a harmonic may lie from where it should
constexpr double kSilence = 1e-14;    // power, so that silence has a level
constexpr double kMost = 12;          // dB
constexpr double kSmooth = 0.02;      // s to either side
constexpr std::size_t kEnds = 3;      // periods
constexpr double kRings = 2;          // periods that the filter may ring
constexpr std::size_t kRoom = 8;      // periods, of the transform
constexpr float kNepers = 0.115129F;  // in a dB
constexpr double kNearCents = 5, kFarCents = 20;

/// The power of a sound's harmonics.
class HarmonicLevels {
 public:
  explicit HarmonicLevels(int size) : fft_(size), power_(static_cast<std::size_t>(size / 2 + 1)) {}

  /// In dB, from the first one up, all channels taken together.
  std::vector<double> at(const auto& channels, double centre, double period) {
    std::fill(power_.begin(), power_.end(), 0.0);
    for (const auto& x : channels) addPower(x, centre, kHeard * period);
    const double spacing = fft_.size() / period;
    std::vector<double> out;
    for (double bin = spacing; bin + kNear * spacing + 1 < static_cast<double>(power_.size()); bin += spacing) {
      const auto first = power_.begin() + static_cast<std::ptrdiff_t>(bin - kNear * spacing);
      const auto last = power_.begin() + static_cast<std::ptrdiff_t>(bin + kNear * spacing) + 2;
      out.push_back(10 * std::log10(*std::max_element(first, last) + kSilence));
    }
    return out;
  }

 private:
  void addPower(std::span<const float> x, double centre, double reach) {
    auto time = fft_.time();
    std::fill(time.begin(), time.end(), 0.0F);
    const auto from = static_cast<std::int64_t>(std::ceil(centre - reach));
    const auto to = std::min<std::int64_t>(static_cast<std::int64_t>(centre + reach), std::ssize(x) - 1);
    const auto first = std::max<std::int64_t>(0, from);
    HannWalk weight(0.5 + 0.5 * (static_cast<double>(first) - centre) / reach, 0.5 / reach);
    for (auto i = first; i <= to; ++i)
      time[static_cast<std::size_t>(i - from)] =
          x[static_cast<std::size_t>(i)] * static_cast<float>(weight.next() / reach);
    fft_.forward();
    const auto bins = fft_.bins();
    for (std::size_t k = 0; k < power_.size(); ++k) power_[k] += static_cast<double>(std::norm(bins[k]));
  }

  RealFft fft_;
  std::vector<double> power_;
};

/// On the line from one harmonic to the next; beyond the first and the last one as there. `number`: 1 is the first.
double onTheLine(const std::vector<double>& levels, double number) {
  const double x = std::clamp(number - 1, 0.0, static_cast<double>(levels.size() - 1));
  const auto k = static_cast<std::size_t>(x);
  const auto next = std::min(k + 1, levels.size() - 1);
  return std::lerp(levels[k], levels[next], x - static_cast<double>(k));
}

double powerOf(const std::vector<double>& levels) {
  double sum = 0;
  for (const double dB : levels) sum += std::pow(10, dB / 10);
  return sum;
}

/// What is to be done to each period.
class Gains {
 public:
  Gains(const std::vector<std::vector<float>>& sound, std::span<const std::span<const float>> recorded,
        std::span<const LaidPeriod> laid, int size, double smooth)
      : sound_(sound), recorded_(recorded), laid_(laid), harmonics_(size), size_(size), smooth_(smooth) {}

  double gapAt(std::size_t k) const { return (laid_[k + 1].place - laid_[k - 1].place) / 2; }

  /// 0..1: how much of it, by how far the pitch is another one and how near an end is.
  double muchAt(std::size_t k) const {
    const auto fromEnd = std::min(k, laid_.size() - 1 - k);
    if (fromEnd <= kEnds) return 0;
    const double cents = std::abs(1200 * std::log2(laid_[k].period / gapAt(k)));
    return std::clamp((cents - kNearCents) / (kFarCents - kNearCents), 0.0, 1.0) *
           std::min(1.0, static_cast<double>(fromEnd - kEnds) / kEnds);
  }

  /// The mean over the periods around, in dB, by bin. To be asked for rising periods.
  std::vector<float> around(std::size_t k) {
    while (!curves_.empty() && first_ < k && laid_[k].place - laid_[first_].place >= smooth_) {
      curves_.pop_front();
      ++first_;
    }
    if (curves_.empty()) {
      first_ = k;
      while (first_ > 1 && laid_[k].place - laid_[first_ - 1].place < smooth_) --first_;
    }
    std::vector<float> mean(static_cast<std::size_t>(size_ / 2 + 1), 0.0F);
    float weights = 0;
    for (auto j = first_; j + 1 < laid_.size(); ++j) {
      const auto weight = static_cast<float>(1 - std::abs(laid_[j].place - laid_[k].place) / smooth_);
      if (weight <= 0 && j > k) break;
      if (j - first_ == curves_.size()) curves_.push_back(curveAt(j));
      if (weight <= 0) continue;
      weights += weight;
      for (std::size_t b = 0; b < mean.size(); ++b) mean[b] += weight * curves_[j - first_][b];
    }
    for (auto& m : mean) m /= weights;
    return mean;
  }

 private:
  std::vector<float> curveAt(std::size_t k) {
    const auto& l = laid_[k];
    const double gap = gapAt(k);
    const auto sung = harmonics_.at(recorded_, l.mark, l.period);
    auto now = harmonics_.at(sound_, l.place, gap);
    std::vector<float> curve(static_cast<std::size_t>(size_ / 2 + 1), 0.0F);
    if (sung.empty() || now.empty()) return curve;
    auto off = now;
    for (std::size_t h = 0; h < now.size(); ++h) {
      const double number = static_cast<double>(h + 1) * l.period / gap / l.formants;
      // As many harmonics as before would be as loud as before.
      off[h] = std::clamp(onTheLine(sung, number) + 10 * std::log10(l.period / gap) - now[h], -kMost, kMost);
      now[h] += off[h];
    }
    const double louder = std::clamp(10 * std::log10(powerOf(sung) / powerOf(now)), -kMost, kMost);
    for (std::size_t b = 0; b < curve.size(); ++b)
      curve[b] = static_cast<float>(louder + onTheLine(off, static_cast<double>(b) * gap / size_));
    return curve;
  }

  const std::vector<std::vector<float>>& sound_;
  std::span<const std::span<const float>> recorded_;
  std::span<const LaidPeriod> laid_;
  HarmonicLevels harmonics_;
  int size_;
  double smooth_;
  std::deque<std::vector<float>> curves_;
  std::size_t first_ = 1;
};

/// One period of sound, that the neighbours' add up to the whole with.
struct Piece {
  double from, middle, to;

  float weightAt(std::int64_t frame) const {
    const auto at = static_cast<double>(frame);
    if (at == middle) return 1;
    return static_cast<float>(at < middle ? hannAt(0.5 * (at - from) / (middle - from))
                                          : hannAt(0.5 + 0.5 * (at - middle) / (to - middle)));
  }
  /// What rings of it is heard at a frame: all within a period of it, nothing beyond two.
  float ringsAt(std::int64_t frame) const {
    const double gap = (to - from) / 2;
    const double off = std::max(from - static_cast<double>(frame), static_cast<double>(frame) - to) / gap;
    return off <= 1 ? 1.0F : off >= kRings ? 0.0F : static_cast<float>(hannAt(0.5 + 0.5 * (off - 1) / (kRings - 1)));
  }
  std::int64_t first(std::int64_t least) const { return std::max(least, static_cast<std::int64_t>(std::ceil(from))); }
  std::int64_t last(std::int64_t most) const { return std::min(most, static_cast<std::int64_t>(to)); }
};

}  // namespace

void keepColour(std::vector<std::vector<float>>& sound, std::span<const std::span<const float>> recorded, int rate,
                std::span<const LaidPeriod> laid) {
  if (laid.size() <= 2 * kEnds || sound.empty()) return;
  double longest = 0;
  for (std::size_t k = 0; k + 1 < laid.size(); ++k)
    longest = std::max({longest, laid[k].period, laid[k + 1].place - laid[k].place});
  const auto size = static_cast<int>(std::bit_ceil(static_cast<std::size_t>(kRoom * longest)));
  const auto before = sound;
  Gains gains(before, recorded, laid, size, kSmooth * rate);
  RealFft fft(size);
  for (std::size_t k = 1; k + 1 < laid.size(); ++k) {
    const double much = gains.muchAt(k);
    if (much <= 0) continue;
    // What the filter adds is added: what it leaves stays as it is.
    auto gain = gains.around(k);
    for (auto& g : gain) g = std::expm1(static_cast<float>(much) * kNepers * g) / static_cast<float>(size);
    const Piece piece{laid[k - 1].place, laid[k].place, laid[k + 1].place};
    const auto origin = static_cast<std::int64_t>(piece.middle) - size / 2;
    for (std::size_t c = 0; c < sound.size(); ++c) {
      const auto end = std::ssize(sound[c]);
      auto time = fft.time();
      std::fill(time.begin(), time.end(), 0.0F);
      for (auto i = piece.first(0); i <= piece.last(end - 1); ++i)
        time[static_cast<std::size_t>(i - origin)] = piece.weightAt(i) * before[c][static_cast<std::size_t>(i)];
      fft.forward();
      const auto bins = fft.bins();
      for (std::size_t b = 0; b < gain.size(); ++b) bins[b] *= gain[b];
      fft.inverse();
      for (auto i = std::max<std::int64_t>(0, origin); i < std::min<std::int64_t>(end, origin + size); ++i)
        sound[c][static_cast<std::size_t>(i)] += piece.ringsAt(i) * time[static_cast<std::size_t>(i - origin)];
    }
  }
}

}  // namespace ochron
