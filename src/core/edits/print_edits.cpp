#include "edits/print_edits.h"

#include <algorithm>
#include <map>
#include <set>
#include <utility>

#include "edits/edit_tools.h"
#include "song/insert_place.h"
#include "song/print_source.h"

namespace ochron {
namespace {

/// Stretches in which clips touch, of those that some clips lie in; without any named, all.
std::vector<FrameRange> runsOf(const ClipList& clips, const ClipIds& chosen) {
  struct Run {
    FrameRange range;
    bool wanted;
  };
  std::vector<Run> runs;
  for (const auto& c : clips) {
    const bool wanted = chosen.empty() || std::find(chosen.begin(), chosen.end(), c.id) != chosen.end();
    if (runs.empty() || runs.back().range.end != c.start) runs.push_back({c.range(), false});
    runs.back().range.end = c.end();
    runs.back().wanted = runs.back().wanted || wanted;
  }
  std::vector<FrameRange> out;
  for (const auto& r : runs)
    if (r.wanted) out.push_back(r.range);
  return out;
}

/// How many channels a track has over all that its clips play.
int channelsOf(const Song& song, const MicSet& set, TrackId track, PrintDepth depth) {
  int channels = 1;
  for (const auto& c : *set.clips) {
    if (c.pan != 0) return 2;
    const auto* mic = song.micFor(set, c, track);
    const auto* media = mic ? song.find(mic->media) : nullptr;
    if (media) channels = std::max(channels, std::min(2, media->channels));
  }
  const auto* t = song.find(track);
  return depth == PrintDepth::track && t && (t->pan != 0 || !t->panEnvelope->empty() || !insertsOf(song, track).empty())
             ? 2
             : channels;
}

void addRuns(const Song& song, const MicSet& set, const PrintAsk& ask, std::vector<PrintRow>& rows) {
  auto runs = runsOf(*set.clips, ask.clips);
  if (ask.depth == PrintDepth::track && !runs.empty()) runs = {{set.clips->front().start, set.clips->back().end()}};
  for (const auto& run : runs)
    for (const auto track : set.tracks)
      rows.push_back(
          {ask.depth, set.id, track, song.find(track)->name, channelsOf(song, set, track, ask.depth), run, {}, {}});
}

/// What of each recording any clip plays, of the song or of what was printed, with handles.
void addTrims(const Song& song, const MicSet& set, std::vector<PrintRow>& rows) {
  const Frames handle{static_cast<std::int64_t>(kTrimHandleSeconds * song.rate)};
  std::map<MediaId, FrameRange> used;  // frames of the recording
  const auto use = [&](const MicSet& s, const ClipList& clips) {
    for (const auto& c : clips)
      for (const auto track : s.tracks)
        if (const auto* mic = song.micFor(s, c, track)) {
          const FrameRange played{c.played().start - mic->offset, c.played().end - mic->offset};
          auto& range = used.try_emplace(mic->media, played).first->second;
          range = {std::min(range.start, played.start), std::max(range.end, played.end)};
        }
  };
  for (const auto& s : song.sets) use(s, *s.clips);
  for (const auto& p : song.prints) use(*song.find(p.set), *p.clips);
  std::set<MediaId> done;
  for (const auto& take : song.takes)
    for (const auto& mic : take.mics) {
      if (std::find(set.tracks.begin(), set.tracks.end(), mic.track) == set.tracks.end()) continue;
      const auto found = used.find(mic.media);
      const auto* media = song.find(mic.media);
      if (found == used.end() || !media || !done.insert(mic.media).second) continue;
      const FrameRange kept{std::max(Frames{}, found->second.start - handle),
                            std::min(media->length, found->second.end + handle)};
      if (kept.empty() || kept == FrameRange{Frames{}, media->length}) continue;
      rows.push_back(
          {PrintDepth::trim, set.id, mic.track, song.find(mic.track)->name, media->channels, kept, take.id, mic.media});
    }
}

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

/// Clips that play another track's recording name it: in the song and in what was printed.
void renameMedia(Song& song, MediaId was, MediaId now) {
  const auto inClips = [&](Shared<ClipList>& shared) {
    const auto names = [&](const Clip& c) {
      return (c.extras->sound && c.extras->sound->media == was) ||
             std::find(c.extras->media.begin(), c.extras->media.end(), was) != c.extras->media.end();
    };
    if (std::none_of(shared->begin(), shared->end(), names)) return;
    ClipList clips = *shared;
    for (auto& c : clips) {
      if (!names(c)) continue;
      auto extras = *c.extras;
      std::replace(extras.media.begin(), extras.media.end(), was, now);
      if (extras.sound && extras.sound->media == was) extras.sound->media = now;
      c.extras = std::move(extras);
    }
    shared = std::move(clips);
  };
  for (auto& s : song.sets) inClips(s.clips);
  for (auto& p : song.prints) {
    inClips(p.clips);
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
    c.gainDb = kGainRange.clamp(c.gainDb + clip.gainDb);
    c.muted = c.muted || clip.muted;
  }
  if (out.empty()) return out;
  if (clip.fadeIn.length.value > 0) out.front().fadeIn = clip.fadeIn;
  if (clip.fadeOut.length.value > 0) out.back().fadeOut = clip.fadeOut;
  fitFades(out.front());
  fitFades(out.back());
  return out;
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

std::string bakedBy(PrintDepth depth) {
  switch (depth) {
    case PrintDepth::trim: return "nothing; recordings are cut to what is used";
    case PrintDepth::clip: return "timing, stretch, pitch, fades, clip gain";
    case PrintDepth::track: return "all of that, and the track's effects, gain, pan and envelopes";
  }
  return {};
}

std::string adjustableAfter(PrintDepth depth) {
  switch (depth) {
    case PrintDepth::trim: return "everything";
    case PrintDepth::clip: return "place, mix, envelopes";
    case PrintDepth::track: return "place; the mix begins anew";
  }
  return {};
}

Result<std::vector<PrintRow>> printRows(const Song& song, const PrintAsk& ask) {
  std::vector<PrintRow> rows;
  std::vector<SetId> sets = ask.sets;
  for (const auto id : ask.clips) {
    const auto* set = song.setOf(id);
    if (!set) return clipGone();
    if (std::find(sets.begin(), sets.end(), set->id) == sets.end()) sets.push_back(set->id);
  }
  for (const auto id : sets) {
    const auto* set = song.find(id);
    if (!set) return setGone();
    if (song.layerOn(set->tracks.front()))
      return fail(ErrorKind::refused, "\"" + set->name + "\" is a layer. Print it in the Kit step.");
    if (ask.depth == PrintDepth::trim) {
      addTrims(song, *set, rows);
      continue;
    }
    for (const auto& l : song.layers)
      if (l.set == id && l.on)
        return fail(ErrorKind::refused, "The layer \"" + l.name + "\" lies on strokes of \"" + set->name +
                                            "\", which would be gone. Print the layer first, or switch it off.");
    addRuns(song, *set, ask, rows);
  }
  if (rows.empty())
    return fail(ErrorKind::refused, ask.depth == PrintDepth::trim
                                        ? "There is nothing to trim: the recordings are used whole."
                                        : "There is nothing to print: no clip is there.");
  return rows;
}

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
