#include "analysis/pitch/pitch_slips.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

#include "base/median.h"

namespace ochron {
namespace {

constexpr double kNearOctave = 80;         // cents
constexpr double kGlides = 130;            // cents from one value to the next; more is another pitch
constexpr std::size_t kLongestSlip = 40;   // values, 200 ms
constexpr double kMostUnlike = 0.2;        // at most so unlike; a pitch whose octave is not there has 0.4 and more
constexpr std::size_t kLeastDropped = 12;  // values, 60 ms
constexpr std::size_t kSlipLook = 4;       // values from one look at the octave to the next
constexpr double kFarMoreAlike = 8;        // times; notes that are not an octave too high have 5 at most
constexpr double kOddUnlike = 0.02;        // at least so unlike: odd harmonics 20 dB below the others
constexpr double kFloor = 3e-4;            // of unlikeness, that noise leaves

/// The end of the values from `first` whose pitch goes on without a jump.
std::size_t stretchFrom(const std::vector<PitchTrack::Value>& values, std::size_t first) {
  const auto goesOn = [&](std::size_t i) {
    return values[i].sounds() && values[i - 1].sounds() &&
           std::abs(centsOf(values[i].hertz) - centsOf(values[i - 1].hertz)) < kGlides;
  };
  auto end = first + 1;
  while (end < values.size() && goesOn(end)) ++end;
  return end;
}

}  // namespace

void liftUndertones(std::vector<PitchTrack::Value>& values) {
  constexpr double kDip = 900;    // cents
  constexpr int kLeastShare = 2;  // parts of the neighbour's pitch
  constexpr int kMostShare = 16;
  const auto voiced = [&](std::size_t i) { return values[i].sounds(); };
  const auto rise = [&](std::size_t i) { return centsOf(values[i].hertz) - centsOf(values[i - 1].hertz); };
  for (std::size_t t = 1; t < values.size(); ++t) {
    if (!voiced(t) || !voiced(t - 1) || rise(t) > -kDip) continue;
    auto end = t + 1;
    const double low = centsOf(values[t - 1].hertz) - kDip;
    while (end < values.size() && end - t < kLongestSlip && voiced(end) && centsOf(values[end].hertz) < low &&
           rise(end) < kDip)
      ++end;
    if (end == values.size() || end - t == kLongestSlip || !voiced(end) || rise(end) < kDip) continue;
    const std::array<double, 2> neighbours{values[t - 1].hertz, values[end].hertz};
    for (auto i = t; i < end; ++i) {
      double least = kNearOctave;
      int share = 1;
      for (int m = kLeastShare; m <= kMostShare; ++m)
        for (const double n : neighbours)
          if (const double off = std::abs(centsOf(values[i].hertz * m) - centsOf(n)); off < least) {
            least = off;
            share = m;
          }
      values[i].hertz *= share;
    }
    t = end;
  }
}

void liftOctaves(std::vector<PitchTrack::Value>& values, const Unlikeness& unlike) {
  for (std::size_t first = 0; first < values.size();) {
    const auto end = stretchFrom(values, first);
    for (const int octaves : {1, 2}) {
      const auto times = std::exp2(octaves);
      const auto octaveOf = [&](std::size_t of, std::size_t here) {
        return values[of].sounds() && values[here].sounds() &&
               std::abs(centsOf(values[of].hertz) - centsOf(values[here].hertz) - 1200 * octaves) < kNearOctave;
      };
      const bool below = (first > 0 && octaveOf(first - 1, first)) || (end < values.size() && octaveOf(end, end - 1));
      if (!below || end - first >= kLongestSlip) continue;
      std::vector<double> all;
      for (auto t = first; t < end; ++t) all.push_back(unlike(t, times * values[t].hertz));
      if (medianOf(std::move(all)) < kMostUnlike)
        for (auto t = first; t < end; ++t) values[t].hertz *= times;
      break;
    }
    first = end;
  }
}

void dropOctaves(std::vector<PitchTrack::Value>& values, double lowest, const Unlikeness& unlike) {
  for (std::size_t first = 0; first < values.size();) {
    const auto end = stretchFrom(values, first);
    std::vector<double> alone;
    std::vector<double> moreAlike;
    for (auto t = first; t < end && end - first >= kLeastDropped; t += kSlipLook)
      if (values[t].sounds() && values[t].hertz >= 2 * lowest) {
        alone.push_back(unlike(t, values[t].hertz));
        moreAlike.push_back((alone.back() + kFloor) / (unlike(t, values[t].hertz / 2) + kFloor));
      }
    if (medianOf(std::move(alone)) > kOddUnlike && medianOf(std::move(moreAlike)) > kFarMoreAlike)
      for (auto t = first; t < end; ++t) values[t].hertz /= 2;
    first = end;
  }
}

namespace {

/// Whether a stretch goes on from a held one that sounds an octave lower, no louder than that.
bool goesOnFromBelow(const std::vector<PitchTrack::Value>& values, std::size_t first, const OctaveClues& clues) {
  constexpr std::size_t kBack = 4;   // values, over a short break
  constexpr std::size_t kAfter = 6;  // values
  constexpr double kLouderDb = 1;
  for (auto t = first; t > 0 && t + kBack > first; --t) {
    if (!values[t - 1].sounds()) continue;
    const auto isBelow = [&](std::size_t i) {
      return values[i].sounds() &&
             std::abs(centsOf(values[first].hertz) - centsOf(values[i].hertz) - 1200) <= kNearOctave;
    };
    std::size_t held = 0;
    while (held < t && held < kLongestSlip && isBelow(t - 1 - held)) ++held;
    if (held < kLongestSlip) return false;
    return clues.level(std::min(values.size() - 1, first + kAfter)) <= clues.level(t - 1) + kLouderDb;
  }
  return false;
}

}  // namespace

void dropOddOctaves(std::vector<PitchTrack::Value>& values, double lowest, const OctaveClues& clues) {
  constexpr double kLeastLevelDb = -30;
  constexpr double kLeastOverDb = 8;
  constexpr double kMoreAlike = 3;  // times
  constexpr double kGoesOnLevelDb = -45;
  constexpr double kGoesOnOverDb = 5;
  constexpr double kLeastHertz = 80;
  constexpr double kLoudOfStretchDb = 25;
  const double least = std::max(2 * lowest, kLeastHertz);
  for (std::size_t first = 0; first < values.size();) {
    const auto end = stretchFrom(values, first);
    std::vector<double> levels;
    std::vector<double> over;
    std::vector<double> moreAlike;
    double loudest = -1e9;
    if (end - first >= kLeastDropped)
      for (auto t = first; t < end; ++t) loudest = std::max(loudest, clues.level(t));
    for (auto t = first; t < end && end - first >= kLeastDropped; t += kSlipLook) {
      if (!values[t].sounds() || values[t].hertz < least || clues.level(t) < loudest - kLoudOfStretchDb) continue;
      const auto o = clues.odd(t, values[t].hertz);
      levels.push_back(o.level);
      over.push_back(o.level - o.between);
      moreAlike.push_back((clues.unlike(t, values[t].hertz) + kFloor) /
                          (clues.unlike(t, values[t].hertz / 2) + kFloor));
    }
    if (!levels.empty()) {
      const double level = medianOf(std::move(levels));
      const double stands = medianOf(std::move(over));
      const bool clear =
          level >= kLeastLevelDb && stands >= kLeastOverDb && medianOf(std::move(moreAlike)) >= kMoreAlike;
      if (clear || (level >= kGoesOnLevelDb && stands >= kGoesOnOverDb && goesOnFromBelow(values, first, clues)))
        for (auto t = first; t < end; ++t) values[t].hertz /= 2;
    }
    first = end;
  }
}

}  // namespace ochron
