#include "song/tuning.h"

#include <cmath>

namespace ochron {

TuneSettings settingsFor(const TuneSettings& plan, const NoteWish& wish) {
  auto s = plan;
  if (!plan.on || wish.asSung) {
    s.keepCentre = s.keepWander = s.keepVibrato = s.keepGlide = 100;
    s.tolerance = s.largestMove = s.formants = 0;
  }
  if (wish.asSung) return s;
  for (std::size_t i = 0; i < kNoteNumbers; ++i)
    if (wish.own[i]) s.*kTuneNumbers[i].field = *wish.own[i];
  return s;
}

NoteName nameOf(TakeId take, const SungNote& note) { return {take, std::llround(1000 * note.start)}; }

NoteWish wishFor(const PitchPlan& plan, TakeId take, const SungNote& note) {
  const auto name = nameOf(take, note);
  const auto near = plan.wishes.lower_bound({take, name.second - kSameNoteMs});
  return near != plan.wishes.end() && near->first.first == take && near->first.second <= name.second + kSameNoteMs
             ? near->second
             : NoteWish{};
}

std::vector<NoteWish> wishesFor(const PitchPlan& plan, TakeId take, const std::vector<SungNote>& notes) {
  std::vector<NoteWish> out;
  out.reserve(notes.size());
  for (const auto& n : notes) out.push_back(wishFor(plan, take, n));
  return out;
}

}  // namespace ochron
