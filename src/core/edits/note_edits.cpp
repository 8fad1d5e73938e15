#include "edits/note_edits.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include "base/median.h"
#include "edits/edit_tools.h"
#include "edits/mark_edits.h"
#include "edits/note_places.h"
#include "edits/pitch_edits.h"

namespace ochron {
namespace {

const char* kSilenced = "note";

tl::unexpected<Error> noteGone() {
  return fail(ErrorKind::notFound, "This note is not in the song any more. Choose it again.");
}

double pitchWithin(const PitchTrack& track, double from, double to, double otherwise) {
  std::vector<double> all;
  const auto first = PitchTrack::valueAt(from);
  const auto last = std::min(track.values.size(), PitchTrack::valueAt(to));
  for (auto t = first + (last - std::min(first, last)) / 4; t < last; ++t)
    if (track.values[t].sounds()) all.push_back(track.values[t].hertz);
  return all.empty() ? otherwise : medianOf(std::move(all));
}

/// The place of a note in its line; the line's end when it is gone.
std::size_t placeOf(const SungLine& line, const NoteName& name) {
  const auto found = std::find_if(line.notes.begin(), line.notes.end(), [&](const SungNote& n) {
    return std::abs(nameOf(name.first, n).second - name.second) <= 1;
  });
  return static_cast<std::size_t>(found - line.notes.begin());
}

/// Changes the notes of a take's line and forgets what was wished for those that are no more.
template <class F>
Result<Song> withNotes(const Song& song, SetId set, TakeId take, const std::vector<NoteName>& gone, F&& change) {
  if (!song.find(set)) return setGone();
  auto line = *song.lineOf(take, set);
  if (auto ok = change(line); !ok) return tl::unexpected(ok.error());
  std::vector<std::pair<NoteName, NoteWish>> none;
  none.reserve(gone.size());
  for (const auto& n : gone) none.push_back({n, {}});
  auto next = setNoteWishes(song, set, none);
  return next ? setLine(*next, take, set, line) : next;
}

}  // namespace

Result<Song> splitNote(const Song& song, SetId set, const NoteName& name, double seconds) {
  return withNotes(song, set, name.first, {}, [&](SungLine& line) -> Result<void> {
    const auto i = placeOf(line, name);
    if (i == line.notes.size()) return noteGone();
    const auto note = line.notes[i];
    if (seconds < note.start + kLeastSplitSeconds || seconds > note.end - kLeastSplitSeconds)
      return fail(ErrorKind::refused,
                  "A part would be shorter than 40 ms. Put the play line further inside the note to split it.");
    line.notes[i] = {note.start, seconds, pitchWithin(line.track, note.start, seconds, note.hertz), true};
    line.notes.insert(line.notes.begin() + static_cast<std::ptrdiff_t>(i) + 1,
                      {seconds, note.end, pitchWithin(line.track, seconds, note.end, note.hertz), true});
    return {};
  });
}

Result<Song> joinNotes(const Song& song, SetId set, const std::vector<NoteName>& names) {
  if (names.size() < 2)
    return fail(ErrorKind::badInput, "Choose two notes or more that follow each other to join them.");
  const auto take = names.front().first;
  for (const auto& n : names)
    if (n.first != take) return fail(ErrorKind::badInput, "Notes of two takes cannot be joined.");
  auto sorted = names;
  std::sort(sorted.begin(), sorted.end());
  sorted.erase(std::unique(sorted.begin(), sorted.end()), sorted.end());
  return withNotes(song, set, take, {sorted.begin() + 1, sorted.end()}, [&](SungLine& line) -> Result<void> {
    const auto first = placeOf(line, sorted.front());
    const auto last = placeOf(line, sorted.back());
    if (first == line.notes.size() || last == line.notes.size()) return noteGone();
    if (last - first + 1 != sorted.size())
      return fail(ErrorKind::refused, "Another note lies in between. Choose it, too, to join them all.");
    const double start = line.notes[first].start;
    const double end = line.notes[last].end;
    line.notes[first] = {start, end, pitchWithin(line.track, start, end, line.notes[first].hertz), true};
    line.notes.erase(line.notes.begin() + static_cast<std::ptrdiff_t>(first) + 1,
                     line.notes.begin() + static_cast<std::ptrdiff_t>(last) + 1);
    return {};
  });
}

FrameRange playedOf(const Clip& clip, const SungNote& note, int rate) {
  const auto played = clip.played();
  const auto start = std::max(played.start, Frames{std::llround(note.start * rate)});
  const auto end = std::min(played.end, Frames{std::llround(note.end * rate)});
  if (start >= end) return {};
  const auto a = clip.toSong(start);
  const auto b = clip.toSong(end);
  return {std::min(a, b), std::max(a, b)};
}

Result<Song> moveNotes(const Song& song, SetId id, const std::vector<NoteName>& names, NotePart part, Frames by,
                       PinReach reach) {
  const auto* set = song.find(id);
  if (!set) return setGone();
  struct Moved {
    ClipId clip;
    std::set<Frames> takes;
  };
  // Pieces of one clip under a plan are moved together.
  std::map<ClipId, Moved> moved;
  std::map<TakeId, NotePlaces> places;
  for (const auto& clip : *set->clips) {
    const auto& line = *song.lineOf(clip.take, id);
    const auto played = clip.played();
    const auto inside = [&](Frames f) { return played.contains(f); };
    for (const auto& name : names) {
      if (name.first != clip.take) continue;
      const auto i = placeOf(line, name);
      if (i == line.notes.size()) return noteGone();
      const auto [start, end] = places.try_emplace(clip.take, song, *set, clip.take).first->second.of(i);
      if (end < played.start || start >= played.end) continue;
      std::vector<Frames> wanted;
      if (part != NotePart::end) wanted.push_back(start);
      if (part != NotePart::start) wanted.push_back(end);
      if (part == NotePart::whole) {
        for (const auto& h : activeHits(*song.hitsIn(*set, clip), set->hits, song.rate))
          if (h.at > start && h.at < end) wanted.push_back(h.at);
        for (const auto p : handPins(clip))
          if (p > start && p < end) wanted.push_back(p);
      }
      for (const auto f : wanted) {
        if (!inside(f)) continue;
        auto& m = moved[clip.piece ? clip.piece->origin : clip.id];
        if (m.takes.empty()) m.clip = clip.id;
        m.takes.insert(f);
      }
    }
  }
  if (moved.empty()) return fail(ErrorKind::badInput, "No clip plays these notes where they could be moved.");
  Result<Song> next = song;
  for (const auto& [origin, m] : moved)
    if (next) next = movePins(*next, m.clip, {m.takes.begin(), m.takes.end()}, by, reach);
  return next;
}

Result<Song> silenceNotes(const Song& song, SetId id, const std::vector<NoteName>& names) {
  const auto* set = song.find(id);
  if (!set) return setGone();
  std::vector<FrameRange> wanted;
  for (const auto& clip : *set->clips) {
    const auto& line = *song.lineOf(clip.take, id);
    for (const auto& name : names) {
      if (name.first != clip.take) continue;
      const auto i = placeOf(line, name);
      if (i == line.notes.size()) return noteGone();
      if (const auto range = playedOf(clip, line.notes[i], song.rate); !range.empty()) wanted.push_back(range);
    }
  }
  if (wanted.empty()) return fail(ErrorKind::badInput, "No clip plays these notes.");
  std::vector<SpanId> there;
  for (const auto& range : wanted)
    for (const auto& span : song.spans)
      if (span.range == range && span.tracks == set->tracks) there.push_back(span.id);
  Result<Song> next = song;
  if (there.size() == wanted.size()) {
    for (const auto span : there)
      if (next) next = removeSpan(*next, span);
    return next;
  }
  for (const auto& range : wanted) {
    const bool silent = std::any_of(song.spans.begin(), song.spans.end(),
                                    [&](const MuteSpan& s) { return s.range == range && s.tracks == set->tracks; });
    if (next && !silent) next = addSpan(*next, set->tracks, range, kSilenced);
  }
  return next;
}

}  // namespace ochron
