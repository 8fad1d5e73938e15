#include "analysis/pitch/notes.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

#include "analysis/pitch/colour_change.h"
#include "analysis/pitch/cycle_break.h"
#include "analysis/pitch/note_overlap.h"
#include "analysis/pitch/periodicity.h"
#include "analysis/pitch/pitch_course.h"
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
constexpr double kOnsetAfter = 0.02;   // s
constexpr double kOnsetByRise = 0.02;  // s, from where a note's harmonics rise
constexpr std::size_t kGlide = 14;     // values, 70 ms at most
constexpr double kLeft = 0.2;          // of the way to the next pitch
constexpr std::size_t kAttack = 9;     // values, 45 ms: an attack has its pitch by then
constexpr double kFromEnds = 0.06;     // s from an onset amid a pitch to the note's ends
constexpr double kRepeat = 0.09;       // s from one note to the next of its pitch
constexpr double kConsonant = 1800;    // Hz

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

/// The pitch of values [from, to) once it has settled: the median of what sounds after their first quarter, Hz; 0 where
/// nothing does.
double settledPitch(const PitchTrack& track, std::size_t from, std::size_t to) {
  std::vector<double> settled;
  for (auto t = from + (to - from) / 4; t < to; ++t)
    if (track.values[t].sounds()) settled.push_back(track.values[t].hertz);
  return medianOf(std::move(settled));
}

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
      const double hertz = settledPitch(track, a, b);
      if (hertz > 0) out.push_back({PitchTrack::secondsAt(a), PitchTrack::secondsAt(b), hertz});
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

/// How far the values of any stretch lie off their mean, squared and summed, after one walk through all of them.
class SquaresOff {
 public:
  explicit SquaresOff(const std::vector<double>& y) {
    const double middle = meanOf(y, 0, y.size());
    for (const double v : y) {
      sums_.push_back(sums_.back() + v - middle);
      squares_.push_back(squares_.back() + (v - middle) * (v - middle));
    }
  }
  double of(std::size_t from, std::size_t to) const {
    const double sum = sums_[to] - sums_[from];
    return squares_[to] - squares_[from] - sum * sum / static_cast<double>(to - from);
  }

 private:
  std::vector<double> sums_{0};
  std::vector<double> squares_{0};
};

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
  const SquaresOff squares(y);
  for (auto k = kHeld + kStepReach; k + kHeld + kStepReach <= y.size(); ++k) {
    const double off = squares.of(0, k - kStepReach) + squares.of(k + kStepReach, y.size());
    if (off >= least) continue;
    least = off;
    best = k;
  }
  const double step = std::abs(meanOf(y, best + kStepReach, y.size()) - meanOf(y, 0, best - kStepReach));
  return step >= kLeastStep && least < kOfLine * squaresOffLine(y) ? best : 0;
}

/// Where a course goes on at another level on another vowel. 0: nowhere.
std::size_t vowelWithin(const std::vector<double>& y, ColourChange& colour, std::size_t first) {
  std::size_t best = 0;
  double most = kOtherVowel;
  for (auto k = kVowel; k + kVowel <= y.size(); k += kLook) {
    const double change = colour.at(PitchTrack::secondsAt(first + k));
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
void addByStep(const PitchTrack& track, ColourChange& colour, const SungNote& note, std::vector<SungNote>& out) {
  const auto first = PitchTrack::valueAt(note.start);
  const auto last = PitchTrack::valueAt(note.end);
  const auto glides = (last - first) / 8;
  const auto course = withoutVibrato(pitchCourse(track, first + glides, last - glides));
  const auto step = stepWithin(course);
  const auto k = step > 0 ? step : vowelWithin(course, colour, first + glides);
  if (k == 0) {
    out.push_back(note);
    return;
  }
  const auto at = first + glides + k;
  const double joint = PitchTrack::secondsAt(at);
  addByStep(track, colour, {note.start, joint, settledPitch(track, first, at)}, out);
  addByStep(track, colour, {joint, note.end, settledPitch(track, at, last)}, out);
}

/// Where the pitch leaves the note before for one that it glides to, s; where it is nearer to this one, without a
/// glide.
double leaves(const PitchTrack& track, const SungNote& before, const SungNote& note) {
  const double from = centsOf(before.hertz);
  const double way = kLeft * std::abs(centsOf(note.hertz) - from);
  const auto first = std::max(PitchTrack::valueAt(before.start),
                              PitchTrack::valueAt(note.start) - std::min(PitchTrack::valueAt(note.start), kGlide));
  auto t = PitchTrack::valueAt(note.start);
  while (t > first && track.values[t - 1].sounds() && std::abs(centsOf(track.values[t - 1].hertz) - from) > way) --t;
  return PitchTrack::secondsAt(t);
}

/// How fast a stretch moves: the root of the mean square of its slope over that of its values, as the frequency of a
/// sine that moves so fast, Hz.
double movesAt(std::span<const float> x, int rate) {
  double values = 1e-12;
  double slopes = 0;
  for (std::size_t i = 0; i + 1 < x.size(); ++i) {
    const double slope = static_cast<double>(x[i + 1]) - x[i];
    values += static_cast<double>(x[i]) * x[i];
    slopes += slope * slope;
  }
  return std::asin(std::min(1.0, std::sqrt(slopes / values) / 2)) * rate / M_PI;
}

/// Whether what comes between an onset and a note is a consonant or a breath: long enough to be none of the note's
/// attack, without a pitch and of higher noise than any bow or lip makes.
bool isConsonant(const PitchTrack& track, std::span<const float> samples, int rate, double onset,
                 const SungNote& note) {
  const auto first = PitchTrack::valueAt(std::max(0.0, onset));
  const auto last = PitchTrack::valueAt(note.start);
  std::size_t silent = 0;
  for (auto t = first; t < last; ++t) silent += track.values[t].sounds() ? 0U : 1U;
  if (silent <= kAttack) return false;
  const auto at = [&](std::size_t value) {
    return std::min(samples.size(), static_cast<std::size_t>(PitchTrack::secondsAt(value) * rate));
  };
  return movesAt(samples.subspan(at(first), at(last) - at(first)), rate) > std::max(kConsonant, 2 * note.hertz);
}

/// The onset by the rise of a note that the one before rings over; that rise, when there is none.
double beginUnder(double rises, const SungNote& before, const std::vector<double>& onsets) {
  const double begins = std::max(rises, before.start + kLeastNoteSeconds);
  const auto at = std::min_element(onsets.begin(), onsets.end(),
                                   [&](double a, double b) { return std::abs(a - begins) < std::abs(b - begins); });
  return at != onsets.end() && std::abs(*at - begins) <= kOnsetByRise ? *at : begins;
}

/// The onset by a note's change of pitch; that change, when there is none.
double beginOf(const PitchTrack& track, std::span<const float> samples, int rate, const SungNote& note,
               const std::vector<double>& onsets) {
  double nearest = 1e9;
  double begins = note.start;
  for (const double o : onsets)
    if (o >= note.start - kOnsetBefore && o <= note.start + kOnsetAfter && std::abs(o - note.start) < nearest &&
        !isConsonant(track, samples, rate, o, note)) {
      nearest = std::abs(o - note.start);
      begins = o;
    }
  return begins;
}

/// The onsets amid a note that begin it anew: where its cycles break off. Another vowel, a swell or a beat of the tone
/// is an onset too, and none of these.
std::vector<double> repeatsWithin(std::span<const float> samples, int rate, const std::vector<double>& onsets,
                                  const SungNote& note) {
  std::vector<double> out;
  auto from = std::upper_bound(onsets.begin(), onsets.end(), note.start + kFromEnds);
  for (; from != onsets.end() && *from < note.end - kFromEnds; ++from) {
    if (!out.empty() && *from < out.back() + kRepeat) continue;
    const auto broken = cycleBreakAt(samples, rate, *from);
    if (broken && broken->clear()) out.push_back(*from);
  }
  return out;
}

/// A note from where it begins, the one before up to there.
void addBegun(const PitchTrack& track, std::span<const float> samples, int rate, const std::vector<double>& onsets,
              SungNote note, std::vector<SungNote>& out) {
  if (out.size() > 1 && liesBetween(samples, rate, out[out.size() - 2], out.back(), note)) {
    note.start = out.back().start;
    out.pop_back();
  } else if (!out.empty()) {  // what is heard of the two may wander from one to the other
    const double heard = middleHertz(track, PitchTrack::valueAt(out.back().end), PitchTrack::valueAt(note.start));
    if (heard > 0 && liesBetween(samples, rate, out.back(), {out.back().end, note.start, heard}, note))
      note.start = out.back().end;
  }
  const auto overlap = out.empty() ? std::nullopt : overlapOf(track, samples, rate, out.back(), note);
  if (overlap) {
    note.start = beginUnder(overlap->begins, out.back(), onsets);
  } else {
    if (!out.empty() && note.start - out.back().end < kGap * PitchTrack::kHop)
      note.start = leaves(track, out.back(), note);
    note.start = beginOf(track, samples, rate, note, onsets);
  }
  if (!out.empty()) out.back().end = std::min(out.back().end, note.start);
  out.push_back(note);
}

/// How loud a note gets, dB.
double loudest(const Periodicity& sound, const SungNote& note) {
  double most = -1e9;
  for (auto t = PitchTrack::valueAt(note.start); t < PitchTrack::valueAt(note.end); ++t)
    most = std::max(most, sound.level(t));
  return most;
}

/// How much louder the 50 ms from 20 ms after a moment are than those before it, dB.
double riseAt(const Periodicity& sound, double seconds) {
  constexpr std::size_t kFrom = 4;  // values
  constexpr std::size_t kTo = 14;
  const auto at = PitchTrack::valueAt(seconds);
  if (at < kTo) return 0;
  double rise = 0;
  for (auto k = kFrom; k < kTo; ++k) rise += sound.level(at + k) - sound.level(at - k);
  return rise / static_cast<double>(kTo - kFrom);
}

/// Whether a short stretch is what a room or a valve leaves after a note: far softer, and soon after it.
bool isTail(const Periodicity& sound, const SungNote& before, const SungNote& note) {
  constexpr double kLongestTail = 0.35;  // s
  constexpr double kSoonAfter = 0.4;     // s
  constexpr double kFarSofterDb = 24;    // notes of made voices and lines are 13 at most
  if (note.end - note.start > kLongestTail || note.start - before.end > kSoonAfter) return false;
  return loudest(sound, note) < loudest(sound, before) - kFarSofterDb;
}

/// What a note that is held goes through at its pitch, and what is no note of its own (docs/figures.md): a string that
/// dies away drifts and trembles, a pipe speaks softly before it sounds.
bool soundsOn(const Periodicity& sound, const SungNote& before, const SungNote& note) {
  constexpr double kSoonAfter = 0.03;  // s
  constexpr double kHardlyOff = 50;    // cents
  constexpr double kSofterDb = 8;      // of 594 true repeats none is so much softer and does not rise
  constexpr double kRisesDb = 3;
  constexpr double kSpeaksWithin = 0.2;  // s
  constexpr double kSpeaksDb = 12;
  if (note.start - before.end > kSoonAfter || std::abs(centsOf(note.hertz) - centsOf(before.hertz)) > kHardlyOff)
    return false;
  const double softer = loudest(sound, before) - loudest(sound, note);
  if (softer > kSofterDb) return riseAt(sound, note.start) < kRisesDb;
  return softer < -kSpeaksDb && before.end - before.start < kSpeaksWithin;
}

/// Notes that sound on made one.
std::vector<SungNote> withoutDrift(const PitchTrack& track, const Periodicity& sound,
                                   const std::vector<SungNote>& notes) {
  std::vector<SungNote> out;
  for (const auto& note : notes) {
    if (!out.empty() && soundsOn(sound, out.back(), note)) {
      auto& whole = out.back();
      whole.end = note.end;
      whole.hertz = settledPitch(track, PitchTrack::valueAt(whole.start), PitchTrack::valueAt(whole.end));
    } else {
      out.push_back(note);
    }
  }
  return out;
}

/// A note and those of its pitch that begin within it.
void addWithRepeats(const PitchTrack& track, std::span<const float> samples, int rate,
                    const std::vector<double>& onsets, SungNote note, std::vector<SungNote>& out) {
  const auto repeats = repeatsWithin(samples, rate, onsets, note);
  for (const double at : repeats) {
    out.push_back({note.start, at, settledPitch(track, PitchTrack::valueAt(note.start), PitchTrack::valueAt(at))});
    note.start = at;
  }
  if (!repeats.empty())
    note.hertz = settledPitch(track, PitchTrack::valueAt(note.start), PitchTrack::valueAt(note.end));
  out.push_back(note);
}

}  // namespace

std::vector<SungNote> notesOf(const PitchTrack& track, std::span<const float> samples, int rate,
                              const std::vector<double>& onsets, Progress& progress) {
  if (track.values.empty()) return {};
  std::vector<SungNote> sung;
  ColourChange colour(samples, rate);
  const auto goesOn = [&](double share, const SungNote& note) {
    const double along = note.start / PitchTrack::secondsAt(track.values.size());
    progress.report(kPitchShare + (1 - kPitchShare) * (share + along) / 3);
    return !progress.cancelled();
  };
  for (const auto& note : byPitch(track)) {
    if (!goesOn(0, note)) break;
    addByStep(track, colour, note, sung);
  }
  std::vector<SungNote> begun;
  const Periodicity sound(samples, rate);
  for (const auto& note : sung) {
    if (!goesOn(1, note)) break;
    if (!begun.empty() && isTail(sound, begun.back(), note)) continue;
    addBegun(track, samples, rate, onsets, note, begun);
  }
  std::vector<SungNote> out;
  for (const auto& note : begun) {
    if (!goesOn(2, note)) break;
    addWithRepeats(track, samples, rate, onsets, note, out);
  }
  std::erase_if(out, [](const SungNote& n) { return n.end - n.start <= kLeastNoteSeconds || n.hertz <= 0; });
  return withoutDrift(track, sound, out);
}

}  // namespace ochron
