#include "analysis/levels/mic_level.h"

#include <algorithm>
#include <cmath>
#include <functional>

#include "base/hop.h"

namespace ochron {
namespace {

constexpr double kLevelSeconds = 0.012;  // an attack's level is its peak in this time
constexpr double kSilence = 1e-6;

std::vector<float> millisecondPeaks(std::span<const float> samples, int rate) {
  std::vector<float> out;
  const Hop hop(1000, rate);
  const auto length = std::ssize(samples);
  for (std::int64_t n = 0; n < hop.count(length); ++n) {
    const auto last = std::min(length, hop.frame(n + 1));
    float peak = 0;
    for (auto i = hop.frame(n); i < last; ++i) peak = std::max(peak, std::abs(samples[static_cast<std::size_t>(i)]));
    out.push_back(peak);
  }
  return out;
}

constexpr std::size_t kKnocks = 2;           // that may be louder than every stroke
constexpr std::size_t kStrokesPerKnock = 4;  // at least: of few sounds none is a knock
constexpr double kFaintStroke = 0.03;        // of the loudest sound, -30 dB

/// The level that the loud ones reach: the highest but two, as a knock on the stand or a dropped stick is none.
double topOf(const std::vector<double>& peaks) {
  std::vector<double> apart;  // a sound that rings from one stretch into the next is one
  for (std::size_t i = 0; i < peaks.size(); ++i)
    if ((i == 0 || peaks[i] >= peaks[i - 1]) && (i + 1 == peaks.size() || peaks[i] > peaks[i + 1]))
      apart.push_back(peaks[i]);
  if (apart.empty()) return 0;
  std::sort(apart.begin(), apart.end(), std::greater<>());
  const auto strokes = static_cast<std::size_t>(
      std::count_if(apart.begin(), apart.end(), [&](double p) { return p >= kFaintStroke * apart.front(); }));
  return apart[std::min(kKnocks, strokes / kStrokesPerKnock)];
}

/// The peak level that a guide's loud strokes reach: 1 in the middle of its upper quarter of distinct attacks.
double loudLevel(const std::vector<float>& envelope) {
  std::vector<double> peaks;
  for (std::size_t i = 0; i + 200 <= envelope.size() || i < envelope.size(); i += 200)
    peaks.push_back(
        *std::max_element(envelope.begin() + static_cast<std::ptrdiff_t>(i),
                          envelope.begin() + static_cast<std::ptrdiff_t>(std::min(envelope.size(), i + 200))));
  const double top = topOf(peaks);
  std::erase_if(peaks, [&](double p) { return p < 0.25 * top; });
  return percentile(peaks, 0.75);
}

}  // namespace

double percentile(std::vector<double> v, double share) {
  if (v.empty()) return 0;
  const auto at = v.begin() + static_cast<std::ptrdiff_t>(share * static_cast<double>(v.size() - 1));
  std::nth_element(v.begin(), at, v.end());
  return *at;
}

MicLevel::MicLevel(std::span<const float> samples, int sampleRate)
    : peaks(millisecondPeaks(samples, sampleRate)), rate(sampleRate) {
  reference = loudLevel(peaks);
  silent = reference <= kSilence;
  if (silent) reference = 1;
}

double MicLevel::at(std::int64_t frame) const {
  const auto ms = Hop(1000, rate).stepAt(frame);
  const auto first = std::max<std::int64_t>(0, ms - 2);
  const auto last =
      std::min<std::int64_t>(std::ssize(peaks), first + static_cast<std::int64_t>(kLevelSeconds * 1000) + 3);
  float peak = 0;
  for (auto i = first; i < last; ++i) peak = std::max(peak, peaks[static_cast<std::size_t>(i)]);
  return peak / reference;
}

double MicLevel::jumpAt(std::int64_t frame) const {
  const auto first = std::min<std::int64_t>(std::ssize(peaks), Hop(1000, rate).stepAt(frame));
  float before = 0;
  for (auto i = std::max<std::int64_t>(0, first - 16); i < first; ++i)
    before = std::max(before, peaks[static_cast<std::size_t>(i)]);
  const double after = at(frame) * reference;
  return after > 0 ? std::clamp(1.0 - before / after, 0.0, 1.0) : 0.0;
}

}  // namespace ochron
