#include "checks/note_checks.h"

#include <algorithm>
#include <cmath>

#include "base/numbers.h"
#include "edits/note_edits.h"
#include "tune/correction.h"

namespace ochron {
namespace {

constexpr double kUnsure = 0.75;      // mean probability of being voiced
constexpr double kOctaveWithin = 70;  // cents
constexpr double kBetween = 0.8;      // of the way to the nearest pitch, against the way to the next
constexpr double kLeastBetween = 30;  // cents
constexpr double kFarPitch = 80;      // cents
constexpr double kSuffers = 300;      // cents
constexpr double kSemitone = 100;

double sureness(const PitchTrack& track, const SungNote& note) {
  const auto first = PitchTrack::valueAt(note.start);
  const auto last = std::min(track.values.size(), PitchTrack::valueAt(note.end));
  double sum = 0;
  for (auto t = first; t < last; ++t) sum += track.values[t].voiced;
  return last > first ? sum / static_cast<double>(last - first) : 0;
}

/// An octave away from the notes on both sides, which agree.
bool octaveOff(const std::vector<TunedNote>& notes, std::size_t i) {
  if (i == 0 || i + 1 >= notes.size()) return false;
  const double here = notes[i].parts.centre;
  const double before = here - notes[i - 1].parts.centre;
  const double after = here - notes[i + 1].parts.centre;
  const auto isOctave = [](double c) { return std::abs(std::abs(c) - 12 * kSemitone) < kOctaveWithin; };
  return isOctave(before) && isOctave(after) && (before > 0) == (after > 0);
}

/// The distance to the pitch of the scale on the other side.
double toTheNext(const Scale& scale, double centre) {
  const double nearest = scale.nearest(centre);
  const double way = centre < nearest ? -1 : 1;
  constexpr double kStep = 5;
  for (int i = 1; i * kStep <= scale.octave + 1; ++i)
    if (const double next = scale.nearest(centre + way * i * kStep); std::abs(next - nearest) > 0.5)
      return std::abs(next - centre);
  return scale.octave;
}

struct Doubt {
  CheckKind kind;
  double risk;
  std::string title;
  std::string detail;
};

std::vector<Doubt> doubtsOf(const SungLine& line, const std::vector<TunedNote>& notes, std::size_t i,
                            const Scale& scale) {
  std::vector<Doubt> out;
  const auto& n = notes[i];
  const double moved = std::abs(n.after - n.parts.centre - n.settings.transpose);
  const auto cents = [](double c) { return fixed(c, 0) + " cents"; };
  if (octaveOff(notes, i))
    out.push_back({CheckKind::octaveDoubt, 0.75, "octave doubt", "an octave from the notes on both sides"});
  if (moved > kSuffers)
    out.push_back({CheckKind::pitchSuffers, 0.5 + moved / 2400, "moved so far that it may suffer", cents(moved)});
  else if (moved > kFarPitch)
    out.push_back({CheckKind::farPitch, 0.2 + moved / 1000, "pitch moves far",
                   cents(moved) + (n.after > n.parts.centre ? " up" : " down")});
  const double off = std::abs(n.parts.centre - scale.nearest(n.parts.centre));
  const double next = toTheNext(scale, n.parts.centre);
  if (off > kLeastBetween && off > kBetween * next)
    out.push_back({CheckKind::betweenPitches, 0.45 + 0.2 * off / next, "between two pitches",
                   cents(off) + " to the nearest, " + cents(next) + " to the next"});
  if (const double sure = sureness(line.track, n.note); sure < kUnsure)
    out.push_back({CheckKind::unsureNote, 0.6 * (1 - sure), "unsure note", fixed(100 * sure, 0) + " % voiced"});
  std::stable_sort(out.begin(), out.end(), [](const Doubt& a, const Doubt& b) { return a.risk > b.risk; });
  return out;
}

}  // namespace

std::vector<Check> noteChecksOf(const Song& song, SetId id) {
  std::vector<Check> out;
  const auto* set = song.find(id);
  if (!set || !set->pitch->settings.on) return out;
  for (const auto& take : song.takes) {
    const auto& line = *song.lineOf(take.id, id);
    if (line.notes.empty()) continue;
    const auto wishes = wishesFor(*set->pitch, take.id, line.notes);
    const auto notes = tuned(line.track, line.notes, set->pitch->settings, wishes);
    for (std::size_t i = 0; i < notes.size(); ++i) {
      if (wishes[i].target || wishes[i].asSung || wishes[i].accepted) continue;
      if (std::abs(notes[i].after - notes[i].parts.centre - notes[i].settings.transpose) < 1) continue;
      auto doubts = doubtsOf(line, notes, i, set->pitch->settings.scale);
      if (doubts.empty()) continue;
      const auto played = std::find_if(set->clips->begin(), set->clips->end(), [&](const Clip& c) {
        return c.take == take.id && !playedOf(c, notes[i].note, song.rate).empty();
      });
      if (played == set->clips->end()) continue;
      Check check{doubts[0].kind,
                  id,
                  take.id,
                  {},
                  playedOf(*played, notes[i].note, song.rate).start,
                  doubts[0].risk,
                  doubts[0].title,
                  doubts[0].detail};
      check.note = nameOf(take.id, notes[i].note);
      for (std::size_t k = 1; k < doubts.size(); ++k) {
        check.also.push_back(doubts[k].kind);
        check.detail += "; " + doubts[k].title + ", " + doubts[k].detail;
      }
      out.push_back(std::move(check));
    }
  }
  return out;
}

}  // namespace ochron
