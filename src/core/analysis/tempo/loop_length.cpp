#include "analysis/tempo/loop_length.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

#include "dsp/dot.h"
#include "dsp/fft.h"
#include "dsp/peak.h"

namespace ochron {
namespace {

constexpr double kAlike = 0.8;        // of a pass and the next, from which it repeats
constexpr double kFirstOfBest = 0.9;  // the first peak as good as this of the best is the period
constexpr double kShortest = 0.9;     // s, of a pass
constexpr double kLongestAlone = 20;  // s, of a loop that does not repeat
constexpr double kFitsAlone = 0.025;  // of the tempo heard
constexpr double kFitsRepeated = 0.03;
constexpr std::array kBeats{1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 12, 14, 16, 18, 20, 24, 28, 32, 36, 40, 48, 64};

constexpr double kExcerptSeconds = 8;   // is enough to see where two passes are most alike
constexpr double kExcerptLoses = 0.15;  // and no less alike there than so much

/// Likeness of a signal to itself `lag` later, over what both cover, or over `most` samples in its middle.
double likeness(std::span<const float> x, std::size_t lag, std::size_t most) {
  if (lag >= x.size()) return 0;
  const auto n = std::min(most, x.size() - lag);
  const auto first = (x.size() - lag - n) / 2;
  const auto a = x.subspan(first, n);
  const auto b = x.subspan(first + lag, n);
  return dot(a, b) / std::sqrt(dot(a, a) * dot(b, b) + 1e-24);
}

/// Unnormalised autocorrelation by FFT, of lags from 0 to the length.
std::vector<double> autocorrelation(std::span<const float> x) {
  int size = 2;
  while (size < 2 * std::ssize(x)) size *= 2;
  RealFft fft(size);
  const auto time = fft.time();
  std::fill(time.begin(), time.end(), 0.0F);
  std::copy(x.begin(), x.end(), time.begin());
  fft.forward();
  for (auto& b : fft.bins()) b = std::norm(b);
  fft.inverse();
  std::vector<double> out(x.size());
  for (std::size_t i = 0; i < out.size(); ++i) out[i] = static_cast<double>(time[i]) / size;
  return out;
}

}  // namespace

LoopLength loopOf(std::span<const float> samples, int rate, std::optional<double> beats) {
  LoopLength out;
  out.whole = static_cast<double>(samples.size()) / rate;
  out.beats = beats;
  // Silence at the beginning is no part of the loop.
  std::size_t first = 0;
  float peak = 0;
  for (const float s : samples) peak = std::max(peak, std::abs(s));
  while (first < samples.size() && std::abs(samples[first]) < peak * 0.001F) ++first;
  const auto sound = samples.subspan(first);
  out.seconds = static_cast<double>(sound.size()) / rate;
  constexpr double kMostSeconds = 180;
  if (out.seconds < 2 * kShortest || out.seconds > kMostSeconds) return out;
  // A coarse look, at a sixteenth of the rate, then the exact lag.
  constexpr std::size_t kCoarse = 16;
  std::vector<float> coarse(sound.size() / kCoarse);
  for (std::size_t i = 0; i < coarse.size(); ++i) {
    float sum = 0;
    for (std::size_t k = 0; k < kCoarse; ++k) sum += std::abs(sound[i * kCoarse + k]);
    coarse[i] = sum / kCoarse;
  }
  double mean = 0;
  for (const float c : coarse) mean += static_cast<double>(c) / static_cast<double>(coarse.size());
  for (auto& c : coarse) c -= static_cast<float>(mean);
  const auto shape = autocorrelation(coarse);
  std::vector<double> energy(coarse.size() + 1, 0.0);
  for (std::size_t i = 0; i < coarse.size(); ++i)
    energy[i + 1] = energy[i] + static_cast<double>(coarse[i]) * coarse[i];
  const auto n = coarse.size();
  const auto alike = [&](std::size_t lag) {
    return shape[lag] / std::sqrt(energy[n - lag] * (energy[n] - energy[lag]) + 1e-12);
  };
  const auto least = static_cast<std::size_t>(kShortest * rate / kCoarse);
  const auto most = n - n / 4;  // a quarter must overlap
  double best = 0;
  for (auto lag = least; lag < most; ++lag) best = std::max(best, alike(lag));
  if (best < 0.5) return out;
  for (auto lag = least + 1; lag + 1 < most; ++lag) {
    if (alike(lag) < kFirstOfBest * best || alike(lag) < alike(lag - 1) || alike(lag) < alike(lag + 1)) continue;
    const auto excerpt = static_cast<std::size_t>(kExcerptSeconds * rate);
    double top = -1;
    auto at = lag * kCoarse;
    for (auto exact = (lag - 2) * kCoarse; exact <= (lag + 2) * kCoarse; ++exact)
      if (const double l = likeness(sound, exact, excerpt); l > top) {
        top = l;
        at = exact;
      }
    if (top < kAlike - kExcerptLoses) continue;
    top = likeness(sound, at, sound.size());
    if (top < kAlike) continue;
    const double l = likeness(sound, at - 1, sound.size());
    const double r = likeness(sound, at + 1, sound.size());
    out.seconds = (static_cast<double>(at) + peakOf(l, top, r).shift) / rate;
    out.repeats = true;
    out.likeness = top;
    return out;
  }
  return out;
}

bool isLoop(const LoopLength& loop) { return loop.seconds > 0 && (loop.repeats || loop.seconds <= kLongestAlone); }

std::optional<int> wholeBeats(const LoopLength& loop, double bpm) {
  if (!isLoop(loop)) return {};
  const double wanted = bpm * loop.seconds / 60;
  int nearest = 0;
  for (const int n : kBeats)
    if (std::abs(n - wanted) < std::abs(nearest - wanted)) nearest = n;
  if (nearest == 0 || std::abs(nearest / wanted - 1) > (loop.repeats ? kFitsRepeated : kFitsAlone)) return {};
  return nearest;
}

bool isLoopAt(const LoopLength& loop, double bpm) { return loop.repeats || wholeBeats(loop, bpm).has_value(); }

std::optional<double> exactLoopTempo(const LoopLength& loop, double heardBpm) {
  const auto beats = wholeBeats(loop, heardBpm);
  if (!beats) return {};
  return *beats * 60 / loop.seconds;
}

}  // namespace ochron
