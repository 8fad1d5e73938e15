#include "analysis/drums/own_drum.h"

#include <algorithm>
#include <cmath>

#include "analysis/drums/own_shape.h"
#include "analysis/drums/snare_clues.h"
#include "analysis/levels/added_spectrum.h"
#include "base/numbers.h"

namespace ochron {
namespace {

/// Of 100 Hz to 9 kHz: the least band and the mean.
std::pair<double, double> netOf(const Attack& a) {
  double least = 0, mean = 0;
  for (std::size_t b = 1; b <= 5; ++b) {
    least = std::min(least, a.net[b]);
    mean += a.net[b] / 5;
  }
  return {least, mean};
}

constexpr std::size_t kFewKicks = 3;
constexpr double kNoSound = 1e-6;

constexpr double kLeastGain = -40;

/// How surely an attack is the mic's snare, by its likeness to it.
double asOwnSnare(const Attack& a, std::size_t i, const OwnShape& own, const OwnDrumSettings& s) {
  constexpr double kGainScale = 80, kNetBeyondGainDb = 6, kBodyScale = 20;
  // The spectrum's window is longer than the net's: a stroke that follows must not speak for this attack.
  const double gain = std::min(own.gainDb(i), netOf(a).second + kNetBeyondGainDb);
  const double alike = likeness(own.spectra[i], own.shape) + std::max(gain, kLeastGain) / kGainScale - s.likeness;
  return std::min(alike, (a.bodyRise - s.bodyRiseDb) / kBodyScale);
}

/// How surely an attack is the mic's tom: a regression over takes with a mic at each tom, struck all the time or in
/// fills alone (docs/figures.md). What is no tom by its sound and softer than the mic's own is bleed, however often.
double asOwnTom(std::size_t i, const OwnShape& own, const OwnDrumSettings& s) {
  return s.tomBase + s.tomAlike * likeness(own.spectra[i], own.shape) + s.tomSounds * own.asDrum[i] +
         s.tomGain * std::max(own.gainDb(i), kLeastGain);
}

/// How deep an attack is against its other bands, dB: what of it lies below 250 Hz.
double depthOf(const Attack& a) { return std::max(a.net[0], a.net[1]) - netOf(a).second; }

/// A kick reaches far in every band. What does so and is faint is a kick if it is as deep as the loud ones, which are
/// within 1 dB of each other; a snare or a tom that the mic hears is 2 dB less deep, and more.
std::vector<double> asKicks(const std::vector<Attack>& attacks, const MicLevel& level, const OwnDrumSettings& s) {
  constexpr double kScaleDb = 25, kLoud = 0.5;
  std::vector<double> out;
  std::vector<double> depths;
  for (const auto& a : attacks) {
    const auto [least, mean] = netOf(a);
    out.push_back(std::min(std::max(least - s.kickLeastDb, mean - s.kickMeanDb), a.rise - s.kickRiseDb) / kScaleDb);
    if (out.back() > 0 && level.at(a.at) >= kLoud) depths.push_back(depthOf(a));
  }
  if (depths.size() < kFewKicks) return out;
  const double deep = percentile(std::move(depths), 0.5) - s.kickDeepDb;
  for (std::size_t i = 0; i < attacks.size(); ++i) {
    const double loud = 2 * decibelsOf(level.at(attacks[i].at) + kNoSound);
    out[i] = std::min(out[i], std::max(depthOf(attacks[i]) - deep, loud - s.kickSureDb) / kScaleDb);
  }
  return out;
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

std::vector<double> judgeAttacks(std::span<const float> samples, const MicLevel& level,
                                 const std::vector<Attack>& attacks, MicHears hears, bool several,
                                 const OwnDrumSettings& s) {
  const int rate = level.rate;
  std::vector<double> out;
  if (hears == MicHears::kick) {
    out = asKicks(attacks, level, s);
  } else if (hears == MicHears::snare || hears == MicHears::tom) {
    const auto drum = hears == MicHears::snare ? DrumClass::snare : DrumClass::tom;
    const auto own = learnOwnShape(samples, level, attacks, drum);
    for (std::size_t i = 0; i < attacks.size(); ++i)
      out.push_back(!own.known                 ? -1
                    : hears == MicHears::snare ? asOwnSnare(attacks[i], i, own, s)
                                               : asOwnTom(i, own, s));
    if (hears == MicHears::snare && s.byClues) {
      const auto clues = snareClues(attacks, level, out);
      for (std::size_t i = 0; i < clues.size(); ++i)
        if (out[i] > s.doubt) out[i] = sureBy(clues[i]) + (several ? s.severalMore : 0);
    }
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
  std::vector<std::int64_t> at;
  for (const auto* a : loud) at.push_back(a->at);
  const auto spectra = addedSpectraDb(samples, rate, at);
  const auto shape = medianSpectrum(spectra);
  std::vector<double> alike;
  for (const auto& spectrum : spectra) alike.push_back(likeness(spectrum, shape));
  double low = 0, high = 0;
  for (std::size_t b = 0; b < shape.size(); ++b) (b < 4 ? low : high) = std::max(b < 4 ? low : high, shape[b] + 120);
  if (percentile(alike, 0.25) < kAlike) return MicHears::everything;
  return low > high + 3 ? MicHears::kick : MicHears::snare;
}

}  // namespace ochron
