#include "analysis/own_drum.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "analysis/mic_level.h"
#include "dsp/fft.h"

namespace ochron {
namespace {

constexpr std::size_t kSpectrumBands = 20;
constexpr double kLowestHz = 60;
constexpr double kHighestHz = 16'000;
using Spectrum = std::array<double, kSpectrumBands>;  // what an attack adds: power, then dB

/// The spectrum that an attack adds: 1024 samples (at 48 kHz) from just before it, less those before, mirrored so that
/// the fade falls alike.
class AddedSpectrum {
 public:
  AddedSpectrum(std::span<const float> samples, int rate)
      : samples_(samples), rate_(rate), fft_(rate > 64'000 ? 2048 : 1024) {
    for (int i = 0; i < fft_.size(); ++i)
      fade_.push_back(static_cast<float>(0.5 + 0.5 * std::cos(std::numbers::pi * i / fft_.size())));
  }
  Spectrum at(std::int64_t frame) {
    const auto after = powers(frame - rate_ / 2000, 1);
    const auto before = powers(frame - rate_ / 1000 - 1, -1);
    Spectrum out{};
    for (std::size_t b = 0; b < kSpectrumBands; ++b) out[b] = std::max(after[b] - before[b], 0.0);
    return out;
  }

 private:
  Spectrum powers(std::int64_t from, int direction) {
    for (int i = 0; i < fft_.size(); ++i) {
      const auto k = from + static_cast<std::int64_t>(i) * direction;
      fft_.time()[static_cast<std::size_t>(i)] =
          k >= 0 && k < std::ssize(samples_)
              ? samples_[static_cast<std::size_t>(k)] * fade_[static_cast<std::size_t>(i)]
              : 0.0F;
    }
    fft_.forward();
    Spectrum out{};
    const double perOctave = kSpectrumBands / std::log2(kHighestHz / kLowestHz);
    for (int k = 1; k <= fft_.size() / 2; ++k) {
      const double hz = static_cast<double>(k) * rate_ / fft_.size();
      const auto band = static_cast<std::int64_t>(std::floor(std::log2(hz / kLowestHz) * perOctave));
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

constexpr double kEmptyDb = -130;

/// Over the bands that hold anything: the lowest are narrower than a bin.
double correlation(const Spectrum& a, const Spectrum& b) {
  double n = 0, ma = 0, mb = 0;
  const auto holds = [&](std::size_t i) { return b[i] > kEmptyDb; };
  for (std::size_t i = 0; i < kSpectrumBands; ++i)
    if (holds(i)) n += 1, ma += a[i], mb += b[i];
  if (n < 2) return 0;
  ma /= n, mb /= n;
  double ab = 0, aa = 0, bb = 0;
  for (std::size_t i = 0; i < kSpectrumBands; ++i)
    if (holds(i)) ab += (a[i] - ma) * (b[i] - mb), aa += (a[i] - ma) * (a[i] - ma), bb += (b[i] - mb) * (b[i] - mb);
  return aa > 0 && bb > 0 ? ab / std::sqrt(aa * bb) : 0;
}

/// Of 100 Hz to 9 kHz: the least band and the mean.
std::pair<double, double> netOf(const Attack& a) {
  double least = 0, mean = 0;
  for (std::size_t b = 1; b <= 5; ++b) least = std::min(least, a.net[b]), mean += a.net[b] / 5;
  return {least, mean};
}

struct Own {
  Spectrum shape{};               // median of the sure strokes, dB
  std::vector<Spectrum> spectra;  // of every attack
  bool known = false;
};

constexpr double kLoudShare = 0.98;
constexpr double kFloorShare = 1e-5;
constexpr std::size_t kFewSure = 3;
constexpr std::size_t kMostSure = 200;

Own learnOwn(std::span<const float> samples, int rate, const std::vector<Attack>& attacks, double sureDb) {
  Own own;
  AddedSpectrum added(samples, rate);
  for (const auto& a : attacks) own.spectra.push_back(added.at(a.at));
  // In dB over a floor that lies as far under the band's loud attacks as in BandEnergy.
  for (std::size_t b = 0; b < kSpectrumBands; ++b) {
    std::vector<double> powers;
    for (const auto& s : own.spectra) powers.push_back(s[b]);
    const double floor = std::max(percentile(powers, kLoudShare) * kFloorShare, 1e-16);
    for (auto& s : own.spectra) s[b] = 10 * std::log10(s[b] + floor);
  }
  // The strokes that reach far in every band; when there are few of them, the strongest that there are.
  std::vector<std::size_t> order(attacks.size());
  for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
  std::sort(order.begin(), order.end(),
            [&](auto i, auto k) { return netOf(attacks[i]).second > netOf(attacks[k]).second; });
  std::vector<std::size_t> sure;
  for (const auto i : order)
    if (sure.size() < kMostSure && (sure.size() < kFewSure || netOf(attacks[i]).second >= sureDb)) sure.push_back(i);
  if (sure.empty()) return own;
  own.known = true;
  for (std::size_t b = 0; b < kSpectrumBands; ++b) {
    std::vector<double> levels;
    for (const auto i : sure) levels.push_back(own.spectra[i][b]);
    own.shape[b] = percentile(levels, 0.5);
  }
  return own;
}

double asOwnDrum(const Attack& a, const Spectrum& spectrum, const Own& own, const OwnDrumSettings& s) {
  std::vector<double> gains;
  for (std::size_t b = 0; b < kSpectrumBands; ++b)
    if (own.shape[b] > kEmptyDb) gains.push_back(spectrum[b] - own.shape[b]);
  constexpr double kLeastGain = -40, kGainScale = 80, kNetBeyondGainDb = 6;
  // The spectrum's window is longer than the net's: a stroke that follows must not speak for this attack.
  const double gain = std::min(percentile(gains, 0.25), netOf(a).second + kNetBeyondGainDb);
  const double alike = correlation(spectrum, own.shape) + std::max(gain, kLeastGain) / kGainScale - s.likeness;
  constexpr double kBodyScale = 20;
  return std::min(alike, (a.bodyRise - s.bodyRiseDb) / kBodyScale);
}

/// A window that opens before a stroke hears that stroke: of two attacks so near to each other that one explains the
/// other, the one with more new sound is the stroke.
void yieldToNeighbours(std::vector<double>& sure, const std::vector<Attack>& attacks, int rate,
                       const OwnDrumSettings& s) {
  const auto reach = static_cast<std::int64_t>(s.neighbourMs * rate / 1000);
  const auto judged = sure;
  for (std::size_t i = 0; i < attacks.size(); ++i) {
    const double own = netOf(attacks[i]).second;
    const auto beats = [&](std::size_t k) { return judged[k] > 0 && netOf(attacks[k]).second >= own + s.neighbourDb; };
    for (auto k = i; k-- > 0 && attacks[i].at - attacks[k].at <= reach;)
      if (beats(k)) sure[i] = -1;
    for (auto k = i + 1; k < attacks.size() && attacks[k].at - attacks[i].at <= reach; ++k)
      if (beats(k)) sure[i] = -1;
  }
}

}  // namespace

std::vector<double> judgeAttacks(std::span<const float> samples, int rate, const std::vector<Attack>& attacks,
                                 MicHears hears, bool several, const OwnDrumSettings& s) {
  std::vector<double> out;
  if (hears == MicHears::kick) {
    constexpr double kScaleDb = 25;
    for (const auto& a : attacks) {
      const auto [least, mean] = netOf(a);
      out.push_back(std::min(std::max(least - s.kickLeastDb, mean - s.kickMeanDb), a.rise - s.kickRiseDb) / kScaleDb);
    }
  } else if (hears == MicHears::snare || hears == MicHears::tom) {
    const auto own = learnOwn(samples, rate, attacks, s.sureDb);
    for (std::size_t i = 0; i < attacks.size(); ++i)
      out.push_back(own.known ? asOwnDrum(attacks[i], own.spectra[i], own, s) : -1);
  } else {
    constexpr double kScaleDb = 15, kMeanWeight = 1.3;
    for (const auto& a : attacks)
      out.push_back((std::min(a.rise, kMeanWeight * a.meanRise) - (several ? s.everythingSeveralDb : s.everythingDb)) /
                    kScaleDb);
  }
  for (auto& v : out) v = std::clamp(v, -1.0, 1.0);
  if (hears == MicHears::kick || hears == MicHears::snare || hears == MicHears::tom)
    yieldToNeighbours(out, attacks, rate, s);
  return out;
}

MicHears hearsBySound(std::span<const float> samples, int rate, const std::vector<Attack>& attacks) {
  constexpr double kLoudDb = -10, kAlike = 0.8;
  std::vector<const Attack*> loud;
  for (const auto& a : attacks)
    if (netOf(a).second >= kLoudDb) loud.push_back(&a);
  if (loud.size() < 4) return MicHears::everything;
  const auto own = learnOwn(samples, rate, attacks, kLoudDb);
  std::vector<double> likeness;
  double low = 0, high = 0;
  for (std::size_t i = 0; i < attacks.size(); ++i) {
    if (netOf(attacks[i]).second < kLoudDb) continue;
    likeness.push_back(correlation(own.spectra[i], own.shape));
  }
  for (std::size_t b = 0; b < kSpectrumBands; ++b)
    (b < 4 ? low : high) = std::max(b < 4 ? low : high, own.shape[b] + 120);
  if (percentile(likeness, 0.25) < kAlike) return MicHears::everything;
  return low > high + 3 ? MicHears::kick : MicHears::snare;
}

}  // namespace ochron
