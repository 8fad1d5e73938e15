#include "analysis/pitch/note_overlap.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstdint>
#include <limits>

#include "base/median.h"
#include "base/numbers.h"
#include "dsp/fft.h"
#include "dsp/window.h"

namespace ochron {
namespace {

constexpr double kAdjoins = 0.05;        // s, from the end of one note to the next
constexpr double kAnotherPitch = 60;     // cents
constexpr double kOfItsPitch = 35;       // cents
constexpr double kNearOf = 0.35;         // of the way from one pitch to the other
constexpr std::size_t kReach = 40;       // values before the pitch arrives
constexpr std::size_t kSure = 4;         // values by which it has arrived
constexpr std::size_t kOverlapJump = 2;  // values in between at most; a glide takes more
constexpr double kOverlapWindow = 0.06;  // s
constexpr double kApartCycles = 1.3;     // within a window, from a harmonic of the other note
constexpr double kApartOf = 0.02;        // of its frequency: as far as a vibrato carries it
constexpr double kHighest = 5000;        // Hz
constexpr double kLookBack = 0.25;       // s before the pitch arrives
constexpr double kSettles = 0.02;        // s after
constexpr double kMeasured = 0.3;        // s
constexpr double kRingsBefore = 0.06;    // s before the arrival: the old note at its full level
constexpr double kRingsAfter = 0.035;    // s after it: what still rings
constexpr double kHeardDb = -30;         // below its strongest: a harmonic that tells how it rings
constexpr double kRingsDb = -23;         // of 26 jumps of voices 3 ring so, of 501 of instruments 480
constexpr double kOwnDb = 15;            // above what was there before: a harmonic of the new note
constexpr double kBeginsDb = -18;
constexpr double kClearDb = 6;                                    // above what was there before
constexpr double kLong = 0.04;                                    // s: what sounds so long under another is no glide
constexpr double kNone = 1e-15;                                   // power
constexpr std::size_t kLeastValues = 3;                           // that a level is measured on
constexpr std::size_t kOverlapBefore = 12;                        // values at most of what was there before
constexpr double kLongWindow = 0.12;                              // s: tells low notes a third apart
constexpr double kLowHarmonics = 1500;                            // Hz
constexpr double kShortestBetween = 0.09, kLongestBetween = 0.4;  // s
constexpr std::size_t kLooks = 4;
constexpr double kBothDb = -15;         // of what a note was, or will be: it sounds
constexpr double kNothingDb = -6;       // below the new note's: the pitch between has no harmonics of its own
constexpr std::size_t kFirstHeard = 6;  // values of the pitch that is arrived at

/// The harmonics of one pitch that others have not.
class OwnHarmonics {
 public:
  OwnHarmonics(std::span<const float> samples, int rate, double hertz, std::initializer_list<double> others,
               double window = kOverlapWindow, double highest = kHighest)
      : samples_(samples),
        rate_(rate),
        window_(hannWindow(static_cast<int>(window * rate))),
        fft_(static_cast<int>(std::bit_ceil(window_.size()))) {
    const double top = std::min(highest, 0.45 * rate);
    for (double f = hertz; f < top; f += hertz) {
      const bool own = std::all_of(others.begin(), others.end(), [&](double other) {
        const double nearest = other * std::max(1.0, std::round(f / other));
        return std::abs(f - nearest) > std::max(kApartCycles / window, kApartOf * f);
      });
      if (own) bins_.push_back(static_cast<std::size_t>(std::lround(f * fft_.size() / rate)));
    }
  }
  std::size_t size() const { return bins_.size(); }

  /// The power of each about `centre`, s.
  std::vector<double> at(double centre) {
    const auto first = std::llround(centre * rate_) - std::ssize(window_) / 2;
    auto x = fft_.time();
    std::fill(x.begin(), x.end(), 0.0F);
    for (std::size_t i = 0; i < window_.size(); ++i)
      if (const auto k = first + static_cast<std::int64_t>(i); k >= 0 && k < std::ssize(samples_))
        x[i] = window_[i] * samples_[static_cast<std::size_t>(k)];
    fft_.forward();
    std::vector<double> out;
    out.reserve(bins_.size());
    for (const auto bin : bins_) out.push_back(std::norm(fft_.bins()[bin]));
    return out;
  }

 private:
  std::span<const float> samples_;
  int rate_;
  std::vector<float> window_;
  RealFft fft_;
  std::vector<std::size_t> bins_;
};

/// Where the pitch comes to a note, and the values that it takes from the one before.
struct Arrival {
  std::size_t at = 0;
  std::size_t between = 0;
};

std::optional<Arrival> arrivalAt(const PitchTrack& track, const SungNote& before, const SungNote& note) {
  const auto last = std::min(track.values.size(), PitchTrack::valueAt(note.end));
  const double from = centsOf(before.hertz);
  const double to = centsOf(note.hertz);
  const double near = kNearOf * std::abs(to - from);
  const auto off = [&](std::size_t t, double cents) {
    const double hertz = track.values[t].hertz;
    return hertz > 0 ? std::abs(centsOf(hertz) - cents) : std::numeric_limits<double>::max();
  };
  Arrival out{PitchTrack::valueAt(note.start)};
  while (out.at < last && off(out.at, to) >= kAnotherPitch) ++out.at;
  if (out.at >= last) return {};
  std::optional<std::size_t> left;
  for (auto t = out.at > kReach ? out.at - kReach : 0; t < std::min(last, out.at + kSure); ++t) {
    if (!track.values[t].sounds()) continue;
    if (off(t, from) < near) left = t;
    if (off(t, to) >= near) continue;
    if (!left) return {};
    out.between = t - *left - 1;
    return out;
  }
  return {};
}

/// Whether the note before still sounds when the pitch has left it: most of its harmonics do.
bool ringsOn(std::span<const float> samples, int rate, double before, double hertz, double arrives) {
  OwnHarmonics old(samples, rate, before, {hertz});
  if (old.size() == 0) return true;
  const auto full = old.at(arrives - kRingsBefore);
  const auto rest = old.at(arrives + kRingsAfter);
  const double least = *std::max_element(full.begin(), full.end()) * std::pow(10, kHeardDb / 10);
  std::vector<double> kept;
  for (std::size_t h = 0; h < full.size(); ++h)
    if (full[h] > least) kept.push_back(decibelsOf((rest[h] + kNone) / full[h]));
  return !kept.empty() && medianOf(std::move(kept)) >= kRingsDb;
}

/// Where a note's own harmonics rise above what was there before, s.
std::optional<double> risesAt(std::span<const float> samples, int rate, const SungNote& before, const SungNote& note,
                              std::size_t arrives) {
  OwnHarmonics own(samples, rate, note.hertz, {before.hertz});
  const double at = PitchTrack::secondsAt(arrives);
  const auto first = PitchTrack::valueAt(std::max(before.start, at - kLookBack));
  const auto last = PitchTrack::valueAt(std::min(note.end, at + kMeasured));
  if (own.size() == 0 || first + 2 * kLeastValues > arrives ||
      last < arrives + PitchTrack::valueAt(kSettles) + kLeastValues)
    return {};
  std::vector<std::vector<double>> powers;
  for (auto t = first; t < last; ++t) powers.push_back(own.at(PitchTrack::secondsAt(t)));
  const auto reached = arrives - first;
  const auto quiet = std::clamp(reached / 3, kLeastValues, kOverlapBefore);
  std::vector<double> sum(powers.size(), 0.0);
  double there = 0;
  for (std::size_t h = 0; h < own.size(); ++h) {
    double old = 0;
    for (std::size_t i = 0; i < quiet; ++i) old += powers[i][h] / static_cast<double>(quiet);
    std::vector<double> settled;
    for (auto i = reached + PitchTrack::valueAt(kSettles); i < powers.size(); ++i) settled.push_back(powers[i][h]);
    if (decibelsOf(medianOf(std::move(settled)) / (old + kNone)) < kOwnDb) continue;
    there += old;
    for (std::size_t i = 0; i < powers.size(); ++i) sum[i] += powers[i][h];
  }
  const double most = *std::max_element(sum.begin() + static_cast<std::ptrdiff_t>(reached), sum.end());
  if (most <= 0) return {};
  const double least = std::max(most * std::pow(10, kBeginsDb / 10), there * std::pow(10, kClearDb / 10));
  auto i = reached;
  while (i > 0 && sum[i - 1] >= least) --i;
  return i == 0 ? std::nullopt : std::optional(PitchTrack::secondsAt(first + i));
}

/// The mean power of harmonics over a stretch; 0 of none.
double meanPower(OwnHarmonics& harmonics, double from, double to) {
  double sum = 0;
  for (std::size_t i = 0; i < kLooks; ++i)
    for (const double p : harmonics.at(from + (to - from) * (static_cast<double>(i) + 0.5) / kLooks)) sum += p;
  return harmonics.size() > 0 ? sum / static_cast<double>(harmonics.size() * kLooks) : 0;
}

}  // namespace

double middleHertz(const PitchTrack& track, std::size_t from, std::size_t to) {
  std::vector<double> hertz;
  for (auto t = from; t < std::min(track.values.size(), to); ++t)
    if (track.values[t].hertz > 0) hertz.push_back(track.values[t].hertz);
  return medianOf(std::move(hertz));
}

bool liesBetween(std::span<const float> samples, int rate, const SungNote& before, const SungNote& between,
                 const SungNote& after) {
  const double a = before.hertz, b = between.hertz, c = after.hertz;
  if (between.start - before.end > kAdjoins || after.start - between.end > kAdjoins ||
      between.end - between.start > kLongestBetween || between.end - between.start < kShortestBetween)
    return false;
  const auto own = [&](double hertz, std::initializer_list<double> others) {
    return OwnHarmonics(samples, rate, hertz, others, kLongWindow, kLowHarmonics);
  };
  auto old = own(a, {b, c});
  auto ours = own(b, {a, c});
  auto fresh = own(c, {a, b});
  if (old.size() == 0 || ours.size() == 0 || fresh.size() == 0) return false;
  const double from = between.start + kLongWindow / 2;
  const double to = std::max(from, between.end - kLongWindow / 2);
  const double was = meanPower(old, before.end - kLongWindow, before.end - kLongWindow / 2);
  const double comes = meanPower(fresh, after.start + kLongWindow / 2, after.start + kLongWindow);
  const double there = meanPower(ours, from, to);
  const double rings = meanPower(old, from, to);
  const double sounds = meanPower(fresh, from, to);
  return decibelsOf((rings + kNone) / (was + kNone)) > kBothDb &&
         decibelsOf((sounds + kNone) / (comes + kNone)) > kBothDb &&
         decibelsOf((there + kNone) / (sounds + kNone)) < kNothingDb;
}

std::optional<NoteOverlap> overlapOf(const PitchTrack& track, std::span<const float> samples, int rate,
                                     const SungNote& before, const SungNote& note) {
  if (note.start - before.end > kAdjoins || std::abs(centsOf(note.hertz) - centsOf(before.hertz)) < kAnotherPitch)
    return {};
  const auto arrival = arrivalAt(track, before, note);
  if (!arrival) return {};
  const double at = PitchTrack::secondsAt(arrival->at);
  if (!ringsOn(samples, rate, before.hertz, note.hertz, at)) return {};
  const auto begins = risesAt(samples, rate, before, note, arrival->at);
  if (!begins || (arrival->between > kOverlapJump && at - *begins < kLong)) return {};
  return NoteOverlap{*begins, arrival->at};
}

namespace {

/// The first value with a note's own pitch that stays.
std::size_t reached(const PitchTrack& track, const SungNote& note) {
  const auto last = std::min(track.values.size(), PitchTrack::valueAt(note.end));
  std::size_t held = 0;
  for (auto t = PitchTrack::valueAt(note.start); t < last; ++t) {
    const auto& v = track.values[t];
    held = v.sounds() && std::abs(centsOf(v.hertz) - centsOf(note.hertz)) < kOfItsPitch ? held + 1 : 0;
    if (held == kSure) return t + 1 - kSure;
  }
  return last;
}

/// Where a note's pitch is first heard of which something else was heard before: the one that rings over it, or
/// neither.
std::optional<std::size_t> heardLate(const PitchTrack& track, std::span<const float> samples, int rate,
                                     const SungNote& before, const SungNote& note) {
  const auto begins = PitchTrack::valueAt(note.start);
  const auto at = reached(track, note);
  const double heard = middleHertz(track, begins, at);
  const double joint = PitchTrack::secondsAt(at);
  const bool neither =
      heard > 0 && liesBetween(samples, rate, before, {note.start, joint, heard}, {joint, note.end, note.hertz});
  if (neither) return at;
  const auto overlap = overlapOf(track, samples, rate, before, note);
  return overlap ? std::optional(overlap->arrives) : std::nullopt;
}

}  // namespace

PitchTrack withBeginnings(PitchTrack track, std::span<const float> samples, int rate,
                          const std::vector<SungNote>& notes) {
  const auto heard = track;
  for (std::size_t i = 1; i < notes.size(); ++i) {
    const auto arrives = heardLate(heard, samples, rate, notes[i - 1], notes[i]);
    if (!arrives) continue;
    const double hertz = middleHertz(heard, *arrives, *arrives + kFirstHeard);
    for (auto t = PitchTrack::valueAt(notes[i].start); t < *arrives; ++t)
      track.values[t] = {hertz, std::max(0.5, heard.values[t].voiced)};
  }
  return track;
}

}  // namespace ochron
