#include "analysis/drums/mic_strokes.h"

#include <algorithm>
#include <cmath>

#include "base/units.h"

#include "analysis/drums/one_mic_drums.h"
#include "analysis/hits/attacks.h"
#include "analysis/hits/mix_strokes.h"
#include "analysis/hits/onset_kinds.h"
#include "analysis/hits/soft_onsets.h"
#include "analysis/hits/soft_strokes.h"
#include "analysis/levels/localise.h"
#include "analysis/levels/mic_level.h"

namespace ochron {
namespace {

constexpr double kLeastSure = -1;     // at a claim of 20^-2: below, nothing is reported
constexpr double kLoudStroke = 0.35;  // of the reference: tells how a mic rings
constexpr double kSharpRiseDb = 6;
constexpr std::size_t kFewSharp = 4;
constexpr double kSureMiddle = -0.04;
constexpr double kAfterMs = 50, kAfterToMs = 135;
constexpr double kBeforeNextMs = 25;  // a swell begins before the place that was found
constexpr double kLeastAfterMs = 15;
constexpr double kLeastAfter = 0.0063;  // of the power after the louder strokes, -22 dB
constexpr double kNothingAfter = -0.1;  // shown at a higher sensitivity only
constexpr double kWeakStroke = 0.3;     // such stand among bleed that is hardly weaker
constexpr double kSoftBeginningMs = 1;  // a soft beginning is so much before the beat that was found
constexpr double kLongestBeginningMs = 6;
constexpr double kKickBegins = 3;     // factor of power; most of a kick's own lies below what is asked about
constexpr double kBleedBeforeMs = 2;  // what sounds longer before the body is another drum
constexpr double kPeakMs = 20;        // after a kick's beginning
constexpr double kBeginningMs = 2;
constexpr double kLoudKick = 0.5;
constexpr float kMostBeginning =
    0.18F;  // of its peak, -15 dB; 11 of 1 107 kicks have less, for 10 it is another drum's
constexpr float kOfUsualBeginning = 0.6F;
constexpr double kFaintest =
    0.01;  // 40 dB under a loud stroke: fainter ones soon count for nothing (ends of sounds, hiss)

bool isSoft(const MicLevel& level, const std::vector<Attack>& attacks) {
  std::vector<std::int64_t> sharp;
  std::vector<std::int64_t> swells;
  for (const auto& a : attacks)
    if (level.at(a.at) >= kLoudStroke) (a.rise >= kSharpRiseDb ? sharp : swells).push_back(a.at * 1000 / level.rate);
  if (sharp.size() < kFewSharp) sharp = std::move(swells);
  return soundsOn(level.peaks, sharp);
}

double powerIn(std::span<const float> samples, std::int64_t from, std::int64_t to) {
  const auto first = std::clamp<std::int64_t>(from, 0, std::ssize(samples));
  const auto last = std::clamp<std::int64_t>(to, first, std::ssize(samples));
  double sum = 0;
  for (auto i = first; i < last; ++i) {
    const double x = samples[static_cast<std::size_t>(i)];
    sum += x * x;
  }
  return last > first ? sum / static_cast<double>(last - first) : 0;
}

/// Strokes of an instrument that sounds on, those after which nothing does counting no more: clicks, knocks and what is
/// heard of others in its pauses.
std::vector<HeardStroke> soundingOn(std::span<const float> samples, int rate, std::vector<HeardStroke> strokes) {
  const auto frames = [&](double ms) { return framesFromMs(ms, rate).value; };
  struct After {
    HeardStroke* stroke;
    double power;
  };
  std::vector<After> counted;
  for (auto s = strokes.begin(); s != strokes.end(); ++s) {
    if (s->sure <= 0) continue;
    // What comes next does not speak for it.
    const auto next = std::find_if(s + 1, strokes.end(), [](const HeardStroke& h) { return h.sure > 0; });
    auto to = s->at + frames(kAfterToMs);
    if (next != strokes.end()) to = std::min(to, next->at - frames(kBeforeNextMs));
    if (to < s->at + frames(kAfterMs + kLeastAfterMs)) continue;
    counted.push_back({&*s, powerIn(samples, s->at + frames(kAfterMs), to)});
  }
  std::vector<double> powers;
  for (const auto& c : counted) powers.push_back(c.power);
  const double least = percentile(std::move(powers), 0.75) * kLeastAfter;
  for (const auto& c : counted)
    if (c.power < least) c.stroke->sure = kNothingAfter;
  return strokes;
}

float peakOf(std::span<const float> samples, std::int64_t at, std::int64_t length) {
  float peak = 0;
  for (auto i = std::max<std::int64_t>(0, at); i < std::min(at + length, std::ssize(samples)); ++i)
    peak = std::max(peak, std::abs(samples[static_cast<std::size_t>(i)]));
  return peak;
}

/// How much of a kick's peak its first 2 ms reach.
float beginningOf(std::span<const float> samples, int rate, std::int64_t at) {
  const float peak = peakOf(samples, at, framesFromMs(kPeakMs, rate).value);
  return peak > 0 ? peakOf(samples, at, framesFromMs(kBeginningMs, rate).value) / peak : 0;
}

/// What must be reached of a kick's peak in its first 2 ms; less is another drum, struck just before. A drum that
/// begins so softly itself does so at most of its strokes.
float leastBeginning(std::span<const float> samples, const MicLevel& level, const std::vector<Attack>& attacks,
                     const std::vector<double>& sure) {
  std::vector<float> beginnings;
  for (std::size_t i = 0; i < attacks.size(); ++i)
    if (sure[i] > 0 && level.at(attacks[i].at) >= kLoudKick)
      beginnings.push_back(beginningOf(samples, level.rate, attacks[i].at));
  if (beginnings.empty()) return 0;
  const auto middle = beginnings.begin() + static_cast<std::ptrdiff_t>(beginnings.size() / 2);
  std::nth_element(beginnings.begin(), middle, beginnings.end());
  return std::min(kMostBeginning, kOfUsualBeginning * *middle);
}

/// Where a kick itself begins that was heard to begin at `at`.
std::int64_t ownBeginOfKick(std::span<const float> samples, int rate, std::int64_t at, float least) {
  if (beginningOf(samples, rate, at) >= least) return at;
  const float own = least * peakOf(samples, at, framesFromMs(kPeakMs, rate).value);
  auto first = std::max<std::int64_t>(0, at);
  while (first < std::ssize(samples) && std::abs(samples[static_cast<std::size_t>(first)]) < own) ++first;
  return refineAttack(samples, rate, first, first - framesFromMs(kBeginningMs, rate).value);
}

/// Where a stroke begins on the mic of its own drum.
std::int64_t placeOwn(std::span<const float> samples, int rate, std::int64_t at, DrumClass drum, double loud) {
  const auto ms = [&](double x) { return framesFromMs(x, rate).value; };
  auto place = at;
  if (drum != DrumClass::kick) {
    const auto body = placeByBody(samples, rate, at);
    if (loud < kWeakStroke || body > at + ms(kBleedBeforeMs)) place = body;
  }
  const auto soft = beginOfBody(samples, rate, place);
  const bool before = soft < place - ms(kSoftBeginningMs) && soft > place - ms(kLongestBeginningMs);
  if (!before || bodyRise(samples, rate, soft) < (drum == DrumClass::kick ? kKickBegins : kBodyBegins)) return place;
  return refineAttack(samples, rate, soft, soft - ms(kBleedBeforeMs));
}

}  // namespace

double MicStroke::claim() const { return std::pow(20.0, sure - 1) * std::min(1.0, std::pow(loud / kFaintest, 4)); }

double MicStroke::confidence() const { return 1 / (1 + std::exp(-kOddsOfSure * (sure - kSureMiddle))); }

MicHearing listenTo(const GuideSignal& signal, int mic, Beside beside, int rate, Progress& progress) {
  MicHearing out;
  out.hears = signal.hears;
  out.guide = signal.guide;
  std::vector<float> room;
  const auto samples = signal.samples.in(room);
  const MicLevel level(samples, rate);
  out.silent = level.silent;
  if (level.silent) return out;
  const BandEnergy energy(samples, rate, progress, 0, 0.6);
  const bool ofOneDrum = ownDrum(signal.hears).has_value();
  if (!signal.guide && !ofOneDrum) {
    out.power.emplace(energy, rate, signal.offset);
    return out;
  }
  const auto attacks = findAttacks(samples, rate, energy, {}, progress);
  if (progress.cancelled()) return out;
  const auto stroke = [&](std::int64_t at, double sure, double loud) {
    MicStroke s;
    s.at = Frames{at} + signal.offset;
    s.mic = mic;
    s.sure = std::clamp(sure, -1.0, 1.0);
    s.loud = loud;
    return s;
  };
  const bool ofAKit = beside.drums && (out.hears == MicHears::everything || out.hears == MicHears::room);
  if (!ofOneDrum && !ofAKit && isSoft(level, attacks)) {
    // A whole band is a set of its own; what stands beside drums' mics, or is a room, is none.
    const bool mayBeBand = !beside.drums && out.hears != MicHears::room;
    if (mayBeBand &&
        drumsIn(energy, attacks, judgeAttacks(samples, level, attacks, MicHears::everything, beside.guides))) {
      DrumGuesser guesser(rate);
      for (const auto& m : findMixStrokes(samples, level, energy, progress, {0.6, 1})) {
        out.strokes.push_back(stroke(m.at, m.sure, m.level));
        out.strokes.back().sounds = namedOnOneMic(energy, m.at, guesser.likeness(samples, m.at));
      }
      return out;
    }
    out.soundsOn = true;
    for (const auto& s : soundingOn(samples, rate, findSoftStrokes(samples, level, progress, 0.6, 1)))
      out.strokes.push_back(stroke(s.at, s.sure, s.level));
    return out;
  }
  if (out.hears == MicHears::unknown) out.hears = hearsBySound(samples, rate, attacks);
  out.power.emplace(energy, rate, signal.offset);
  const auto sure = judgeAttacks(samples, level, attacks, out.hears, beside.guides);
  // Strokes of the hat are told from others by what the other mics hear (BetweenMics).
  const auto own = ownDrum(out.hears).value_or(DrumClass::other);
  const bool close = own != DrumClass::other && own != DrumClass::hat;
  const float least = own == DrumClass::kick ? leastBeginning(samples, level, attacks, sure) : 0;
  DrumGuesser guesser(rate);
  for (std::size_t i = 0; i < attacks.size(); ++i) {
    auto s = stroke(attacks[i].at, sure[i], level.at(attacks[i].at));
    if (sure[i] <= kLeastSure) continue;
    s.close = close;
    if (close) {
      s.drum = own;
      const auto at = least > 0 ? ownBeginOfKick(samples, rate, attacks[i].at, least) : attacks[i].at;
      s.at = Frames{placeOwn(samples, rate, at, own, s.loud)} + signal.offset;
    }
    if (!s.close) s.sounds = guesser.likeness(samples, attacks[i].at);
    if (!s.close && !beside.drums) s.sounds = namedOnOneMic(energy, attacks[i].at, s.sounds);
    out.strokes.push_back(s);
  }
  std::stable_sort(out.strokes.begin(), out.strokes.end(), [](auto& a, auto& b) { return a.at < b.at; });
  return out;
}

}  // namespace ochron
