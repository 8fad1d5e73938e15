#include "analysis/notes.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

#include "base/median.h"

namespace ochron {
namespace {

constexpr double kGrid = 20;        // cents from one pitch of the course to the next
constexpr double kChange = 2000;    // what a change costs, cents x values: half a second of 20 cents
constexpr double kMostOff = 150;    // cents; a value costs no more than this
constexpr std::size_t kGap = 3;     // unvoiced values that a note sounds through
constexpr std::size_t kLeast = 12;  // values, 60 ms
constexpr double kLeastSeconds = 0.05;
constexpr double kOnsetBefore = 0.15;  // s: how far before its change of pitch a note may have begun
constexpr double kOnsetAfter = 0.06;   // s
constexpr double kApart = 0.06;        // s from an onset amid a pitch to the note's ends
constexpr double kRise = 5;            // dB

bool voiced(const PitchTrack::Value& v) { return v.voiced >= 0.5 && v.hertz > 0; }

/// The first value of each note within [begin, end), by the least sum of distances and changes (a Potts course).
std::vector<std::size_t> changesWithin(const PitchTrack& track, std::size_t begin, std::size_t end) {
  double low = 1e9;
  double high = 0;
  for (auto t = begin; t < end; ++t) {
    if (!voiced(track.values[t])) continue;
    low = std::min(low, centsOf(track.values[t].hertz));
    high = std::max(high, centsOf(track.values[t].hertz));
  }
  const auto pitches = static_cast<std::size_t>((high - low) / kGrid) + 2;
  constexpr std::int32_t kStays = -1;
  std::vector<double> cost(pitches, 0.0);
  std::vector<std::vector<std::int32_t>> from;
  for (auto t = begin; t < end; ++t) {
    const auto best = std::min_element(cost.begin(), cost.end());
    const double changed = *best + kChange;
    const auto bestAt = static_cast<std::int32_t>(best - cost.begin());
    auto& back = from.emplace_back(pitches, kStays);
    for (std::size_t p = 0; p < pitches; ++p) {
      if (cost[p] > changed) {
        cost[p] = changed;
        back[p] = bestAt;
      }
      if (voiced(track.values[t]))
        cost[p] += std::min(kMostOff, std::abs(centsOf(track.values[t].hertz) - low - kGrid * static_cast<double>(p)));
    }
  }
  std::vector<std::size_t> out{begin};
  auto at = static_cast<std::size_t>(std::min_element(cost.begin(), cost.end()) - cost.begin());
  for (auto t = end; t-- > begin + 1;) {
    const auto came = from[t - begin][at];
    if (came == kStays) continue;
    out.push_back(t);
    at = static_cast<std::size_t>(came);
  }
  std::sort(out.begin(), out.end());
  return out;
}

/// By how much the sound grows around a moment.
class Level {
 public:
  Level(std::span<const float> samples, int rate, std::size_t values) : decibels_(values) {
    const auto hop = PitchTrack::kHop * rate;
    const auto window = static_cast<std::int64_t>(4 * hop);
    for (std::size_t t = 0; t < values; ++t) {
      const auto first = std::max<std::int64_t>(0, std::llround(static_cast<double>(t) * hop) - window / 2);
      const auto last = std::min<std::int64_t>(std::ssize(samples), first + window);
      double sum = 1e-9 * static_cast<double>(window);
      for (auto i = first; i < last; ++i) {
        const double x = samples[static_cast<std::size_t>(i)];
        sum += x * x;
      }
      decibels_[t] = 10 * std::log10(sum / static_cast<double>(window));
    }
  }
  /// dB from the softest of the 70 ms before to the loudest of the 100 ms after.
  double riseAt(double seconds) const {
    const auto at = static_cast<std::int64_t>(seconds / PitchTrack::kHop);
    const auto within = [&](std::int64_t a, std::int64_t b) {
      const auto size = std::ssize(decibels_);
      const auto first = decibels_.begin() + std::clamp<std::int64_t>(a, 0, size - 1);
      return std::span(first, decibels_.begin() + std::clamp<std::int64_t>(b, first - decibels_.begin() + 1, size));
    };
    const auto after = within(at - 2, at + 20);
    const auto before = within(at - 14, at + 6);
    return *std::max_element(after.begin(), after.end()) - *std::min_element(before.begin(), before.end());
  }

 private:
  std::vector<double> decibels_;
};

/// The notes as their pitch alone tells them.
std::vector<SungNote> byPitch(const PitchTrack& track) {
  std::vector<SungNote> out;
  const auto size = track.values.size();
  const auto soundsAt = [&](std::size_t t) {
    for (auto i = t; i < std::min(size, t + kGap + 1); ++i)
      if (voiced(track.values[i])) return true;
    return false;
  };
  for (std::size_t t = 0; t < size; ++t) {
    if (!voiced(track.values[t])) continue;
    auto end = t;
    while (end < size && soundsAt(end)) ++end;
    auto changes = changesWithin(track, t, end);
    changes.push_back(end);
    for (std::size_t i = 0; i + 1 < changes.size(); ++i) {
      const auto a = changes[i];
      const auto b = changes[i + 1];
      if (b - a < kLeast) continue;
      std::vector<double> settled;
      for (auto k = a + (b - a) / 4; k < b; ++k)
        if (voiced(track.values[k])) settled.push_back(track.values[k].hertz);
      if (settled.empty()) continue;
      out.push_back({static_cast<double>(a) * PitchTrack::kHop, static_cast<double>(b) * PitchTrack::kHop,
                     medianOf(std::move(settled))});
    }
    t = end;
  }
  return out;
}

}  // namespace

std::vector<SungNote> notesOf(const PitchTrack& track, std::span<const float> samples, int rate,
                              const std::vector<double>& onsets) {
  if (track.values.empty()) return {};
  const Level level(samples, rate, track.values.size());
  std::vector<SungNote> out;
  for (auto note : byPitch(track)) {
    double nearest = 1e9;
    double begins = note.start;
    for (const double o : onsets)
      if (o >= note.start - kOnsetBefore && o <= note.start + kOnsetAfter && std::abs(o - note.start) < nearest) {
        nearest = std::abs(o - note.start);
        begins = o;
      }
    note.start = begins;
    if (!out.empty()) out.back().end = std::min(out.back().end, note.start);
    for (const double o : onsets) {
      if (o <= note.start + kApart || o >= note.end - kApart || level.riseAt(o) < kRise) continue;
      out.push_back({note.start, o, note.hertz});
      note.start = o;
    }
    out.push_back(note);
  }
  std::erase_if(out, [](const SungNote& n) { return n.end - n.start <= kLeastSeconds; });
  return out;
}

}  // namespace ochron
