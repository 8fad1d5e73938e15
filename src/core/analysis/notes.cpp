#include "analysis/notes.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

#include "analysis/colour_change.h"
#include "analysis/pitch_course.h"
#include "base/median.h"

namespace ochron {
namespace {

constexpr double kGrid = 20;            // cents from one pitch of the course to the next
constexpr double kChange = 2000;        // what a change costs, cents x values: half a second of 20 cents
constexpr double kMostOff = 150;        // cents; a value costs no more than this
constexpr std::size_t kGap = 3;         // unvoiced values that a note sounds through
constexpr std::size_t kLeast = 12;      // values, 60 ms
constexpr std::size_t kHeld = 24;       // values that each level of a step is held
constexpr std::size_t kStepReach = 12;  // values that a step takes to either side, smoothed as it is
constexpr double kLeastStep = 18;       // cents
constexpr double kOfLine = 0.15;        // of what a line leaves
constexpr double kOtherVowel = 8.5;     // dB of colour; a held one stays under 7
constexpr double kOtherVowelStep = 10;  // cents, of what is sung on another vowel
constexpr std::size_t kVowel = 28;      // values that each of them is held at least
constexpr std::size_t kCompared = 60;   // values of each that are compared at most
constexpr std::size_t kLook = 4;        // values from one look at the colour to the next
constexpr double kLeastNoteSeconds = 0.05;
constexpr double kOnsetBefore = 0.15;  // s: how far before its change of pitch a note may have begun
constexpr double kOnsetAfter = 0.06;   // s
constexpr double kApart = 0.06;        // s from an onset amid a pitch to the note's ends
constexpr double kRise = 5;            // dB

/// The first value of each note within [begin, end), by the least sum of distances and changes (a Potts course).
std::vector<std::size_t> changesWithin(const PitchTrack& track, std::size_t begin, std::size_t end) {
  double low = 1e9;
  double high = 0;
  for (auto t = begin; t < end; ++t) {
    if (!track.values[t].sounds()) continue;
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
      if (track.values[t].sounds())
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
  /// dB by which the level grows about a moment: from the softest of the 70 ms before and the 30 ms after it to the
  /// loudest that follows within 100 ms. What dies away grows by nothing.
  double riseAt(double seconds) const {
    const auto at = static_cast<std::int64_t>(seconds / PitchTrack::kHop);
    const auto size = std::ssize(decibels_);
    double softest = 1e9;
    double most = 0;
    for (auto t = std::clamp<std::int64_t>(at - 14, 0, size - 1); t < std::min(size, at + 20); ++t) {
      const double here = decibels_[static_cast<std::size_t>(t)];
      if (t >= at - 2) most = std::max(most, here - softest);
      if (t < at + 6) softest = std::min(softest, here);
    }
    return most;
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
      if (track.values[i].sounds()) return true;
    return false;
  };
  for (std::size_t t = 0; t < size; ++t) {
    if (!track.values[t].sounds()) continue;
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
        if (track.values[k].sounds()) settled.push_back(track.values[k].hertz);
      if (settled.empty()) continue;
      out.push_back({static_cast<double>(a) * PitchTrack::kHop, static_cast<double>(b) * PitchTrack::kHop,
                     medianOf(std::move(settled))});
    }
    t = end;
  }
  return out;
}

double meanOf(const std::vector<double>& y, std::size_t from, std::size_t to) {
  double sum = 0;
  for (auto i = from; i < to; ++i) sum += y[i];
  return sum / static_cast<double>(to - from);
}

double squaresOff(const std::vector<double>& y, std::size_t from, std::size_t to) {
  const double mean = meanOf(y, from, to);
  double off = 0;
  for (auto i = from; i < to; ++i) off += (y[i] - mean) * (y[i] - mean);
  return off;
}

double squaresOffLine(const std::vector<double>& y) {
  const double n = static_cast<double>(y.size());
  double sum = 0;
  double along = 0;
  for (std::size_t i = 0; i < y.size(); ++i) {
    sum += y[i];
    along += y[i] * (static_cast<double>(i) - (n - 1) / 2);
  }
  const double slope = along / (n * (n * n - 1) / 12);
  double off = 0;
  for (std::size_t i = 0; i < y.size(); ++i) {
    const double d = y[i] - sum / n - slope * (static_cast<double>(i) - (n - 1) / 2);
    off += d * d;
  }
  return off;
}

/// Where a course without its vibrato steps from one level to another, of which each is held: far better than a line
/// tells it. 0: nowhere.
std::size_t stepWithin(const std::vector<double>& y) {
  if (y.size() < 2 * kHeld + 2 * kStepReach) return 0;
  std::size_t best = 0;
  double least = 1e30;
  for (auto k = kHeld + kStepReach; k + kHeld + kStepReach <= y.size(); ++k) {
    const double off = squaresOff(y, 0, k - kStepReach) + squaresOff(y, k + kStepReach, y.size());
    if (off >= least) continue;
    least = off;
    best = k;
  }
  const double step = std::abs(meanOf(y, best + kStepReach, y.size()) - meanOf(y, 0, best - kStepReach));
  return step >= kLeastStep && least < kOfLine * squaresOffLine(y) ? best : 0;
}

/// Where a course goes on at another level on another vowel. 0: nowhere.
std::size_t vowelWithin(const std::vector<double>& y, std::span<const float> samples, int rate, std::size_t first) {
  std::size_t best = 0;
  double most = kOtherVowel;
  for (auto k = kVowel; k + kVowel <= y.size(); k += kLook) {
    const double change = colourChange(samples, rate, static_cast<double>(first + k) * PitchTrack::kHop);
    if (change <= most) continue;
    const auto from = k > kCompared ? k - kCompared : 0;
    const auto to = std::min(y.size(), k + kCompared);
    if (std::abs(meanOf(y, k + kStepReach, to) - meanOf(y, from, k - kStepReach)) < kOtherVowelStep) continue;
    most = change;
    best = k;
  }
  return best;
}

/// A pitch sung anew, a little higher or lower and without a break, is a note of its own.
void addByStep(const PitchTrack& track, std::span<const float> samples, int rate, const SungNote& note,
               std::vector<SungNote>& out) {
  const auto first = static_cast<std::size_t>(std::lround(note.start / PitchTrack::kHop));
  const auto last = static_cast<std::size_t>(std::lround(note.end / PitchTrack::kHop));
  const auto glides = (last - first) / 8;
  const auto course = withoutVibrato(pitchCourse(track, first + glides, last - glides));
  const auto step = stepWithin(course);
  const auto k = step > 0 ? step : vowelWithin(course, samples, rate, first + glides);
  if (k == 0) {
    out.push_back(note);
    return;
  }
  const auto pitchOfValues = [&](std::size_t from, std::size_t to) {
    std::vector<double> all;
    for (auto t = from + (to - from) / 4; t < to; ++t)
      if (track.values[t].sounds()) all.push_back(track.values[t].hertz);
    return all.empty() ? note.hertz : medianOf(std::move(all));
  };
  const auto at = first + glides + k;
  addByStep(track, samples, rate, {note.start, static_cast<double>(at) * PitchTrack::kHop, pitchOfValues(first, at)},
            out);
  addByStep(track, samples, rate, {static_cast<double>(at) * PitchTrack::kHop, note.end, pitchOfValues(at, last)}, out);
}

}  // namespace

std::vector<SungNote> notesOf(const PitchTrack& track, std::span<const float> samples, int rate,
                              const std::vector<double>& onsets) {
  if (track.values.empty()) return {};
  const Level level(samples, rate, track.values.size());
  std::vector<SungNote> out;
  std::vector<SungNote> sung;
  for (const auto& note : byPitch(track)) addByStep(track, samples, rate, note, sung);
  for (auto note : sung) {
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
  std::erase_if(out, [](const SungNote& n) { return n.end - n.start <= kLeastNoteSeconds; });
  return out;
}

}  // namespace ochron
