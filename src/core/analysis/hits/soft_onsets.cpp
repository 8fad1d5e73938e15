#include "analysis/hits/soft_onsets.h"

#include <algorithm>
#include <cmath>

#include "analysis/levels/tonal_bands.h"

namespace ochron {
namespace {

constexpr float kDriftAllowed = 1.15F;    // a tone's own swelling
constexpr std::size_t kVibratoBands = 1;  // to either side: half a semitone
constexpr double kBeatStep = 0.04;        // s: what beats is looked for in so many parts of so long
constexpr int kBeatParts = 3;
constexpr std::int64_t kStrokeMs = 15;
constexpr std::int64_t kFirstLaterMs = 120;
constexpr std::int64_t kLastLaterMs = 200;
constexpr std::int64_t kLaterReachMs = 12;
constexpr double kLeft = 0.4;

/// The sum over a stretch of windows that slides along.
class Sliding {
 public:
  Sliding(const TonalBands& bands, std::int64_t from, std::int64_t to)
      : bands_(bands), from_(from), to_(to), sum_(bands.bands(), 0.0F) {
    for (auto n = from; n < to; ++n) add(n, 1);
  }
  void advance() { add(from_++, -1), add(to_++, 1); }
  const std::vector<float>& sum() const { return sum_; }

 private:
  void add(std::int64_t n, float sign) {
    if (n < 0 || n >= bands_.count()) return;
    const auto f = bands_.frame(n);
    for (std::size_t b = 0; b < sum_.size(); ++b) sum_[b] += sign * f[b];
  }
  const TonalBands& bands_;
  std::int64_t from_;
  std::int64_t to_;
  std::vector<float> sum_;
};

/// How much of what sounds after each window did not sound before it, 0 to 1.
std::vector<float> freshness(const TonalBands& bands, const FreshSettings& s) {
  const auto frames = [&](double seconds) { return bands.hop().steps(seconds); };
  const auto gap = frames(s.gapSeconds);
  const auto span = frames(s.spanSeconds);
  Sliding before(bands, -gap - span, -gap);
  Sliding after(bands, gap, gap + span);
  std::vector<Sliding> earlier;
  for (int k = 1; k <= kBeatParts && s.beatsBelow > 0; ++k)
    earlier.emplace_back(bands, -gap - span - k * frames(kBeatStep), -gap - k * frames(kBeatStep));
  const auto beating = bands.bandsBelow(s.beatsBelow);
  const float quiet = bands.loud() * static_cast<float>(span);
  // Windows that the recording's end cuts off are full of what is not there.
  const auto last = bands.count() - gap - span - frames(s.windowSeconds);
  std::vector<float> out;
  for (std::int64_t n = 0; n < last; ++n, before.advance(), after.advance()) {
    if (n > 0)
      for (auto& e : earlier) e.advance();
    const auto& old = before.sum();
    const auto& now = after.sum();
    float fresh = 0;
    float all = quiet;
    for (std::size_t b = 0; b < now.size(); ++b) {
      float known = old[b];
      for (std::size_t v = 1; v <= kVibratoBands; ++v) {
        if (b >= v) known = std::max(known, old[b - v]);
        if (b + v < old.size()) known = std::max(known, old[b + v]);
      }
      if (b < beating)
        for (const auto& e : earlier) known = std::max(known, e.sum()[b]);
      fresh += std::max(0.0F, now[b] - kDriftAllowed * known);
      all += now[b];
    }
    out.push_back(all > 0 ? fresh / all : 0.0F);
  }
  return out;
}

}  // namespace

std::vector<SoftOnset> findSoftOnsets(std::span<const float> samples, int rate, const FreshSettings& settings,
                                      double leastFresh) {
  const TonalBands bands(samples, rate, settings.windowSeconds);
  const auto fresh = freshness(bands, settings);
  std::vector<SoftOnset> out;
  const auto count = std::ssize(fresh);
  const auto reach = bands.hop().steps(settings.apartSeconds);
  for (std::int64_t n = 0; n < count; ++n) {
    const float here = fresh[static_cast<std::size_t>(n)];
    if (here < leastFresh) continue;
    const auto from = fresh.begin() + std::max<std::int64_t>(0, n - reach);
    const auto to = fresh.begin() + std::min(count, n + reach + 1);
    if (std::max_element(from, to) - fresh.begin() != n) continue;
    out.push_back({bands.hop().frame(n), here});
  }
  return out;
}

bool soundsOn(const std::vector<float>& peaks, const std::vector<std::int64_t>& strokesMs) {
  const auto highest = [&](std::int64_t from, std::int64_t to) {
    float peak = 0;
    for (auto i = std::max<std::int64_t>(0, from); i < std::min(to, std::ssize(peaks)); ++i)
      peak = std::max(peak, peaks[static_cast<std::size_t>(i)]);
    return peak;
  };
  std::vector<double> left;
  for (const auto ms : strokesMs) {
    const auto stroke = highest(ms, ms + kStrokeMs);
    if (stroke <= 0) continue;
    // The quietest moment: the next stroke does not count as sounding on.
    float least = stroke;
    for (auto at = kFirstLaterMs; at <= kLastLaterMs; at += kLaterReachMs)
      least = std::min(least, highest(ms + at, ms + at + kLaterReachMs));
    left.push_back(least / stroke);
  }
  if (left.empty()) return false;
  std::nth_element(left.begin(), left.begin() + std::ssize(left) / 2, left.end());
  return left[left.size() / 2] > kLeft;
}

}  // namespace ochron
