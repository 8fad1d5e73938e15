#include "analysis/levels/flux.h"

#include <algorithm>
#include <bit>
#include <cmath>

#include "dsp/fft.h"
#include "dsp/window.h"

namespace ochron {
namespace {

constexpr double kLowestHz = 40;
constexpr double kHighestHz = 16'000;
constexpr int kFluxPerSecond = 400;
constexpr int kLag = 2;                 // frames back: the difference spans 5 ms
constexpr float kCompression = 300.0f;  // log(1 + 300 x): -50 dB still counts

struct BandMap {
  std::array<int, kFluxBands + 1> edge{};  // first bin of each band; neighbours share bins where bins are coarse
};

BandMap mapBands(int rate, int size) {
  BandMap m;
  for (std::size_t b = 0; b <= kFluxBands; ++b)
    m.edge[b] = std::clamp(static_cast<int>(std::lround(fluxBandEdge(b) * size / rate)), 0, size / 2);
  return m;
}

}  // namespace

double fluxBandEdge(std::size_t band) {
  return kLowestHz * std::pow(kHighestHz / kLowestHz, static_cast<double>(band) / kFluxBands);
}

BandTrace traceBands(std::span<const float> samples, int rate, double windowSeconds, double scale, Progress& progress,
                     ProgressPart part) {
  BandTrace trace{Hop(kFluxPerSecond, rate), {}};
  const int size = static_cast<int>(std::bit_ceil(static_cast<unsigned>(windowSeconds * rate * 0.75)));
  RealFft fft(size);
  auto window = hannWindow(size, 0.5);
  for (auto& w : window) w *= static_cast<float>(scale * 4.0 / size);
  const auto map = mapBands(rate, size);
  const auto length = std::ssize(samples);
  const auto count = trace.hop.count(length) + 1;
  trace.bands.resize(static_cast<std::size_t>(count));
  const auto bins = fft.bins();
  const auto time = fft.time();
  for (std::int64_t n = 0; n < count; ++n) {
    if (n % 2048 == 0) {
      if (progress.cancelled()) return trace;
      progress.report(part.from + (part.to - part.from) * static_cast<double>(n) / static_cast<double>(count));
    }
    const auto first = trace.hop.frame(n) - size / 2;
    const auto begin = std::clamp<std::int64_t>(-first, 0, size);
    const auto end = std::clamp<std::int64_t>(length - first, begin, size);
    std::fill(time.begin(), time.end(), 0.0F);
    for (auto i = begin; i < end; ++i)
      time[static_cast<std::size_t>(i)] =
          samples[static_cast<std::size_t>(first + i)] * window[static_cast<std::size_t>(i)];
    fft.forward();
    auto& frame = trace.bands[static_cast<std::size_t>(n)];
    for (std::size_t b = 0; b < kFluxBands; ++b) {
      const auto low = map.edge[b];
      const auto high = std::min(size / 2 + 1, std::max(low + 1, map.edge[b + 1]));
      float sum = 0;
      for (int k = low; k < high; ++k) sum += std::norm(bins[static_cast<std::size_t>(k)]);
      frame[b] = std::sqrt(sum);
    }
  }
  return trace;
}

FluxTrace traceFlux(std::span<const float> samples, int rate, double scale, Progress& progress, ProgressPart part) {
  FluxTrace trace{traceBands(samples, rate, kFluxWindow, scale, progress, part), {}};
  const auto count = trace.bands.size();
  trace.flux.assign(count, 0.0f);
  if (progress.cancelled()) return trace;
  std::array<BandFrame, kLag + 1> logs{};  // of the last frames
  for (std::size_t n = 0; n < count; ++n) {
    auto& now = logs[n % logs.size()];
    for (std::size_t b = 0; b < kFluxBands; ++b) now[b] = std::log(1.0f + kCompression * trace.bands[n][b]);
    if (n < kLag) continue;
    const auto& before = logs[(n - kLag) % logs.size()];
    float flux = 0;
    for (std::size_t b = 0; b < kFluxBands; ++b) {
      const float widest =
          std::max({before[b > 0 ? b - 1 : 0], before[b], before[std::min<std::size_t>(b + 1, kFluxBands - 1)]});
      flux += std::max(0.0f, now[b] - widest);
    }
    trace.flux[n] = flux / kFluxBands;
  }
  return trace;
}

}  // namespace ochron
