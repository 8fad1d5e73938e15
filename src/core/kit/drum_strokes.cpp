#include "kit/drum_strokes.h"

#include <algorithm>
#include <cmath>

#include "analysis/levels/localise.h"
#include "base/median.h"
#include "base/units.h"
#include "dsp/dot.h"
#include "kit/stroke_level.h"

namespace ochron {
namespace {

constexpr double kAfterMs = 8;        // of a stroke, laid over the others
constexpr double kReachMs = 2.5;      // that a hit may be off
constexpr double kAroundMs = 10;      // before and after, to see how far a stroke stands out
constexpr int kRounds = 3;            // of laying strokes over their mean
constexpr double kSharpEnough = 0.7;  // likeness of the high part alone
constexpr double kOneSound = 0.7;     // likeness of strokes that have a mean worth the name
constexpr double kLike = 0.5;         // correlation of what counts as one of them
constexpr float kEmphasis = 0.9F;     // of the first difference: attacks are high, what rings on is low
constexpr std::size_t kFewest = 12;   // strokes that the mean is made of, as far as there are
constexpr double kFloor = 2.5;        // times what is left before the attack counts as silence
constexpr float kAbove = 1.2F;        // times its loudest, too
constexpr double kLeastClear = 8;     // a mean that stands out less says nothing
constexpr double kSameDrum = 0.85;    // correlation
constexpr double kAlike = 0.75;       // correlation of the bodies, for a nudge
constexpr double kNudgeMs = 1;
constexpr double kFitMs = 2;       // that one and the same drum may be moved
constexpr double kPolarityMs = 5;  // of both, to see whether they cancel
constexpr double kTellsPolarity = 0.35;
constexpr double kLeastPolarity = 0.1;

struct Reach {
  std::int64_t before, after, lag;
  explicit Reach(int rate)
      : before(framesFromMs(DrumInMic::kBeforeMs, rate).value),
        after(framesFromMs(kAfterMs, rate).value),
        lag(framesFromMs(kReachMs, rate).value) {}
  std::size_t length() const { return static_cast<std::size_t>(before + after); }
};

std::vector<float> readAt(const Samples& mic, std::int64_t from, std::int64_t length) {
  std::vector<float> out(static_cast<std::size_t>(length));
  mic.readAround(from, out);
  return out;
}

std::vector<float> emphasizedOf(std::vector<float> x) {
  for (std::size_t i = x.size(); i-- > 1;) x[i] -= kEmphasis * x[i - 1];
  if (!x.empty()) x.front() = 0;
  return x;
}

double energy(std::span<const float> x) { return dot(x, x); }

struct Laid {
  std::int64_t lag = 0;
  double likeness = -1;
};

/// Where a pattern is most like a window that is longer by twice the reach.
Laid layOver(std::span<const float> window, std::span<const float> pattern, std::int64_t reach, bool signless) {
  Laid best;
  double most = -2;
  const double own = energy(pattern);
  for (std::int64_t lag = -reach; lag <= reach; ++lag) {
    const auto there = window.subspan(static_cast<std::size_t>(reach + lag), pattern.size());
    const double both = std::sqrt(own * energy(there));
    const double likeness = both > 0 ? dot(there, pattern) / both : 0;
    const double claim = signless ? std::abs(likeness) : likeness;
    if (claim <= most) continue;
    most = claim;
    best = {lag, likeness};
  }
  return best;
}

/// The power from a stroke on against that before it, as far as it may be off either way.
double powerRatio(const Samples& mic, std::int64_t at, int rate) {
  const auto reach = framesFromMs(kReachMs, rate).value;
  const auto length = framesFromMs(kAroundMs, rate).value;
  const auto after = readAt(mic, at - reach, length + 2 * reach);
  const auto before = readAt(mic, at - reach - length, length);
  constexpr double kLeast = 1e-9;
  return energy(after) / (energy(before) + kLeast);
}

/// The median of windows, frame by frame, each of peak 1.
std::vector<float> middle(const std::vector<std::vector<float>>& windows) {
  std::vector<float> out(windows.front().size());
  std::vector<double> column(windows.size());
  for (std::size_t i = 0; i < out.size(); ++i) {
    for (std::size_t w = 0; w < windows.size(); ++w) column[w] = static_cast<double>(windows[w][i]);
    out[i] = static_cast<float>(medianOf(column));
  }
  return out;
}

void toPeak(std::span<float> x) {
  float peak = 0;
  for (const float v : x) peak = std::max(peak, std::abs(v));
  if (peak > 0)
    for (float& v : x) v /= peak;
}

/// Lays the strokes over their mean again and again; the lags of all.
std::vector<Laid> laidOver(const std::vector<std::vector<float>>& windows, const std::vector<std::size_t>& order,
                           const Reach& reach) {
  std::vector<Laid> laid(windows.size());
  const auto& first = windows[order.front()];
  std::vector<float> mean(first.begin() + reach.lag, first.end() - reach.lag);
  for (int round = 0; round < kRounds; ++round) {
    std::vector<float> next(mean.size(), 0.0F);
    for (std::size_t i = 0; i < windows.size(); ++i) {
      laid[i] = layOver(windows[i], mean, reach.lag, false);
      if (laid[i].likeness < kLike) continue;
      const auto there = std::span(windows[i]).subspan(static_cast<std::size_t>(reach.lag + laid[i].lag), mean.size());
      const auto weight = static_cast<float>(laid[i].likeness * laid[i].likeness / std::sqrt(energy(there)));
      for (std::size_t k = 0; k < next.size(); ++k) next[k] += weight * there[k];
    }
    if (energy(next) > 0) mean = std::move(next);
  }
  return laid;
}

double middleLikeness(const std::vector<Laid>& laid) {
  std::vector<double> all;
  for (const auto& l : laid) all.push_back(l.likeness);
  return medianOf(std::move(all));
}

/// By their high part, which is sharp; by all of it where noise makes that unlike from stroke to stroke.
struct AllLaid {
  std::vector<Laid> strokes;
  bool sharp = true;  ///< by their high part
};
AllLaid bestLaid(const std::vector<std::vector<float>>& windows, const std::vector<std::size_t>& order,
                 const Reach& reach) {
  std::vector<std::vector<float>> high;
  for (const auto& w : windows) high.push_back(emphasizedOf(w));
  auto sharp = laidOver(high, order, reach);
  if (middleLikeness(sharp) >= kSharpEnough) return {std::move(sharp), true};
  auto plain = laidOver(windows, order, reach);
  if (middleLikeness(plain) > middleLikeness(sharp)) return {std::move(plain), false};
  return {std::move(sharp), true};
}

/// Lags are against the stroke that the mean began with, which may have been found off: the usual lag becomes 0.
void centre(std::vector<Laid>& laid) {
  std::vector<double> lags;
  for (const auto& l : laid)
    if (l.likeness >= kLike) lags.push_back(static_cast<double>(l.lag));
  const auto usual = static_cast<std::int64_t>(medianOf(std::move(lags)));
  for (auto& l : laid) l.lag -= usual;
}

/// The mean of strokes that are alike, and where the attack begins in it.
void meanOf(const std::vector<std::vector<float>>& alike, const Reach& reach, int rate, DrumInMic& out) {
  out.mean = middle(alike);
  toPeak(out.mean);
  // What is left of everything else, from the part before the earliest attack.
  const auto quiet = std::span(out.mean).first(static_cast<std::size_t>(reach.before / 2));
  const double rest = std::sqrt(energy(quiet) / static_cast<double>(quiet.size()));
  float loudestRest = 0;
  for (const float v : quiet) loudestRest = std::max(loudestRest, std::abs(v));
  out.clearness = 1 / std::max(rest, 1e-6);
  if (out.clearness < kLeastClear) {
    out.attack = reach.before;
    return;
  }
  const float floor = std::max({static_cast<float>(kFloor * rest), kAbove * loudestRest, 1e-6F});
  out.attack = attackIn(out.mean, rate, floor);
}

/// Of a stroke that is unlike the others: by its own rise.
std::int64_t ownAttack(std::span<const float> window, std::int64_t stroke, const Reach& reach, int rate) {
  const auto here = reach.before + reach.lag;
  const auto found = refineAttack(window, rate, here, here - reach.lag);
  return std::abs(found - here) <= reach.lag ? stroke + found - here : stroke;
}

}  // namespace

double standsOut(const Samples& mic, std::span<const std::int64_t> strokes, int rate) {
  std::vector<double> ratios;
  for (const auto at : strokes) ratios.push_back(powerRatio(mic, at, rate));
  return medianOf(ratios);
}

double dominates(const Samples& mic, std::span<const std::int64_t> strokes, int rate) {
  const auto reach = framesFromMs(kReachMs, rate).value;
  const auto length = framesFromMs(kAroundMs, rate).value + 2 * reach;
  std::vector<double> struck;
  for (const auto at : strokes) struck.push_back(energy(readAt(mic, at - reach, length)) / static_cast<double>(length));
  constexpr std::int64_t kBlock = 65'536;
  double whole = 0;
  for (std::int64_t at = 0; at < static_cast<std::int64_t>(mic.size()); at += kBlock)
    whole += energy(readAt(mic, at, std::min(kBlock, static_cast<std::int64_t>(mic.size()) - at)));
  return whole > 0 ? medianOf(struck) * static_cast<double>(mic.size()) / whole : 0;
}

DrumInMic drumInMic(const Samples& mic, std::span<const std::int64_t> strokes, int rate) {
  DrumInMic out;
  for (const auto at : strokes) out.strokes.push_back({at, 0});
  if (strokes.empty()) return out;
  const Reach reach(rate);
  std::vector<std::vector<float>> windows;
  std::vector<std::pair<double, std::size_t>> clear;
  for (std::size_t i = 0; i < strokes.size(); ++i) {
    windows.push_back(readAt(mic, strokes[i] - reach.before - reach.lag, reach.before + reach.after + 2 * reach.lag));
    clear.emplace_back(-powerRatio(mic, strokes[i], rate), i);
  }
  std::sort(clear.begin(), clear.end());
  std::vector<std::size_t> order;
  for (const auto& [ratio, i] : clear) order.push_back(i);
  auto [laid, sharp] = bestLaid(windows, order, reach);
  centre(laid);
  std::vector<std::vector<float>> alike;
  const auto wanted = std::max(kFewest, strokes.size() / 2);
  for (const auto i : order) {
    if (laid[i].likeness < kLike) continue;
    if (alike.size() >= wanted) continue;
    auto& w = alike.emplace_back(readAt(mic, strokes[i] + laid[i].lag - reach.before, reach.before + reach.after));
    toPeak(w);
  }
  const bool oneSound = middleLikeness(laid) >= kOneSound;
  if (oneSound) meanOf(alike, reach, rate, out);
  if (oneSound && !sharp) {
    // The mean of what is partly noise rises too slowly: what most strokes' own rises say about it.
    std::vector<double> begins;
    for (std::size_t i = 0; i < strokes.size(); ++i)
      if (laid[i].likeness >= kLike)
        begins.push_back(
            static_cast<double>(ownAttack(windows[i], strokes[i], reach, rate) - strokes[i] - laid[i].lag));
    out.attack = reach.before + static_cast<std::int64_t>(medianOf(std::move(begins)));
  }
  const auto offset = out.attack - reach.before;
  for (std::size_t i = 0; i < strokes.size(); ++i) {
    const bool like = oneSound && laid[i].likeness >= kLike;
    const auto at = like ? strokes[i] + laid[i].lag + offset : ownAttack(windows[i], strokes[i], reach, rate);
    out.strokes[i] = {at, laid[i].likeness};
  }
  return out;
}

SoundFit fitTo(const DrumInMic& drum, std::span<const float> sound, std::int64_t attack, int rate) {
  if (drum.mean.empty()) return {};
  const Samples samples(sound);
  const auto before = drum.attack;
  const auto reach = framesFromMs(kFitMs, rate).value;
  // Both from the drum's window on; where the sound must be later, its samples lie earlier.
  const auto window = readAt(samples, attack - before - reach, std::ssize(drum.mean) + 2 * reach);
  const auto from = static_cast<std::size_t>(before);
  const auto length =
      std::min(drum.mean.size() - from, static_cast<std::size_t>(framesFromMs(kPolarityMs, rate).value));
  const auto pattern = std::span(drum.mean).subspan(from, length);
  const auto there = std::span(window).subspan(from, length + 2 * static_cast<std::size_t>(reach));
  const auto emphasized = layOver(emphasizedOf(window), emphasizedOf(drum.mean), reach, true);
  const auto little = framesFromMs(kNudgeMs, rate).value;
  const auto plain =
      layOver(there.subspan(static_cast<std::size_t>(reach - little), length + 2 * static_cast<std::size_t>(little)),
              pattern, little, true);
  if (std::abs(plain.likeness) >= kAlike) return {-plain.lag, plain.likeness};
  const auto at = [&](std::int64_t lag) {
    return layOver(there.subspan(static_cast<std::size_t>(reach + lag), length), pattern, 0, false).likeness;
  };
  if (std::abs(emphasized.likeness) >= kSameDrum) return {-emphasized.lag, at(emphasized.lag)};
  // Where the attacks are not known to the sample, what lies over each other near them tells the polarity.
  const double likeness = std::abs(plain.likeness) >= kTellsPolarity ? plain.likeness : at(0);
  return {0, std::abs(likeness) < kLeastPolarity ? 0 : likeness};
}

}  // namespace ochron
