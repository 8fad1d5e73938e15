#include "analysis/levels/added_spectrum.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "analysis/levels/mic_level.h"
#include "dsp/fft.h"

namespace ochron {
namespace {

constexpr auto kSpectrumBands = std::tuple_size_v<DrumSpectrum>;
constexpr double kFromHz = 60;
constexpr double kToHz = 16'000;
constexpr double kLoudestShare = 0.98;
constexpr double kFloorShare = 1e-5;

class AddedSpectrum {
 public:
  AddedSpectrum(std::span<const float> samples, int rate)
      : samples_(samples), rate_(rate), fft_(rate > 64'000 ? 2048 : 1024) {
    for (int i = 0; i < fft_.size(); ++i)
      fade_.push_back(static_cast<float>(0.5 + 0.5 * std::cos(std::numbers::pi * i / fft_.size())));
  }
  DrumSpectrum at(std::int64_t frame) {
    const auto after = powers(frame - rate_ / 2000, 1);
    const auto before = powers(frame - rate_ / 1000 - 1, -1);
    DrumSpectrum out{};
    for (std::size_t b = 0; b < kSpectrumBands; ++b) out[b] = std::max(after[b] - before[b], 0.0);
    return out;
  }

 private:
  DrumSpectrum powers(std::int64_t from, int direction) {
    for (int i = 0; i < fft_.size(); ++i) {
      const auto k = from + static_cast<std::int64_t>(i) * direction;
      fft_.time()[static_cast<std::size_t>(i)] =
          k >= 0 && k < std::ssize(samples_)
              ? samples_[static_cast<std::size_t>(k)] * fade_[static_cast<std::size_t>(i)]
              : 0.0F;
    }
    fft_.forward();
    DrumSpectrum out{};
    const double perOctave = kSpectrumBands / std::log2(kToHz / kFromHz);
    for (int k = 1; k <= fft_.size() / 2; ++k) {
      const double hz = static_cast<double>(k) * rate_ / fft_.size();
      const auto band = static_cast<std::int64_t>(std::floor(std::log2(hz / kFromHz) * perOctave));
      if (band < 0 || band >= static_cast<std::int64_t>(kSpectrumBands)) continue;
      out[static_cast<std::size_t>(band)] += std::norm(fft_.bins()[static_cast<std::size_t>(k)]);
    }
    return out;
  }
  std::span<const float> samples_;
  int rate_;
  RealFft fft_;
  std::vector<float> fade_;
};

}  // namespace

std::vector<DrumSpectrum> addedSpectraDb(std::span<const float> samples, int rate,
                                         const std::vector<std::int64_t>& at) {
  AddedSpectrum added(samples, rate);
  std::vector<DrumSpectrum> out;
  out.reserve(at.size());
  for (const auto frame : at) out.push_back(added.at(frame));
  for (std::size_t b = 0; b < kSpectrumBands; ++b) {
    std::vector<double> powers;
    powers.reserve(out.size());
    for (const auto& s : out) powers.push_back(s[b]);
    const double floor = std::max(percentile(powers, kLoudestShare) * kFloorShare, 1e-16);
    for (auto& s : out) s[b] = 10 * std::log10(s[b] + floor);
  }
  return out;
}

DrumSpectrum medianSpectrum(const std::vector<DrumSpectrum>& spectra) {
  DrumSpectrum out{};
  for (std::size_t b = 0; b < out.size(); ++b) {
    std::vector<double> levels;
    levels.reserve(spectra.size());
    for (const auto& s : spectra) levels.push_back(s[b]);
    out[b] = percentile(std::move(levels), 0.5);
  }
  return out;
}

double likeness(const DrumSpectrum& a, const DrumSpectrum& b) {
  double n = 0, ma = 0, mb = 0;
  const auto holds = [&](std::size_t i) { return b[i] > kEmptyBandDb; };
  for (std::size_t i = 0; i < kSpectrumBands; ++i)
    if (holds(i)) {
      n += 1;
      ma += a[i];
      mb += b[i];
    }
  if (n < 2) return 0;
  ma /= n;
  mb /= n;
  double ab = 0, aa = 0, bb = 0;
  for (std::size_t i = 0; i < kSpectrumBands; ++i)
    if (holds(i)) {
      ab += (a[i] - ma) * (b[i] - mb);
      aa += (a[i] - ma) * (a[i] - ma);
      bb += (b[i] - mb) * (b[i] - mb);
    }
  return aa > 0 && bb > 0 ? ab / std::sqrt(aa * bb) : 0;
}

}  // namespace ochron
