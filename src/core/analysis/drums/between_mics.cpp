#include "analysis/drums/between_mics.h"

#include <algorithm>
#include <cmath>

#include "analysis/levels/mic_level.h"
#include "base/numbers.h"

namespace ochron {
namespace {

constexpr std::size_t kFewStrokes = 4;
constexpr std::size_t kBody = 1, kPastBody = 5;  // bands from 100 Hz to 4 kHz
constexpr std::size_t kPastDeep = 2;             // 20 to 250 Hz
constexpr std::size_t kFewBands = 2;
constexpr std::size_t kTop = 6;
constexpr double kNoiseVaries = 4;        // power of the noise that may be taken for something added
constexpr double kRingsOnSeconds = 0.12;  // after the stroke, when kick and snare are over
constexpr std::size_t kWithoutHat = 2;    // 250 to 600 Hz
constexpr double kWithOthers = 0.7;       // a kick under a snare fills the lower half of these bands
constexpr double kOwnShare = 0.7;         // its own drum is nearest to a mic: bleed among the sure strokes lies lower
constexpr double kHeardShare = 0.6;    // of a drum's strokes: fewer, and its ratio to the wide mics' noise is anything
constexpr double kSnaresAlone = 0.25;  // so many of the snares at least are struck without a hat
constexpr double kAloneShare = 0.8;    // of a drum's strokes have something else beside them in the wide mics

/// What sounds like a drum that would have been heard on its own mic is its kin: a tom for a drum with a skin, a cymbal
/// for the hat.
DrumClass likeliest(std::array<double, 5> sounds, const std::array<bool, 5>& possible) {
  constexpr std::size_t kTom = 2, kHat = 3, kCymbal = 4;
  for (std::size_t d = 0; d < sounds.size(); ++d)
    if (!possible[d]) sounds[d < kHat ? kTom : kCymbal] += d == kTom || d == kCymbal ? 0 : sounds[d];
  double most = 0;
  auto drum = DrumClass::other;
  for (std::size_t d = 0; d < sounds.size(); ++d)
    if (possible[d] && sounds[d] > most) {
      most = sounds[d];
      drum = static_cast<DrumClass>(d);
    }
  return drum;
}

/// Whether a mic says which drum was struck: a guide does, and another one when no guide is of its drum.
bool speaks(const MicHearing& mic, const std::vector<MicHearing>& mics) {
  return mic.guide || std::none_of(mics.begin(), mics.end(), [&](auto& m) { return m.guide && m.hears == mic.hears; });
}

}  // namespace

BetweenMics::BetweenMics(std::vector<MicHearing>& mics, int rate, const BetweenMicsSettings& settings)
    : mics_(mics), settings_(settings), balances_(mics.size()), rate_(rate) {
  for (std::size_t m = 0; m < mics.size(); ++m)
    if (mics[m].hears == MicHears::everything && mics[m].power) wide_.push_back(m);
  if (!wide_.empty()) {
    for (std::size_t m = 0; m < mics.size(); ++m) {
      if (!mics[m].power || !ownDrum(mics[m].hears) || mics[m].hears == MicHears::hat) continue;
      balances_[m] = learn(m);
      holdToBalance(m);
    }
    for (std::size_t m = 0; m < mics.size(); ++m)
      if (mics[m].power && mics[m].hears == MicHears::hat) findHats(m);
  }
  guessTheRest();
}

BetweenMics::Bands BetweenMics::wide(Frames at, std::size_t except) const {
  Bands sum{};
  for (const auto m : wide_) {
    if (m == except) continue;
    const auto p = mics_[m].power->at(at);
    for (std::size_t b = 0; b < sum.size(); ++b) sum[b] += p[b];
  }
  return sum;
}

BetweenMics::Bands BetweenMics::ratioDb(std::size_t mic, Frames at) const {
  const auto own = mics_[mic].power->at(at);
  const auto all = wide(at, mic);
  Bands out{};
  for (std::size_t b = 0; b < out.size(); ++b) {
    double floor = 1e-14;
    for (const auto m : wide_) floor += mics_[m].power->floor(b);
    out[b] = decibelsOf(own[b] + mics_[mic].power->floor(b) + 1e-14) - decibelsOf(all[b] + floor);
  }
  return out;
}

std::optional<BetweenMics::Balance> BetweenMics::learn(std::size_t mic) const {
  std::array<std::vector<double>, BandEnergy::kBands> ratios;
  Bands heard{};  // strokes that the wide mics hear at all
  for (const auto& s : mics_[mic].strokes) {
    if (!s.close || s.sure < settings_.ownSure) continue;
    const auto r = ratioDb(mic, s.at);
    const auto there = wide(s.at, mic);
    Bands before{};
    for (const auto m : wide_) {
      const auto power = mics_[m].power->before(s.at);
      for (std::size_t b = 0; b < before.size(); ++b) before[b] += power[b];
    }
    for (std::size_t b = 0; b < r.size(); ++b) {
      ratios[b].push_back(r[b]);
      heard[b] += there[b] > before[b] ? 1 : 0;
    }
  }
  if (ratios[0].size() < kFewStrokes) return {};
  Balance out;
  for (std::size_t b = 0; b < ratios.size(); ++b) {
    out.typical[b] = percentile(ratios[b], kOwnShare);
    out.alone[b] = percentile(ratios[b], kAloneShare);
    out.spread[b] = out.alone[b] - percentile(ratios[b], 0.5);
    out.known[b] = heard[b] >= kHeardShare * static_cast<double>(ratios[b].size());
  }
  return out;
}

void BetweenMics::holdToBalance(std::size_t mic) {
  if (!balances_[mic]) return;
  const auto& typical = balances_[mic]->typical;
  const auto& known = balances_[mic]->known;
  // A kick is told where next to nothing else sounds; other drums in the middle, where cymbals do not reach.
  const bool kick = mics_[mic].hears == MicHears::kick;
  for (auto& s : mics_[mic].strokes) {
    const auto r = ratioDb(mic, s.at);
    std::vector<double> offs;
    for (auto b = kick ? 0 : kBody; b < (kick ? kPastDeep : kPastBody); ++b)
      if (known[b]) offs.push_back(r[b] - typical[b]);
    if (offs.size() < kFewBands) continue;
    const double off = kick ? *std::max_element(offs.begin(), offs.end()) : percentile(offs, kWithOthers);
    const double beyond = off - settings_.foreignDb;
    if (beyond < 0) s.sure = std::min(s.sure, std::max(-1.0, beyond / settings_.foreignScaleDb));
  }
}

void BetweenMics::findHats(std::size_t mic) {
  auto& hat = mics_[mic];
  // How near kick and snare are to the hat's mic, by a band in which no hat sounds along with them.
  double others = -1000;
  for (std::size_t m = 0; m < mics_.size(); ++m) {
    if (mics_[m].hears != MicHears::snare && mics_[m].hears != MicHears::kick) continue;
    const auto ratios = ratiosOf(m, mic, kWithoutHat);
    if (ratios.size() >= kFewStrokes) others = std::max(others, percentile(ratios, 0.5));
  }
  if (others < -500) return;
  struct Candidate {
    std::size_t stroke;
    double ratio, level;
  };
  std::vector<Candidate> candidates, doubtful;
  std::vector<double> levels;
  for (std::size_t i = 0; i < hat.strokes.size(); ++i) {
    if (hat.strokes[i].sure <= 0) continue;
    const double top = hat.power->at(hat.strokes[i].at)[kTop];
    if (top <= hat.power->floor(kTop)) continue;
    const Candidate c{i, ratioDb(mic, hat.strokes[i].at)[kTop], decibelsOf(top)};
    (hat.strokes[i].byOthers ? doubtful : candidates).push_back(c);
    if (!hat.strokes[i].byOthers) levels.push_back(c.level);
  }
  const double faintest = percentile(levels, 0.95) - settings_.hatFaintestDb;
  std::erase_if(candidates, [&](auto& c) { return c.level < faintest; });
  std::erase_if(doubtful, [&](auto& c) { return c.level < faintest; });
  std::sort(candidates.begin(), candidates.end(), [](auto& a, auto& b) { return a.ratio > b.ratio; });
  // The nearest sound that several strokes share is the hat.
  std::size_t first = 0;
  while (first + kFewStrokes <= candidates.size() &&
         candidates[first].ratio - candidates[first + kFewStrokes - 1].ratio > settings_.hatSpreadDb)
    ++first;
  if (first + kFewStrokes > candidates.size()) return;
  const double balance = candidates[first].ratio - settings_.hatSpreadDb / 2;
  if (balance < others + settings_.hatOverOthersDb) return;
  const double least = std::max(balance - settings_.hatReachDb, others + settings_.hatSpreadDb / 2);
  candidates.insert(candidates.end(), doubtful.begin(), doubtful.end());
  for (const auto& c : candidates)
    if (c.ratio >= least) {
      hat.strokes[c.stroke].drum = DrumClass::hat;
      hat.strokes[c.stroke].close = true;
    }
  balances_[mic] = learn(mic);
  hatsKnown_ = true;
}

void BetweenMics::guessTheRest() {
  std::array<bool, 5> possible{};
  possible.fill(true);
  for (const auto& m : mics_)
    if (const auto drum = ownDrum(m.hears); drum && !m.silent && (drum != DrumClass::hat || hatsKnown_))
      possible[static_cast<std::size_t>(*drum)] = false;
  // What the hat's mic hears no nearer than the snares is another cymbal.
  auto noHat = possible;
  noHat[static_cast<std::size_t>(DrumClass::hat)] = false;
  std::vector<std::pair<std::size_t, double>> snares;
  for (std::size_t m = 0; m < mics_.size(); ++m) {
    if (mics_[m].hears != MicHears::hat || !mics_[m].power || wide_.empty()) continue;
    std::vector<double> ratios;
    for (std::size_t s = 0; s < mics_.size(); ++s)
      if (mics_[s].hears == MicHears::snare) {
        const auto some = ratiosOf(s, m, kTop);
        ratios.insert(ratios.end(), some.begin(), some.end());
      }
    if (ratios.size() >= kFewStrokes) snares.emplace_back(m, percentile(ratios, kSnaresAlone));
  }
  const auto farFromHat = [&](Frames at) {
    return std::any_of(snares.begin(), snares.end(), [&](auto& x) { return ratioDb(x.first, at)[kTop] < x.second; });
  };
  for (auto& m : mics_) {
    if (m.soundsOn) continue;  // no drum, whatever is struck along with it
    for (auto& s : m.strokes)
      if (!s.close) s.drum = closeDrumAt(s.at).value_or(likeliest(s.sounds, farFromHat(s.at) ? noHat : possible));
  }
}

std::vector<double> BetweenMics::ratiosOf(std::size_t drum, std::size_t mic, std::size_t band) const {
  std::vector<double> out;
  for (const auto& s : mics_[drum].strokes)
    if (s.close && s.sure >= settings_.ownSure) out.push_back(ratioDb(mic, s.at)[band]);
  return out;
}

std::optional<DrumClass> BetweenMics::closeDrumAt(Frames at) const {
  const Frames before{rate_ * 12 / 1000}, after{rate_ * 3 / 1000};
  const MicStroke* surest = nullptr;
  for (const auto& m : mics_) {
    if (!speaks(m, mics_)) continue;
    auto s =
        std::lower_bound(m.strokes.begin(), m.strokes.end(), at - before, [](auto& x, Frames f) { return x.at < f; });
    for (; s != m.strokes.end() && s->at <= at + after; ++s)
      if (s->close && s->sure > 0 && (!surest || s->sure > surest->sure)) surest = &*s;
  }
  return surest ? std::optional(surest->drum) : std::nullopt;
}

std::optional<BetweenMics::Beyond> BetweenMics::beyond(const std::vector<const MicStroke*>& close, Frames from) const {
  if (wide_.empty() || close.empty()) return {};
  Bands brought{}, spread{}, floor{}, before{}, later{};
  floor.fill(1e-14);
  for (const auto* s : close) {
    const auto mic = static_cast<std::size_t>(s->mic);
    if (!balances_[mic]) return {};
    const auto own = mics_[mic].power->at(std::min(s->at, from));
    for (std::size_t b = 0; b < brought.size(); ++b) {
      const double power = own[b] / std::pow(10.0, balances_[mic]->alone[b] / 10);
      brought[b] += power;
      spread[b] += power * balances_[mic]->spread[b];
    }
  }
  const Frames on{static_cast<std::int64_t>(kRingsOnSeconds * rate_)};
  for (const auto m : wide_) {
    const auto was = mics_[m].power->before(from);
    const auto is = mics_[m].power->before(from + on);
    for (std::size_t b = 0; b < floor.size(); ++b) {
      floor[b] += kNoiseVaries * mics_[m].power->floor(b);
      before[b] += was[b];
      later[b] += is[b];
    }
  }
  const auto heard = wide(from, mics_.size());
  Beyond out;
  for (std::size_t b = 0; b < brought.size(); ++b) {
    out.rings[b] = decibelsOf(later[b] + floor[b]) - decibelsOf(before[b] + floor[b]);
    out.varies[b] = brought[b] > 0 ? spread[b] / brought[b] : 0;
    // Where what is brought varies so that it is anything, nothing is known.
    if (out.varies[b] > settings_.mostSpreadDb) continue;
    out.more[b] = decibelsOf(heard[b] + floor[b]) - decibelsOf(brought[b] + floor[b]);
  }
  return out;
}

}  // namespace ochron
