#include "analysis/levels/tonal_bands.h"

#include <algorithm>
#include <bit>
#include <cmath>

#include "dsp/fft.h"
#include "dsp/window.h"

namespace ochron {
namespace {

constexpr double kLowestToneHz = 60;
constexpr double kHighestToneHz = 6'000;
constexpr double kBandsPerOctave = 24;
constexpr double kStrongShare = 0.95;

/// A band's triangle over the bins.
struct Triangle {
  std::size_t first = 0;
  std::vector<float> weights;
};

std::vector<Triangle> triangles(int rate, int size) {
  const double binHz = static_cast<double>(rate) / size;
  const double step = std::exp2(1 / kBandsPerOctave);
  std::vector<Triangle> out;
  for (double hz = kLowestToneHz; hz <= kHighestToneHz * 1.0001 && hz < rate / 2.0 - binHz; hz *= step) {
    const double width = std::max(binHz, hz * (step - 1));
    Triangle t;
    t.first = static_cast<std::size_t>(std::ceil((hz - width) / binHz));
    double sum = 0;
    for (auto k = t.first; static_cast<double>(k) * binHz < hz + width; ++k) {
      t.weights.push_back(static_cast<float>(std::max(0.0, 1 - std::abs(static_cast<double>(k) * binHz - hz) / width)));
      sum += t.weights.back();
    }
    for (auto& w : t.weights) w /= static_cast<float>(sum);
    out.push_back(std::move(t));
  }
  return out;
}

}  // namespace

TonalBands::TonalBands(std::span<const float> samples, int rate, double windowSeconds) : hop_(kPerSecond, rate) {
  const int size = static_cast<int>(std::bit_ceil(static_cast<unsigned>(windowSeconds * rate)));
  const auto filters = triangles(rate, size);
  bands_ = filters.size();
  RealFft fft(size);
  const auto window = hannWindow(size, 0.5);
  std::vector<float> magnitudes(static_cast<std::size_t>(size / 2 + 1));
  std::vector<float> strongest;
  const auto used = filters.empty() ? 0 : filters.back().first + filters.back().weights.size();
  const auto length = std::ssize(samples);
  const auto time = fft.time();
  const auto bins = fft.bins();
  const auto count = hop_.count(length);
  values_.reserve(static_cast<std::size_t>(count) * bands_);
  for (std::int64_t n = 0; n < count; ++n) {
    const auto from = hop_.frame(n) - size / 2;
    const auto begin = std::clamp<std::int64_t>(-from, 0, size);
    const auto end = std::clamp<std::int64_t>(length - from, begin, size);
    std::fill(time.begin(), time.end(), 0.0F);
    for (auto i = begin; i < end; ++i)
      time[static_cast<std::size_t>(i)] =
          samples[static_cast<std::size_t>(from + i)] * window[static_cast<std::size_t>(i)];
    fft.forward();
    for (std::size_t k = 0; k < used; ++k) magnitudes[k] = std::sqrt(std::norm(bins[k]));
    float most = 0;
    for (const auto& f : filters) {
      float sum = 0;
      for (std::size_t i = 0; i < f.weights.size(); ++i) sum += f.weights[i] * magnitudes[f.first + i];
      values_.push_back(std::sqrt(sum));
      most = std::max(most, values_.back());
    }
    strongest.push_back(most);
  }
  if (strongest.empty()) return;
  const auto at =
      strongest.begin() + static_cast<std::ptrdiff_t>(kStrongShare * static_cast<double>(strongest.size() - 1));
  std::nth_element(strongest.begin(), at, strongest.end());
  loud_ = *at;
}

std::size_t TonalBands::bandsBelow(double hertz) const {
  if (hertz <= kLowestToneHz) return 0;
  return std::min(bands_, static_cast<std::size_t>(std::ceil(kBandsPerOctave * std::log2(hertz / kLowestToneHz))));
}

}  // namespace ochron
