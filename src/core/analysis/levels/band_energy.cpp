#include "analysis/levels/band_energy.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/denormals.h"
#include "base/numbers.h"

namespace ochron {
namespace {

constexpr std::size_t kLanes = 8;  // seven bands and an idle one, so that they are computed side by side
using Lanes = std::array<double, kLanes>;

/// Second-order sections, one a lane (Robert Bristow-Johnson's cookbook, Q of Butterworth), transposed direct form II.
struct Sections {
  Lanes b0{}, b1{}, b2{}, a1{}, a2{}, s1{}, s2{};

  void set(std::size_t lane, double hz, int rate, bool high) {
    const double w = 2 * std::numbers::pi * hz / rate;
    const double alpha = std::sin(w) / std::numbers::sqrt2;
    const double c = std::cos(w);
    const double a0 = 1 + alpha;
    const double edge = (high ? 1 + c : 1 - c) / 2 / a0;
    b0[lane] = edge;
    b1[lane] = (high ? -2 : 2) * edge;
    b2[lane] = edge;
    a1[lane] = -2 * c / a0;
    a2[lane] = (1 - alpha) / a0;
  }
  [[gnu::always_inline]] void run(Lanes& x) {
    for (std::size_t i = 0; i < kLanes; ++i) {
      const double y = b0[i] * x[i] + s1[i];
      s1[i] = b1[i] * x[i] - a1[i] * y + s2[i];
      s2[i] = b2[i] * x[i] - a2[i] * y;
      x[i] = y;
    }
  }
};

/// The power of each band in a run of samples, added to `power`.
struct BandFilters {
  Sections high;
  Sections low;

  [[gnu::always_inline]] void filter(std::span<const float> samples, Lanes& power) {
    Lanes sum = power;
    for (const float s : samples) {
      Lanes x;
      x.fill(static_cast<double>(s));
      high.run(x);
      low.run(x);
      for (std::size_t b = 0; b < kLanes; ++b) sum[b] += x[b] * x[b];
    }
    power = sum;
  }
};

using FilterRun = void (*)(BandFilters&, std::span<const float>, Lanes&);

void filterRun(BandFilters& filters, std::span<const float> samples, Lanes& power) { filters.filter(samples, power); }

#if defined(__x86_64__)
/// The same to the bit in registers twice as wide, of processors that have them.
[[gnu::target("avx2")]] void filterRunWide(BandFilters& filters, std::span<const float> samples, Lanes& power) {
  filters.filter(samples, power);
}
FilterRun chosenRun() { return __builtin_cpu_supports("avx2") ? filterRunWide : filterRun; }
#else
FilterRun chosenRun() { return filterRun; }
#endif

constexpr double kHighestOfRate = 0.45;
constexpr std::int64_t kLoudSteps = 40;  // 10 ms
constexpr double kLoudShare = 0.99;
constexpr std::int64_t kReportEvery = 1 << 12;  // steps

}  // namespace

BandEnergy::BandEnergy(std::span<const float> samples, int rate, Progress& progress, double from, double to)
    : hop_(static_cast<std::int64_t>(1000 * kStepsPerMs), rate) {
  BandFilters filters;
  std::size_t bands = 0;
  for (std::size_t b = 0; b < kBands; ++b) {
    const double top = std::min(kEdgesHz[b + 1], kHighestOfRate * rate);
    if (kEdgesHz[b] >= top) break;
    filters.high.set(b, kEdgesHz[b], rate, true);
    filters.low.set(b, top, rate, false);
    ++bands;
  }
  const auto length = std::ssize(samples);
  sums_.reserve(static_cast<std::size_t>(hop_.count(length)) + 2);
  sums_.push_back({});
  const FlushDenormals flush;
  const auto run = chosenRun();
  for (std::int64_t at = 0; at < length;) {
    if (steps() % kReportEvery == 0) {
      if (progress.cancelled()) break;
      progress.report(from + (to - from) * static_cast<double>(at) / static_cast<double>(length));
    }
    const auto end = std::clamp(hop_.frame(steps() + 1), at, length);
    // Below 4 kHz a step may hold no frame: it has its neighbour's power.
    if (end == at) {
      sums_.push_back(sums_.back());
      continue;
    }
    Lanes power{};
    run(filters, samples.subspan(static_cast<std::size_t>(at), static_cast<std::size_t>(end - at)), power);
    Sums s = sums_.back();
    for (std::size_t b = 0; b < bands; ++b) s[b] += power[b] / static_cast<double>(end - at);
    sums_.push_back(s);
    at = end;
  }
  for (std::size_t b = 0; b < bands; ++b) {
    std::vector<double> means;
    for (std::int64_t s = 0; s + kLoudSteps <= steps(); s += kLoudSteps) means.push_back(mean(b, s, s + kLoudSteps));
    if (means.empty()) continue;
    const auto at = means.begin() + static_cast<std::ptrdiff_t>(kLoudShare * static_cast<double>(means.size() - 1));
    std::nth_element(means.begin(), at, means.end());
    loud_[b] = *at;
  }
}

double BandEnergy::mean(std::size_t band, std::int64_t from, std::int64_t to) const {
  from = std::clamp<std::int64_t>(from, 0, steps());
  to = std::clamp<std::int64_t>(to, 0, steps());
  if (to <= from) return 0;
  return std::max(0.0, (sums_[static_cast<std::size_t>(to)][band] - sums_[static_cast<std::size_t>(from)][band]) /
                           static_cast<double>(to - from));
}

double BandEnergy::addedDb(std::int64_t step) const {
  const auto reach = static_cast<std::int64_t>(10 * kStepsPerMs);
  double added = 0;
  double all = kLeast;
  for (std::size_t b = 0; b < kBands; ++b) {
    added += std::max(0.0, mean(b, step, step + reach) - mean(b, step - reach, step));
    all += mean(b, 0, steps());
  }
  return decibelsOf(added / all + 1e-9);
}

std::int64_t BandEnergy::stepOf(std::int64_t frame) const { return hop_.stepAt(frame); }
std::int64_t BandEnergy::frameOf(std::int64_t step) const { return hop_.frame(step); }

}  // namespace ochron
