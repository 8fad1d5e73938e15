#include "edits/pitch_edits.h"

#include <algorithm>
#include <cmath>

#include "edits/clip_edits.h"
#include "edits/edit_tools.h"
#include "edits/pieces.h"

namespace ochron {
namespace {

template <class F>
Result<Song> withPitchPlan(const Song& song, SetId id, F&& change) {
  return withSet(song, id, [&](Song&, MicSet& set) -> Result<void> {
    PitchPlan plan = *set.pitch;
    if (auto ok = change(plan); !ok) return ok;
    set.pitch = std::move(plan);
    return {};
  });
}

/// What the user split or joined stays; notes heard anew give way to it.
SungLine keepingByHand(const SungLine& before, SungLine heard) {
  constexpr double kLeast = 0.05;  // s
  const auto isByHand = [](const SungNote& n) { return n.byHand; };
  if (std::any_of(heard.notes.begin(), heard.notes.end(), isByHand)) return heard;
  for (const auto& kept : before.notes) {
    if (!kept.byHand) continue;
    for (auto& n : heard.notes) {
      if (n.byHand || n.end <= kept.start || n.start >= kept.end) continue;
      if (n.start < kept.start)
        n.end = kept.start;
      else
        n.start = kept.end;
    }
    std::erase_if(heard.notes, [&](const SungNote& n) { return !n.byHand && n.end - n.start < kLeast; });
    heard.notes.insert(
        std::find_if(heard.notes.begin(), heard.notes.end(), [&](const SungNote& n) { return n.start >= kept.start; }),
        kept);
  }
  return heard;
}

}  // namespace

Result<Song> setTuning(const Song& song, SetId set, const TuneSettings& settings) {
  return withPitchPlan(song, set, [&](PitchPlan& plan) -> Result<void> {
    if (auto ok = checkRanges(settings, kTuneNumbers); !ok) return ok;
    plan.settings = settings;
    return {};
  });
}

Result<Song> setNoteWishes(const Song& song, SetId set, const std::vector<std::pair<NoteName, NoteWish>>& wishes) {
  return withPitchPlan(song, set, [&](PitchPlan& plan) -> Result<void> {
    for (const auto& [named, wish] : wishes) {
      std::erase_if(plan.wishes, [name = named](const auto& old) {
        return old.first.first == name.first && std::abs(old.first.second - name.second) <= kSameNoteMs;
      });
      if (wish != NoteWish{}) plan.wishes[named] = wish;
    }
    return {};
  });
}

Result<Song> setLine(const Song& song, TakeId takeId, SetId set, const SungLine& line) {
  if (!song.find(set)) return setGone();
  Song next = song;
  for (auto& take : next.takes) {
    if (take.id != takeId) continue;
    auto at = std::find_if(take.facts.begin(), take.facts.end(), [&](auto& f) { return f.set == set; });
    if (at == take.facts.end()) at = take.facts.insert(at, SetFacts{set, {}, {}, {}});
    at->line = keepingByHand(*at->line, line);
    return next;
  }
  return fail(ErrorKind::notFound, "This take is not in the song any more.");
}

namespace {

Result<void> transpose(Clip& clip, double cents) {
  auto pitch = clip.extras->pitch;
  if (pitch.empty()) pitch.push_back({clip.played().start, 0, 0});
  for (auto& p : pitch) {
    p.value += cents;
    if (!kPitchRange.accepts(p.value))
      return fail(ErrorKind::refused, "A clip can be moved by two octaves up or down at most.");
  }
  if (std::all_of(pitch.begin(), pitch.end(), [](const EnvelopePoint& p) { return p.value == 0; })) pitch.clear();
  changeExtras(clip, [&](ClipExtras& e) { e.pitch = pitch; });
  return {};
}

}  // namespace

Result<Song> transposeClips(const Song& song, const ClipIds& ids, double cents) {
  return withClips(song, ids, [&](Song&, MicSet& set, ClipList& clips, const ChosenClips& chosen) -> Result<void> {
    takeOutOfPlan(set, clips, chosen);
    for (auto& c : clips)
      if (chosen.contains(c.id))
        if (auto ok = transpose(c, cents); !ok) return ok;
    return {};
  });
}

Result<Song> setFormants(const Song& song, const ClipIds& ids, std::optional<Formants> formants) {
  if (formants && !formants->along && !kFormantsRange.accepts(formants->cents))
    return fail(ErrorKind::badInput, "Formants can be moved by an octave up or down at most.");
  if (formants && formants->along) formants->cents = 0;
  return withClips(song, ids, [&](Song&, MicSet& set, ClipList& clips, const ChosenClips& chosen) -> Result<void> {
    takeOutOfPlan(set, clips, chosen);
    for (auto& c : clips)
      if (chosen.contains(c.id)) changeExtras(c, [&](ClipExtras& e) { e.formants = formants; });
    return {};
  });
}

namespace {

bool isLine(const Song& song, const MicSet& set) {
  return !set.clips->empty() && std::all_of(set.clips->begin(), set.clips->end(),
                                            [&](const Clip& c) { return !song.lineOf(c.take, set.id)->notes.empty(); });
}

/// What all of some clips are moved by, in cents, when it is one and the same from end to end.
std::optional<double> movedBy(const ClipList& clips) {
  std::optional<double> all;
  for (const auto& c : clips) {
    const auto& pitch = c.extras->pitch;
    const double own = pitch.empty() ? 0 : pitch.front().value;
    if (pitch.size() > 1 || own != all.value_or(own)) return std::nullopt;
    all = own;
  }
  return all;
}

/// The line's plan takes over what the clips were moved by before it was known.
Result<void> transposeLine(MicSet& set, double clipsMovedBy, double cents) {
  PitchPlan plan = *set.pitch;
  plan.settings.transpose += clipsMovedBy + cents;
  if (!kTransposeRange.accepts(plan.settings.transpose))
    return fail(ErrorKind::refused, "A line can be moved by two octaves up or down at most.");
  set.pitch = std::move(plan);
  if (clipsMovedBy == 0) return {};
  auto clips = withoutPlan(*set.clips);
  for (auto& c : clips) changeExtras(c, [](ClipExtras& e) { e.pitch.clear(); });
  set.clips = std::move(clips);
  return {};
}

}  // namespace

Result<Song> transposeSet(const Song& song, SetId id, double cents) {
  return withSet(song, id, [&](Song&, MicSet& set) -> Result<void> {
    if (const auto moved = movedBy(*set.clips); moved && isLine(song, set)) return transposeLine(set, *moved, cents);
    auto clips = withoutPlan(*set.clips);
    for (auto& c : clips)
      if (auto ok = transpose(c, cents); !ok) return ok;
    set.clips = std::move(clips);
    return {};
  });
}

}  // namespace ochron
