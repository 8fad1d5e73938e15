#include "edits/print_edits.h"

#include <algorithm>
#include <optional>
#include <set>
#include <utility>

#include "edits/edit_tools.h"
#include "song/insert_place.h"
#include "song/print_source.h"

namespace ochron {
namespace {

MediaId addMedia(Song& song, const PrintedFile& f, std::vector<MediaId> from) {
  Media m;
  m.id = song.newId<MediaTag>();
  m.name = f.row.name;
  m.path = f.path;
  m.fingerprint = f.fingerprint;
  m.channels = f.row.channels;
  m.fileRate = song.rate;
  m.length = f.length;
  m.printedFrom = std::move(from);
  song.media.push_back(std::move(m));
  return song.media.back().id;
}

/// A clip that plays another track's recording, or a sound of its own, names it.
void renameMedia(Clip& c, MediaId was, MediaId now) {
  const auto& known = *c.extras;
  const bool sounds = known.sound && known.sound->media == was;
  if (!sounds && std::find(known.media.begin(), known.media.end(), was) == known.media.end()) return;
  auto extras = known;
  std::replace(extras.media.begin(), extras.media.end(), was, now);
  if (sounds) extras.sound->media = now;
  c.extras = std::move(extras);
}

/// In the song and in what was printed.
void renameMedia(Song& song, MediaId was, MediaId now) {
  const auto inClips = [&](Shared<ClipList>& shared) {
    ClipList clips = *shared;
    for (auto& c : clips) renameMedia(c, was, now);
    if (clips != *shared) shared = std::move(clips);
  };
  for (auto& s : song.sets) inClips(s.clips);
  for (auto& p : song.prints) {
    inClips(p.clips);
    for (auto* cut : {&p.cutBefore, &p.cutAfter})
      if (*cut) renameMedia(**cut, was, now);
    if (!p.with) continue;
    auto& played = p.with->recordings;
    for (auto& r : played)
      if (r.media == was) r = {now, song.find(now)->fingerprint};
    std::sort(played.begin(), played.end(), [](const auto& a, const auto& b) { return a.media < b.media; });
  }
}

void applyTrim(Song& song, MicSet& set, const std::vector<const PrintedFile*>& files) {
  Print print;
  print.id = song.newId<PrintTag>();
  print.depth = PrintDepth::trim;
  print.manner = files.front()->row.manner;
  print.set = set.id;
  for (const auto* f : files) {
    const auto media = addMedia(song, *f, {f->row.media});
    for (auto& take : song.takes)
      for (auto& mic : take.mics) {
        if (mic.media != f->row.media) continue;
        print.trimmed.push_back({take.id, mic.track, mic.media, mic.offset, media});
        mic.media = media;
        mic.offset += f->row.range.start;
      }
    renameMedia(song, f->row.media, media);
  }
  song.prints.push_back(std::move(print));
}

MixerBefore mixerOf(const Track& t) {
  return {t.id, t.gainDb, t.pan, t.gainEnvelope, t.panEnvelope, t.muteEnvelope, t.inserts};
}

void putMixer(Track& t, const MixerBefore& m) {
  t.gainDb = m.gainDb;
  t.pan = m.pan;
  t.gainEnvelope = m.gain;
  t.panEnvelope = m.panning;
  t.muteEnvelope = m.mute;
  t.inserts = m.inserts;
}

/// Effects that were printed in, then those that were added since.
Shared<InsertList> together(const Shared<InsertList>& was, const Shared<InsertList>& since) {
  if (since->empty()) return was;
  InsertList out = *was;
  out.insert(out.end(), since->begin(), since->end());
  return out;
}

/// What was printed away, with what was set since.
MixerBefore together(const MixerBefore& was, const MixerBefore& since) {
  MixerBefore out = since;
  out.gainDb = kGainRange.clamp(was.gainDb + since.gainDb);
  out.pan = kPanRange.clamp(was.pan + since.pan);
  if (since.gain->empty()) out.gain = was.gain;
  if (since.panning->empty()) out.panning = was.panning;
  if (since.mute->empty()) out.mute = was.mute;
  out.inserts = together(was.inserts, since.inserts);
  return out;
}

void applyRun(Song& song, MicSet& set, FrameRange range, const std::vector<const PrintedFile*>& files) {
  Print print;
  print.id = song.newId<PrintTag>();
  print.depth = files.front()->row.depth;
  print.set = set.id;
  print.start = range.start;
  print.manner = files.front()->row.manner;
  print.levelDb = files.front()->levelDb;
  print.cutBefore = files.front()->row.cutBefore;
  print.cutAfter = files.front()->row.cutAfter;
  Take take;
  take.id = song.newId<TakeTag>();
  take.name = set.name + " print";
  take.length = range.length();
  print.take = take.id;
  ClipList left;
  ClipList printed;
  for (const auto& c : *set.clips) (range.contains(c.start) ? printed : left).push_back(c);
  std::set<BundleId> bundles;
  for (const auto& c : printed)
    if (c.bundle && bundles.insert(c.bundle).second)
      if (const auto* b = song.find(c.bundle)) print.bundles.push_back(*b);
  for (const auto* f : files) {
    std::vector<MediaId> from;
    for (const auto& c : printed)
      if (const auto* mic = song.micFor(set, c, f->row.track))
        if (std::find(from.begin(), from.end(), mic->media) == from.end()) from.push_back(mic->media);
    take.mics.push_back({f->row.track, addMedia(song, *f, std::move(from)), Frames{}});
  }
  Clip clip;
  clip.id = song.newId<ClipTag>();
  clip.take = take.id;
  clip.start = range.start;
  clip.length = range.length();
  clip.gainDb = -print.levelDb;
  left.insert(
      std::upper_bound(left.begin(), left.end(), clip.start, [](Frames at, const Clip& c) { return at < c.start; }),
      clip);
  set.clips = std::move(left);
  print.clips = std::move(printed);
  if (print.depth == PrintDepth::track)
    for (auto& t : song.tracks) {
      if (std::find(set.tracks.begin(), set.tracks.end(), t.id) == set.tracks.end()) continue;
      print.mixer.push_back(mixerOf(t));
      putMixer(t, {t.id, 0, 0, {}, {}, {}, {}});
    }
  print.with = printedWith(song, print);
  if (print.depth == PrintDepth::track) print.inserts = std::exchange(set.inserts, {});
  song.takes.push_back(std::move(take));
  song.prints.push_back(std::move(print));
}

/// What one clip of the print stands for now, where it lies now.
ClipList partsOf(const Print& print, const Clip& clip) {
  const FrameRange there{print.start + clip.source, print.start + clip.source + clip.length};
  auto out = partsIn(*print.clips, there);
  for (auto& c : out) {
    moveAlong(c, clip.start - there.start);
    c.gainDb = kGainRange.clamp(c.gainDb + (clip.gainDb + print.levelDb));
    c.muted = c.muted || clip.muted;
  }
  if (out.empty()) return out;
  if (clip.fadeIn.length.value > 0) out.front().fadeIn = clip.fadeIn;
  if (clip.fadeOut.length.value > 0) out.back().fadeOut = clip.fadeOut;
  fitFades(out.front());
  fitFades(out.back());
  return out;
}

/// Parts of a clip that touch as one again, where neither was moved or changed since.
std::optional<Clip> asOne(const Clip& whole, const Clip& left, const Clip& right) {
  const auto isPart = [&](const Clip& part) {
    if (part.start < whole.start || part.end() > whole.end()) return false;
    auto was = partOf(whole, part.range());
    was.id = part.id;
    was.seam = part.seam;
    return was == part;
  };
  if (left.end() != right.start || !isPart(left) || !isPart(right)) return std::nullopt;
  auto out = partOf(whole, {left.start, right.end()});
  out.id = left.id;
  out.seam = left.seam;
  return out;
}

/// Cuts that a print made at its ends are gone, where nobody has touched what lies there.
void healCuts(const Print& print, ClipList& clips) {
  const auto end = print.clips->back().end();
  for (std::size_t i = 1; i < clips.size();) {
    const auto at = clips[i].start;
    std::optional<Clip> whole;
    if (print.cutBefore && at == print.start) whole = asOne(*print.cutBefore, clips[i - 1], clips[i]);
    if (print.cutAfter && at == end && !whole) whole = asOne(*print.cutAfter, clips[i - 1], clips[i]);
    if (!whole) {
      ++i;
      continue;
    }
    clips[i - 1] = *std::move(whole);
    clips.erase(clips.begin() + static_cast<std::ptrdiff_t>(i));
  }
}

/// Clips without those of the print: what it was made of in their place.
ClipList aliveAgain(Song& song, const Print& print, const ClipList& clips) {
  ClipList out;
  for (const auto& c : clips) {
    if (c.take != print.take) {
      out.push_back(c);
      continue;
    }
    for (auto& part : partsOf(print, c)) out.push_back(std::move(part));
  }
  sortByStart(out);
  giveOwnNames(song, out);
  healCuts(print, out);
  return out;
}

/// The mixer as it was; where another print was made of this one, when that is taken back.
void restoreMixer(Song& song, const Print& print, Print* above) {
  if (above) {
    above->inserts = together(print.inserts, above->inserts);
  } else {
    for (auto& s : song.sets)
      if (s.id == print.set) s.inserts = together(print.inserts, s.inserts);
  }
  for (const auto& was : print.mixer) {
    if (above) {
      auto known = std::find_if(above->mixer.begin(), above->mixer.end(),
                                [&](const MixerBefore& m) { return m.track == was.track; });
      if (known == above->mixer.end())
        above->mixer.push_back(was);
      else
        *known = together(was, *known);
      continue;
    }
    for (auto& t : song.tracks)
      if (t.id == was.track) putMixer(t, together(was, mixerOf(t)));
  }
}

bool plays(const ClipList& clips, TakeId take) {
  return std::any_of(clips.begin(), clips.end(), [&](const Clip& c) { return c.take == take; });
}

Result<Song> untrim(Song song, const Print& print) {
  for (const auto& t : print.trimmed) {
    for (auto& take : song.takes)
      for (auto& mic : take.mics)
        if (take.id == t.take && mic.track == t.track && mic.media == t.now) {
          mic.media = t.was;
          mic.offset = t.offset;
        }
    renameMedia(song, t.now, t.was);
    // What was trimmed once more goes back past this trim.
    for (auto& p : song.prints)
      for (auto& later : p.trimmed)
        if (later.take == t.take && later.track == t.track && later.was == t.now)
          later.was = t.was, later.offset = t.offset;
  }
  std::erase_if(song.prints, [&](const Print& p) { return p.id == print.id; });
  dropUnusedMedia(song);
  return song;
}

}  // namespace

Result<Song> applyPrint(const Song& song, const std::vector<PrintedFile>& files) {
  Song next = song;
  struct Part {
    SetId set;
    FrameRange range;
    std::vector<const PrintedFile*> files;
  };
  std::vector<Part> parts;
  for (const auto& f : files) {
    const auto range = f.row.depth == PrintDepth::trim ? FrameRange{} : f.row.range;
    auto at =
        std::find_if(parts.begin(), parts.end(), [&](const Part& p) { return p.set == f.row.set && p.range == range; });
    if (at == parts.end()) at = parts.insert(parts.end(), {f.row.set, range, {}});
    at->files.push_back(&f);
  }
  for (const auto& part : parts) {
    const auto set =
        std::find_if(next.sets.begin(), next.sets.end(), [&](const MicSet& s) { return s.id == part.set; });
    if (set == next.sets.end()) return setGone();
    if (part.files.front()->row.depth == PrintDepth::trim)
      applyTrim(next, *set, part.files);
    else
      applyRun(next, *set, part.range, part.files);
  }
  dropEmptyBundles(next);
  return next;
}

Result<Song> asPrinted(const Song& song, PrintId id) {
  const auto* found = song.find(id);
  if (!found) return fail(ErrorKind::notFound, "This print is not in the song any more.");
  const auto& print = *found;
  if (print.depth == PrintDepth::trim)
    return fail(ErrorKind::refused, "Trimmed recordings are the recordings: there is nothing to compare.");
  return withSet(song, print.set, [&](Song& next, MicSet& set) -> Result<void> {
    auto clips = *print.clips;
    for (const auto& b : print.bundles)
      if (!next.find(b.id)) next.bundles.push_back(b);
    set.clips = std::move(clips);
    if (print.depth != PrintDepth::track) return {};
    set.inserts = print.inserts;
    for (const auto& was : print.mixer)
      for (auto& t : next.tracks)
        if (t.id == was.track) putMixer(t, was);
    return {};
  });
}

Result<Song> acceptPrint(const Song& song, PrintId id) {
  Song next = song;
  for (auto& p : next.prints)
    if (p.id == id) {
      p.with = printedWith(song, p);
      return next;
    }
  return fail(ErrorKind::notFound, "This print is not in the song any more.");
}

std::vector<PrintId> printsOf(const Song& song, SetId set) {
  std::vector<PrintId> out;
  for (const auto& p : song.prints)
    if (p.set == set) out.push_back(p.id);
  return out;
}

Result<Song> unprint(const Song& song, PrintId id) {
  const auto* found = song.find(id);
  if (!found) return fail(ErrorKind::notFound, "This print is not in the song any more.");
  const Print print = *found;
  if (print.depth == PrintDepth::trim) return untrim(song, print);
  return withSet(song, print.set, [&](Song& next, MicSet& set) -> Result<void> {
    const bool heard = plays(*set.clips, print.take);
    auto clips = aliveAgain(next, print, *set.clips);
    Print* above = nullptr;
    for (auto& p : next.prints) {
      if (!plays(*p.clips, print.take)) continue;
      p.clips = aliveAgain(next, print, *p.clips);
      if (!heard) above = &p;
    }
    auto& bundles = above ? above->bundles : next.bundles;
    for (const auto& b : print.bundles)
      if (std::none_of(bundles.begin(), bundles.end(), [&](const Bundle& o) { return o.id == b.id; }))
        bundles.push_back(b);
    tidySeams(next, clips);
    set.clips = std::move(clips);
    restoreMixer(next, print, above);
    std::erase_if(next.prints, [&](const Print& p) { return p.id == print.id; });
    // Unless another set plays the print, it goes.
    const bool played =
        std::any_of(next.sets.begin(), next.sets.end(), [&](const MicSet& s) { return plays(*s.clips, print.take); });
    if (!played) std::erase_if(next.takes, [&](const Take& t) { return t.id == print.take; });
    dropUnusedMedia(next);
    return {};
  });
}

}  // namespace ochron
