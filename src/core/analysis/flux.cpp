#include "analysis/flux.h"

#include <algorithm>
#include <bit>
#include <cmath>

#include "dsp/fft.h"
#include "dsp/window.h"

namespace ochron {
namespace {

constexpr double kLowestHz = 40;
constexpr double kHighestHz = 16'000;
constexpr double kWindowSeconds = 0.0107;
constexpr double kHopSeconds = 0.0025;
constexpr int kLag = 2;                 // frames back: the difference spans 5 ms
constexpr float kCompression = 300.0f;  // log(1 + 300 x): -50 dB still counts

double edgeHz(double band) { return kLowestHz * std::pow(kHighestHz / kLowestHz, band / kFluxBands); }

struct BandMap {
  std::array<int, kFluxBands + 1> edge{};  // first bin of each band; neighbours share bins where bins are coarse
};

BandMap mapBands(int rate, int size) {
  BandMap m;
  for (int b = 0; b <= kFluxBands; ++b)
    m.edge[static_cast<std::size_t>(b)] =
        std::clamp(static_cast<int>(std::lround(edgeHz(b) * size / rate)), 0, size / 2);
  return m;
}

}  // namespace

FluxTrace traceFlux(std::span<const float> samples, int rate, double scale, Progress& progress, double progressFrom,
                    double progressTo) {
  FluxTrace trace;
  const int size = static_cast<int>(std::bit_ceil(static_cast<unsigned>(kWindowSeconds * rate * 0.75)));
  trace.hop = static_cast<int>(std::lround(kHopSeconds * rate));
  RealFft fft(size);
  auto window = hannWindow(size, 0.5);
  for (auto& w : window) w *= static_cast<float>(scale * 4.0 / size);
  const auto map = mapBands(rate, size);
  const auto count = samples.size() / static_cast<std::size_t>(trace.hop) + 1;
  trace.bands.resize(count);
  trace.flux.assign(count, 0.0f);
  std::vector<BandFrame> logs(count);
  const auto bins = fft.bins();
  std::array<float, 4096> power{};
  for (std::size_t n = 0; n < count; ++n) {
    if (n % 2048 == 0) {
      if (progress.cancelled()) return trace;
      progress.report(progressFrom + (progressTo - progressFrom) * static_cast<double>(n) / static_cast<double>(count));
    }
    // The window is centred on the frame's time.
    const auto first = static_cast<std::int64_t>(n) * trace.hop - size / 2;
    const auto time = fft.time();
    if (first >= 0 && first + size <= std::ssize(samples)) {
      for (int i = 0; i < size; ++i)
        time[static_cast<std::size_t>(i)] =
            samples[static_cast<std::size_t>(first + i)] * window[static_cast<std::size_t>(i)];
    } else {
      for (int i = 0; i < size; ++i) {
        const auto k = first + i;
        time[static_cast<std::size_t>(i)] = k >= 0 && k < std::ssize(samples) ? samples[static_cast<std::size_t>(k)] *
                                                                                    window[static_cast<std::size_t>(i)]
                                                                              : 0.0f;
      }
    }
    fft.forward();
    for (int k = 0; k <= size / 2; ++k)
      power[static_cast<std::size_t>(k)] = std::norm(bins[static_cast<std::size_t>(k)]);
    for (int b = 0; b < kFluxBands; ++b) {
      const auto lo = map.edge[static_cast<std::size_t>(b)];
      const auto hi = std::max(lo + 1, map.edge[static_cast<std::size_t>(b) + 1]);
      float sum = 0;
      for (int k = lo; k < hi; ++k) sum += power[static_cast<std::size_t>(k)];
      const float magnitude = std::sqrt(sum);
      trace.bands[n][static_cast<std::size_t>(b)] = magnitude;
      logs[n][static_cast<std::size_t>(b)] = std::log(1.0f + kCompression * magnitude);
    }
    if (n < kLag) continue;
    const auto& before = logs[n - kLag];
    float flux = 0;
    for (std::size_t b = 0; b < kFluxBands; ++b) {
      const float widest =
          std::max({before[b > 0 ? b - 1 : 0], before[b], before[std::min<std::size_t>(b + 1, kFluxBands - 1)]});
      flux += std::max(0.0f, logs[n][b] - widest);
    }
    trace.flux[n] = flux / kFluxBands;
  }
  return trace;
}

}  // namespace ochron
