#include "analysis/tempo/onset_curves.h"

#include <algorithm>
#include <cmath>

#include "base/hop.h"
#include "dsp/fft.h"
#include "dsp/window.h"

namespace ochron {
namespace {

constexpr double kLogGain = 1000;   // ln(1 + 1000 |X|), a full-scale sine being 1
constexpr double kMeanSeconds = 1;  // what a curve lies over is the mean of so long
constexpr double kStrong = 0.98;    // the percentile that is called 1
constexpr double kMostOfBand = 1.5;
constexpr std::array<double, kOnsetBands> kWeights{1.5, 1, 1, 1, 0.5};
constexpr double kAroundSeconds = 10;   // loudness of the curve is taken against so much around it
constexpr double kLeastOfWhole = 0.35;  // and never against less than this share of the whole's
constexpr double kStrongest = 0.99;

/// A power of two of at least so many seconds.
int windowOf(double seconds, int rate) {
  int size = 64;
  while (size < seconds * rate * 0.75) size *= 2;
  return size;
}

/// Short-time spectra around places of a signal.
class Spectrum {
 public:
  Spectrum(std::span<const float> samples, int size, float gain)
      : samples_(samples), fft_(size), window_(hannWindow(size, 0.5)), gain_(gain * 4.0F / static_cast<float>(size)) {}
  /// Magnitudes of the bins [from, to), at their places in `out`; a full-scale sine is 1.
  void at(std::int64_t centre, std::size_t from, std::size_t to, std::vector<float>& out) {
    const auto size = fft_.size();
    const auto time = fft_.time();
    const auto first = centre - size / 2;
    for (int i = 0; i < size; ++i) {
      const auto k = first + i;
      time[static_cast<std::size_t>(i)] = k < 0 || k >= std::ssize(samples_) ? 0.0F
                                                                             : samples_[static_cast<std::size_t>(k)] *
                                                                                   window_[static_cast<std::size_t>(i)];
    }
    fft_.forward();
    const auto bins = fft_.bins();
    out.resize(bins.size());
    for (auto b = from; b < std::min(to, bins.size()); ++b)
      out[b] = std::sqrt(bins[b].real() * bins[b].real() + bins[b].imag() * bins[b].imag()) * gain_;
  }

 private:
  std::span<const float> samples_;
  RealFft fft_;
  std::vector<float> window_;
  float gain_;
};

/// The value that a share of what is above zero does not exceed.
float percentileAbove0(std::vector<float> values, double share) {
  std::erase_if(values, [](float v) { return v <= 0; });
  if (values.empty()) return 0;
  const auto at = values.begin() + static_cast<std::ptrdiff_t>(share * static_cast<double>(values.size() - 1));
  std::nth_element(values.begin(), at, values.end());
  return *at;
}

/// The mean of each value's surroundings of so many values.
std::vector<double> meanAround(const std::vector<double>& values, std::int64_t wide) {
  std::vector<double> sums(values.size() + 1, 0.0);
  for (std::size_t i = 0; i < values.size(); ++i) sums[i + 1] = sums[i] + values[i];
  std::vector<double> out(values.size());
  const auto n = std::ssize(values);
  for (std::int64_t i = 0; i < n; ++i) {
    const auto a = std::max<std::int64_t>(0, i - wide / 2);
    const auto b = std::min(n, i + wide / 2 + 1);
    out[static_cast<std::size_t>(i)] =
        (sums[static_cast<std::size_t>(b)] - sums[static_cast<std::size_t>(a)]) / static_cast<double>(b - a);
  }
  return out;
}

/// Rises of a log spectrum against two frames ago, in some bands.
void addFlux(std::span<const float> samples, int rate, int size, float gain, std::size_t firstBand,
             std::size_t lastBand, OnsetCurves& out) {
  Spectrum spectrum(samples, size, gain);
  const auto count = out.activation.size();
  const Hop hop(static_cast<std::int64_t>(OnsetCurves::kPerSecond), rate);
  const auto bins = static_cast<std::size_t>(size) / 2 + 1;
  const auto binOf = [&](double hz) { return static_cast<std::size_t>(hz * size / rate); };
  // A bin beside the bands is looked at, too.
  const auto first = std::max<std::size_t>(1, binOf(kOnsetBandEdges[firstBand])) - 1;
  const auto last = std::min(binOf(kOnsetBandEdges[lastBand]) + 2, bins);
  std::array<std::vector<float>, 3> logs;
  logs.fill(std::vector<float>(bins, 0.0F));
  std::vector<float> now;
  for (std::size_t t = 0; t < count; ++t) {
    spectrum.at(hop.frame(static_cast<std::int64_t>(t)), first, last, now);
    auto& log = logs[t % 3];
    for (auto b = first; b < last; ++b) log[b] = std::log1p(static_cast<float>(kLogGain) * now[b]);
    const auto& before = logs[(t + 1) % 3];
    for (auto band = firstBand; band < lastBand; ++band) {
      const auto from = std::max<std::size_t>(1, binOf(kOnsetBandEdges[band]));
      const auto to = std::min(binOf(kOnsetBandEdges[band + 1]) + 1, bins - 1);
      float sum = 0;
      for (auto b = from; b < to; ++b)
        sum += std::max(0.0F, log[b] - std::max({before[b - 1], before[b], before[b + 1]}));
      out.bands[band][t] = to > from ? sum / static_cast<float>(to - from) : 0.0F;
    }
  }
}

void levelBand(std::vector<float>& band) {
  const auto mean =
      meanAround({band.begin(), band.end()}, static_cast<std::int64_t>(kMeanSeconds * OnsetCurves::kPerSecond));
  for (std::size_t i = 0; i < band.size(); ++i) band[i] = std::max(0.0F, band[i] - static_cast<float>(mean[i]));
  const float strong = percentileAbove0(band, kStrong);
  if (strong <= 0) return;
  for (auto& v : band) v = std::min(static_cast<float>(kMostOfBand), v / strong);
}

}  // namespace

OnsetCurves onsetCurves(std::span<const float> samples, int rate) {
  OnsetCurves out;
  const auto count = static_cast<std::size_t>(static_cast<double>(samples.size()) / rate * OnsetCurves::kPerSecond) + 1;
  out.activation.assign(count, 0.0F);
  for (auto& b : out.bands) b.assign(count, 0.0F);
  float peak = 0;
  for (const float s : samples) peak = std::max(peak, std::abs(s));
  if (peak <= 0) return out;
  constexpr std::size_t kLowBands = 2;
  addFlux(samples, rate, windowOf(0.0427, rate), 1 / peak, 0, kLowBands, out);
  addFlux(samples, rate, windowOf(0.0213, rate), 1 / peak, kLowBands, kOnsetBands, out);
  for (auto& b : out.bands) levelBand(b);
  std::vector<double> sum(count, 0.0);
  std::vector<double> squares(count, 0.0);
  double whole = 0;
  for (std::size_t t = 0; t < count; ++t) {
    for (std::size_t b = 0; b < kOnsetBands; ++b) sum[t] += kWeights[b] * static_cast<double>(out.bands[b][t]);
    squares[t] = sum[t] * sum[t];
    whole += squares[t] / static_cast<double>(count);
  }
  const auto around = meanAround(squares, static_cast<std::int64_t>(kAroundSeconds * OnsetCurves::kPerSecond));
  for (std::size_t t = 0; t < count; ++t) {
    const double loud = std::max(std::sqrt(around[t]), kLeastOfWhole * std::sqrt(whole));
    out.activation[t] = loud > 0 ? static_cast<float>(sum[t] / loud) : 0.0F;
  }
  const float strongest = percentileAbove0(out.activation, kStrongest);
  if (strongest > 0)
    for (auto& v : out.activation) v = std::min(1.0F, v / strongest);
  return out;
}

double Chroma::tonal() const {
  double sum = 0;
  int n = 0;
  for (auto frame : frames) {
    std::sort(frame.begin(), frame.end());
    if (frame.back() <= 0) continue;
    sum += static_cast<double>(frame.back() - frame[frame.size() / 2]);
    ++n;
  }
  return n > 0 ? sum / n : 0;
}

Chroma chromaOf(std::span<const float> samples, int rate) {
  constexpr double kLowest = 65;
  constexpr double kHighest = 2000;
  constexpr double kC0 = 16.3516;
  const int size = windowOf(0.17, rate);
  Spectrum spectrum(samples, size, 1);
  const int hop = size / 4;
  Chroma out;
  out.perSecond = static_cast<double>(rate) / hop;
  const auto first = static_cast<std::size_t>(kLowest * size / rate);
  const auto last = std::min(static_cast<std::size_t>(kHighest * size / rate), static_cast<std::size_t>(size) / 2) + 1;
  std::vector<std::size_t> classOf(last);
  for (auto b = std::max<std::size_t>(1, first); b < last; ++b)
    classOf[b] =
        static_cast<std::size_t>(std::llround(12 * std::log2(static_cast<double>(b) * rate / size / kC0))) % 12;
  std::vector<float> now;
  for (std::int64_t at = 0; at < std::ssize(samples); at += hop) {
    spectrum.at(at, first, last, now);
    std::array<float, 12> frame{};
    for (auto b = first; b < last; ++b) frame[classOf[b]] += now[b];
    double squares = 0;
    for (const float v : frame) squares += static_cast<double>(v) * v;
    if (squares > 1e-10)
      for (auto& v : frame) v /= static_cast<float>(std::sqrt(squares));
    out.frames.push_back(frame);
  }
  return out;
}

}  // namespace ochron
