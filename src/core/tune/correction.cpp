#include "tune/correction.h"

#include <algorithm>
#include <cmath>

#include "dsp/window.h"

namespace ochron {
namespace {

constexpr std::size_t kGap = 3;    // unvoiced values that a voice sounds through
constexpr std::size_t kApart = 8;  // values between two stretches: where they are joined, each reaches into them
constexpr double kNothing = 0.05;  // cents; less is no change

struct Voicing {
  std::size_t first;
  std::size_t last;
};

std::vector<Voicing> voicings(const PitchTrack& track) {
  std::vector<Voicing> out;
  for (std::size_t t = 0; t < track.values.size(); ++t) {
    if (!track.values[t].sounds()) continue;
    if (!out.empty() && t <= out.back().last + kGap)
      out.back().last = t + 1;
    else
      out.push_back({t, t + 1});
  }
  return out;
}

/// A stretch of the voicing `v` from a value of it on, which has taken no values yet.
MovedStretch stretchIn(const std::vector<Voicing>& all, std::size_t v, std::size_t from) {
  MovedStretch s;
  s.first = all[v].first + from;
  const auto gap = [](std::size_t before, std::size_t after) {
    return std::min(after - before, MovedStretch::kNoNeighbour);
  };
  if (from > 0)
    s.gapBefore = 0;
  else if (v > 0)
    s.gapBefore = gap(all[v - 1].last, all[v].first);
  if (v + 1 < all.size()) s.gapAfter = gap(all[v].last, all[v + 1].first);
  return s;
}

/// By how much each value of a note's settled part goes up.
std::vector<double> inside(const TunedNote& n) {
  std::vector<double> out;
  for (std::size_t i = 0; i < n.parts.wander.size(); ++i)
    out.push_back(n.after - n.parts.centre + n.parts.wander[i] * (n.settings.keepWander / 100 - 1) +
                  n.parts.vibrato[i] * (n.settings.keepVibrato / 100 - 1));
  return out;
}

/// A note's settled part in a voicing, values of the voicing: [from, to).
struct Settled {
  const TunedNote* note;
  std::size_t from;
  std::size_t to;
};

std::vector<Settled> settledIn(const Voicing& v, const std::vector<TunedNote>& notes) {
  std::vector<Settled> out;
  std::size_t filled = 0;
  auto note = std::partition_point(notes.begin(), notes.end(), [&](auto& n) { return n.parts.last <= v.first; });
  for (; note != notes.end() && note->parts.first < v.last; ++note) {
    const auto& n = *note;
    const auto from = std::clamp(n.parts.first, v.first + filled, v.last) - v.first;
    const auto to = std::clamp(n.parts.last, v.first + from, v.last) - v.first;
    if (to == from) continue;
    out.push_back({&n, from, to});
    filled = to;
  }
  return out;
}

double between(double a, double b, double along) { return a + (b - a) * hannAt(0.5 * along); }

/// Values of a voicing: those of each settled part, gliding in between, going on to both ends. `without`: where there
/// is none.
template <class F>
std::vector<double> glided(const Voicing& v, const std::vector<Settled>& settled, double without, F&& valueOf) {
  std::vector<double> out(v.last - v.first, without);
  std::size_t filled = 0;
  for (const auto& s : settled) {
    for (auto k = s.from; k < s.to; ++k) out[k] = valueOf(s, k);
    for (auto k = filled; k < s.from; ++k)
      out[k] = filled == 0 ? out[s.from]
                           : between(out[filled - 1], out[s.from],
                                     static_cast<double>(k + 1 - filled) / static_cast<double>(s.from + 1 - filled));
    filled = s.to;
  }
  if (filled > 0) std::fill(out.begin() + static_cast<std::ptrdiff_t>(filled), out.end(), out[filled - 1]);
  return out;
}

/// Makes the way from one settled part to the next as quick as the settings keep of it: the course that is there
/// already is run through faster, around the place where it is half way. `cents`: the change so far.
void quickenGlide(const PitchTrack& track, const Voicing& v, std::size_t from, std::size_t to, double keep,
                  std::vector<double>& cents) {
  constexpr double kQuickest = 4;  // values, 20 ms
  if (keep >= 1 || to < from + 2) return;
  std::vector<double> sung;
  for (auto k = from; k < to; ++k) {
    const double hertz = track.values[v.first + k].hertz;
    if (hertz <= 0) return;
    sung.push_back(centsOf(hertz));
  }
  const auto count = sung.size();
  std::vector<double> course(count);
  for (std::size_t k = 0; k < count; ++k) course[k] = sung[k] + cents[from + k];
  const double half = 0.5 * (course.front() + course.back());
  const bool up = course.back() > course.front();
  std::size_t middle = 0;
  while (middle + 1 < count && (course[middle] < half) == up) ++middle;
  const double slower = std::max(keep, kQuickest / static_cast<double>(count));
  for (std::size_t k = 1; k + 1 < count; ++k) {
    const double at =
        std::clamp(static_cast<double>(middle) + (static_cast<double>(k) - static_cast<double>(middle)) / slower, 0.0,
                   static_cast<double>(count - 1));
    const auto a = static_cast<std::size_t>(at);
    const auto b = std::min(a + 1, count - 1);
    cents[from + k] = course[a] + (course[b] - course[a]) * (at - static_cast<double>(a)) - sung[k];
  }
}

}  // namespace

double towards(double target, double centre, const TuneSettings& settings) {
  if (std::abs(target - centre) <= settings.tolerance) return centre;
  const double move = (target - centre) * (1 - settings.keepCentre / 100);
  if (settings.largestMove <= 0) return centre + move;
  return centre + std::clamp(move, -settings.largestMove, settings.largestMove);
}

std::vector<TunedNote> tuned(const PitchTrack& track, const std::vector<SungNote>& notes, const TuneSettings& settings,
                             const std::vector<NoteWish>& wishes) {
  std::vector<TunedNote> out;
  for (std::size_t i = 0; i < notes.size(); ++i) {
    const auto wish = i < wishes.size() ? wishes[i] : NoteWish{};
    TunedNote n{notes[i], partsOf(track, notes[i]), 0, 0, settingsFor(settings, wish)};
    n.target = wish.target.value_or(settings.scale.nearest(n.parts.centre));
    n.after = (wish.target ? n.target : towards(n.target, n.parts.centre, n.settings)) + settings.transpose;
    out.push_back(std::move(n));
  }
  return out;
}

std::vector<MovedStretch> movedStretches(const PitchTrack& track, const std::vector<TunedNote>& notes,
                                         const TuneSettings& plan) {
  std::vector<MovedStretch> out;
  std::vector<std::vector<double>> changes;
  changes.reserve(notes.size());
  for (const auto& n : notes) changes.push_back(inside(n));
  const auto all = voicings(track);
  for (std::size_t i = 0; i < all.size(); ++i) {
    const auto& v = all[i];
    const auto settled = settledIn(v, notes);
    auto cents = glided(v, settled, plan.transpose, [&](const Settled& s, std::size_t k) {
      return changes[static_cast<std::size_t>(s.note - notes.data())][v.first + k - s.note->parts.first];
    });
    const auto formants = glided(v, settled, plan.on ? plan.formants : 0,
                                 [](const Settled& s, std::size_t) { return s.note->settings.formants; });
    for (std::size_t n = 1; n < settled.size(); ++n)
      quickenGlide(track, v, settled[n - 1].to - 1, settled[n].from + 1, settled[n].note->settings.keepGlide / 100,
                   cents);
    const auto moves = [&](std::size_t k) { return formants[k] != 0 || std::abs(cents[k]) > kNothing; };
    for (std::size_t from = 0; from < cents.size(); ++from) {
      if (!moves(from)) continue;
      auto to = from + 1;
      for (auto k = to; k < cents.size() && k < to + kApart; ++k)
        if (moves(k)) to = k + 1;
      auto s = stretchIn(all, i, from);
      for (auto k = from; k < to; ++k) {
        s.cents.push_back(cents[k]);
        s.formants.push_back(formants[k]);
      }
      if (to < cents.size()) s.gapAfter = 0;
      out.push_back(std::move(s));
      from = to;
    }
  }
  return out;
}

std::vector<MovedStretch> transposed(const PitchTrack& track, double cents, double formants) {
  return transposed(
      track, [cents](std::size_t) { return cents; }, [formants](std::size_t) { return formants; });
}

std::vector<MovedStretch> transposed(const PitchTrack& track, const std::function<double(std::size_t)>& cents,
                                     const std::function<double(std::size_t)>& formants) {
  std::vector<MovedStretch> out;
  const auto all = voicings(track);
  for (std::size_t i = 0; i < all.size(); ++i) {
    auto s = stretchIn(all, i, 0);
    bool moves = false;
    for (auto k = all[i].first; k < all[i].last; ++k) {
      s.cents.push_back(cents(k));
      s.formants.push_back(formants(k));
      moves = moves || s.cents.back() != 0 || s.formants.back() != 0;
    }
    if (moves) out.push_back(std::move(s));
  }
  return out;
}

}  // namespace ochron
