#include "tune/correction.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ochron {
namespace {

constexpr std::size_t kGap = 3;    // unvoiced values that a voice sounds through
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

/// By how much each value of a note's settled part goes up.
std::vector<double> inside(const TunedNote& n, const TuneSettings& s, bool asSung) {
  std::vector<double> out;
  for (std::size_t i = 0; i < n.parts.wander.size(); ++i)
    out.push_back(asSung ? 0
                         : n.after - n.parts.centre + n.parts.wander[i] * (s.keepWander / 100 - 1) +
                               n.parts.vibrato[i] * (s.keepVibrato / 100 - 1));
  return out;
}

/// The change of every value of a voicing: each note's own, gliding in between, going on to both ends.
std::vector<double> changes(const Voicing& v, const std::vector<std::pair<const TunedNote*, std::vector<double>>>& in) {
  std::vector<double> out(v.last - v.first, 0.0);
  std::size_t filled = 0;  // of `out`, up to the end of the note before
  for (const auto& [note, cents] : in) {
    const auto from = std::clamp(note->parts.first, v.first + filled, v.last) - v.first;
    const auto to = std::clamp(note->parts.last, v.first + from, v.last) - v.first;
    if (to == from) continue;
    const double next = cents[v.first + from - note->parts.first];
    const double before = filled == 0 ? next : out[filled - 1];
    for (auto k = filled; k < from; ++k) {
      const double along = static_cast<double>(k + 1 - filled) / static_cast<double>(from + 1 - filled);
      out[k] = before + (next - before) * 0.5 * (1 - std::cos(std::numbers::pi * along));
    }
    for (auto k = from; k < to; ++k) out[k] = cents[v.first + k - note->parts.first];
    filled = to;
  }
  for (auto k = filled; k < out.size(); ++k) out[k] = filled == 0 ? 0 : out[filled - 1];
  return out;
}

}  // namespace

std::vector<TunedNote> tuned(const PitchTrack& track, const std::vector<SungNote>& notes, const TuneSettings& settings,
                             const std::vector<NoteWish>& wishes) {
  std::vector<TunedNote> out;
  for (std::size_t i = 0; i < notes.size(); ++i) {
    TunedNote n{notes[i], partsOf(track, notes[i]), 0, 0};
    const auto wish = i < wishes.size() ? wishes[i] : NoteWish{};
    n.target = wish.target.value_or(settings.scale.nearest(n.parts.centre));
    n.after = n.parts.centre;
    if (wish.target) {
      n.after = n.target;
    } else if (settings.on && !wish.asSung && std::abs(n.target - n.parts.centre) > settings.tolerance) {
      double move = (n.target - n.parts.centre) * (1 - settings.keepCentre / 100);
      if (settings.largestMove > 0) move = std::clamp(move, -settings.largestMove, settings.largestMove);
      n.after = n.parts.centre + move;
    }
    out.push_back(std::move(n));
  }
  return out;
}

std::vector<MovedStretch> movedStretches(const PitchTrack& track, const std::vector<TunedNote>& notes,
                                         const TuneSettings& settings, const std::vector<NoteWish>& wishes) {
  std::vector<MovedStretch> out;
  for (const auto& v : voicings(track)) {
    std::vector<std::pair<const TunedNote*, std::vector<double>>> in;
    for (std::size_t i = 0; i < notes.size(); ++i) {
      const auto& p = notes[i].parts;
      if (p.last <= v.first || p.first >= v.last) continue;
      const auto wish = i < wishes.size() ? wishes[i] : NoteWish{};
      const bool left = wish.asSung || (!settings.on && !wish.target);
      auto s = settings;
      if (!settings.on) s.keepWander = s.keepVibrato = 100;
      in.emplace_back(&notes[i], inside(notes[i], s, left));
    }
    const auto cents = changes(v, in);
    const bool colour = settings.on && settings.formants != 0;
    const auto moves = [&](std::size_t k) { return colour || std::abs(cents[k]) > kNothing; };
    for (std::size_t k = 0; k < cents.size(); ++k) {
      if (!moves(k)) continue;
      MovedStretch s;
      s.first = v.first + k;
      s.joinedBefore = k > 0;
      while (k < cents.size() && moves(k)) s.cents.push_back(cents[k++]);
      s.joinedAfter = k < cents.size();
      out.push_back(std::move(s));
    }
  }
  return out;
}

std::vector<MovedStretch> transposed(const PitchTrack& track, double cents) {
  std::vector<MovedStretch> out;
  for (const auto& v : voicings(track))
    out.push_back({v.first, std::vector<double>(v.last - v.first, cents), false, false});
  return out;
}

}  // namespace ochron
