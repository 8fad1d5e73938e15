#include "analysis/loop_length.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

#include "dsp/fft.h"

namespace ochron {
namespace {

constexpr double kAlike = 0.8;        // of a pass and the next, from which it repeats
constexpr double kFirstOfBest = 0.9;  // the first peak as good as this of the best is the period
constexpr double kShortest = 0.9;     // s, of a pass
constexpr double kLongestAlone = 20;  // s, of a loop that does not repeat
constexpr double kFitsAlone = 0.025;  // of the tempo heard
constexpr double kFitsRepeated = 0.03;
constexpr std::array kBeats{1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 12, 14, 16, 18, 20, 24, 28, 32, 36, 40, 48, 64};

/// Likeness of a signal to itself `lag` later, over what both cover.
double likeness(std::span<const float> x, std::int64_t lag) {
  double ab = 0;
  double aa = 1e-12;
  double bb = 1e-12;
  for (std::int64_t i = 0; i + lag < std::ssize(x); ++i) {
    const double a = x[static_cast<std::size_t>(i)];
    const double b = x[static_cast<std::size_t>(i + lag)];
    ab += a * b;
    aa += a * a;
    bb += b * b;
  }
  return ab / std::sqrt(aa * bb);
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
    const auto centre = static_cast<std::int64_t>(lag * kCoarse);
    double top = -1;
    std::int64_t at = centre;
    for (auto exact = centre - 2 * static_cast<std::int64_t>(kCoarse);
         exact <= centre + 2 * static_cast<std::int64_t>(kCoarse); ++exact)
      if (const double l = likeness(sound, exact); l > top) {
        top = l;
        at = exact;
      }
    if (top < kAlike) continue;
    const double l = likeness(sound, at - 1);
    const double r = likeness(sound, at + 1);
    const double bend = l - 2 * top + r;
    const double shift = bend < 0 ? std::clamp(0.5 * (l - r) / bend, -0.5, 0.5) : 0;
    out.seconds = (static_cast<double>(at) + shift) / rate;
    out.repeats = true;
    out.likeness = top;
    return out;
  }
  return out;
}

std::optional<double> exactLoopTempo(const LoopLength& loop, double heardBpm) {
  if (loop.seconds <= 0 || (!loop.repeats && loop.seconds > kLongestAlone)) return {};
  const double wanted = heardBpm * loop.seconds / 60;
  double nearest = 0;
  for (const int n : kBeats)
    if (std::abs(n - wanted) < std::abs(nearest - wanted)) nearest = n;
  if (nearest <= 0 || std::abs(nearest / wanted - 1) > (loop.repeats ? kFitsRepeated : kFitsAlone)) return {};
  return nearest * 60 / loop.seconds;
}

}  // namespace ochron
