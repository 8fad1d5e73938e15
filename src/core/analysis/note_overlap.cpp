#include "analysis/note_overlap.h"

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

constexpr double kAdjoins = 0.05;         // s, from the end of one note to the next
constexpr double kAnotherPitch = 60;      // cents
constexpr double kNearOf = 0.35;          // of the way from one pitch to the other
constexpr std::size_t kReach = 40;        // values before the pitch arrives
constexpr std::size_t kSure = 4;          // values by which it has arrived
constexpr std::size_t kJump = 2;          // values in between at most; a glide takes more
constexpr double kWindow = 0.06;          // s
constexpr double kApart = 1.3 / kWindow;  // Hz from a harmonic of the other note
constexpr double kApartOf = 0.02;         // of its frequency: as far as a vibrato carries it
constexpr double kHighest = 5000;         // Hz
constexpr double kLookBack = 0.25;        // s before the pitch arrives
constexpr double kSettles = 0.02;         // s after
constexpr double kMeasured = 0.3;         // s
constexpr double kRingsBefore = 0.06;     // s before the arrival: the old note at its full level
constexpr double kRingsAfter = 0.035;     // s after it: what still rings
constexpr double kHeardDb = -30;          // below its strongest: a harmonic that tells how it rings
constexpr double kRingsDb = -23;          // of 26 jumps of voices 3 ring so, of 501 of instruments 480
constexpr double kOwnDb = 15;             // above what was there before: a harmonic of the new note
constexpr double kBeginsDb = -18;
constexpr double kClearDb = 6;           // above what was there before
constexpr double kLong = 0.04;           // s: what sounds so long under another is no glide
constexpr double kNone = 1e-15;          // power
constexpr std::size_t kLeastValues = 3;  // that a level is measured on
constexpr std::size_t kBefore = 12;      // values at most of what was there before
constexpr std::size_t kFirstHeard = 6;   // values of the pitch that is arrived at

/// The harmonics of one pitch that another has not.
class OwnHarmonics {
 public:
  OwnHarmonics(std::span<const float> samples, int rate, double hertz, double other)
      : samples_(samples),
        rate_(rate),
        window_(hannWindow(static_cast<int>(kWindow * rate))),
        fft_(static_cast<int>(std::bit_ceil(window_.size()))) {
    const double top = std::min(kHighest, 0.45 * rate);
    for (double f = hertz; f < top; f += hertz) {
      const double nearest = other * std::max(1.0, std::round(f / other));
      if (std::abs(f - nearest) > std::max(kApart, kApartOf * f))
        bins_.push_back(static_cast<std::size_t>(std::lround(f * fft_.size() / rate)));
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
  OwnHarmonics old(samples, rate, before, hertz);
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
  OwnHarmonics own(samples, rate, note.hertz, before.hertz);
  const double at = PitchTrack::secondsAt(arrives);
  const auto first = PitchTrack::valueAt(std::max(before.start, at - kLookBack));
  const auto last = PitchTrack::valueAt(std::min(note.end, at + kMeasured));
  if (own.size() == 0 || first + 2 * kLeastValues > arrives ||
      last < arrives + PitchTrack::valueAt(kSettles) + kLeastValues)
    return {};
  std::vector<std::vector<double>> powers;
  for (auto t = first; t < last; ++t) powers.push_back(own.at(PitchTrack::secondsAt(t)));
  const auto reached = arrives - first;
  const auto quiet = std::clamp(reached / 3, kLeastValues, kBefore);
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

}  // namespace

std::optional<NoteOverlap> overlapOf(const PitchTrack& track, std::span<const float> samples, int rate,
                                     const SungNote& before, const SungNote& note) {
  if (note.start - before.end > kAdjoins || std::abs(centsOf(note.hertz) - centsOf(before.hertz)) < kAnotherPitch)
    return {};
  const auto arrival = arrivalAt(track, before, note);
  if (!arrival) return {};
  const double at = PitchTrack::secondsAt(arrival->at);
  if (!ringsOn(samples, rate, before.hertz, note.hertz, at)) return {};
  const auto begins = risesAt(samples, rate, before, note, arrival->at);
  if (!begins || (arrival->between > kJump && at - *begins < kLong)) return {};
  return NoteOverlap{*begins, arrival->at};
}

PitchTrack withBeginnings(PitchTrack track, std::span<const float> samples, int rate,
                          const std::vector<SungNote>& notes) {
  const auto heard = track;
  for (std::size_t i = 1; i < notes.size(); ++i) {
    const auto overlap = overlapOf(heard, samples, rate, notes[i - 1], notes[i]);
    if (!overlap) continue;
    std::vector<double> arrived;
    for (auto t = overlap->arrives; t < std::min(heard.values.size(), overlap->arrives + kFirstHeard); ++t)
      arrived.push_back(heard.values[t].hertz);
    const double hertz = medianOf(std::move(arrived));
    for (auto t = PitchTrack::valueAt(notes[i].start); t < overlap->arrives; ++t)
      track.values[t] = {hertz, std::max(0.5, heard.values[t].voiced)};
  }
  return track;
}

}  // namespace ochron
