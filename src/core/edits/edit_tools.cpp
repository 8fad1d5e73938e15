#include "edits/edit_tools.h"

#include <algorithm>
#include <set>

namespace ochron {

namespace {

/// What a pattern still can play; none when that is nothing.
std::optional<Pattern> playable(const Song& song, Pattern pattern) {
  const auto* set = song.find(pattern.set);
  if (!set) return {};
  auto strokes = *pattern.strokes;
  std::erase_if(strokes, [&](const PatternStroke& s) {
    const auto* take = song.find(s.clip.take);
    const auto& media = s.clip.extras->media;
    const auto& sound = s.clip.extras->sound;
    if (sound && std::none_of(song.media.begin(), song.media.end(), [&](auto& m) { return m.id == sound->media; }))
      return true;
    if (!take || (!media.empty() && media.size() != set->tracks.size())) return true;
    return std::any_of(media.begin(), media.end(), [&](MediaId m) {
      return m && std::none_of(take->mics.begin(), take->mics.end(), [&](const TakeMic& t) { return t.media == m; });
    });
  });
  if (strokes.empty()) return {};
  if (strokes.size() != pattern.strokes->size()) pattern.strokes = std::move(strokes);
  return pattern;
}

}  // namespace

void dropStale(Song& song) {
  std::vector<Pattern> patterns;
  for (auto& p : song.patterns)
    if (auto kept = playable(song, std::move(p))) patterns.push_back(*std::move(kept));
  song.patterns = std::move(patterns);
  std::erase_if(song.prints, [&](Print& p) {
    if (!song.find(p.set) || (p.depth != PrintDepth::trim && !song.find(p.take))) return true;
    for (auto* cut : {&p.cutBefore, &p.cutAfter})
      if (*cut && !song.find((*cut)->take)) cut->reset();
    return std::any_of(p.clips->begin(), p.clips->end(), [&](const Clip& c) { return !song.find(c.take); });
  });
}

void dropUnusedMedia(Song& song) {
  std::unordered_set<MediaId> needed;
  for (const auto& t : song.takes)
    for (const auto& m : t.mics) needed.insert(m.media);
  const auto inClips = [&](const ClipList& clips) {
    for (const auto& c : clips)
      if (c.extras->sound) needed.insert(c.extras->sound->media);
  };
  for (const auto& s : song.sets) inClips(*s.clips);
  for (const auto& p : song.prints) inClips(*p.clips);
  for (const auto& p : song.patterns)
    for (const auto& s : *p.strokes)
      if (s.clip.extras->sound) needed.insert(s.clip.extras->sound->media);
  for (const auto& l : song.layers)
    for (const auto& s : l.sounds->sounds) needed.insert(s.media);
  for (const auto& p : song.prints)
    for (const auto& t : p.trimmed) needed.insert(t.was);
  std::erase_if(song.media, [&](const Media& m) { return !needed.contains(m.id); });
}

MediaId takeIn(Song& song, const IncomingSound& sound) {
  const auto known = std::find_if(song.media.begin(), song.media.end(), [&](const Media& m) {
    return m.path == sound.path && m.fingerprint == sound.fingerprint && !sound.fingerprint.empty();
  });
  if (known != song.media.end()) return known->id;
  Media m;
  m.id = song.newId<MediaTag>();
  m.name = sound.name;
  m.path = sound.path;
  m.fingerprint = sound.fingerprint;
  m.channels = sound.channels;
  m.fileRate = sound.fileRate;
  m.length = sound.length;
  song.media.push_back(std::move(m));
  return song.media.back().id;
}

void dropEmptyBundles(Song& song) {
  if (song.bundles.empty()) return;
  std::set<BundleId> held;
  for (const auto& s : song.sets)
    for (const auto& c : *s.clips) held.insert(c.bundle);
  std::erase_if(song.bundles, [&](const Bundle& b) { return !held.contains(b.id); });
}

void takeOutOfPlan(MicSet& set, ClipList& clips, const ChosenClips& chosen) {
  std::vector<HitId> hits;
  for (auto& c : clips) {
    if (!c.piece || !chosen.contains(c.id)) continue;
    if (c.piece->hit) hits.push_back(c.piece->hit);
    c.piece.reset();
  }
  if (hits.empty()) return;
  TimingPlan plan = *set.plan;
  for (const auto h : hits) plan.overrides[h].out = true;
  set.plan = std::move(plan);
}

void sortByStart(ClipList& clips) {
  const auto before = [](const Clip& a, const Clip& b) { return a.start < b.start; };
  // Mostly they are, and moving thousands of clips about takes longer than looking.
  if (!std::is_sorted(clips.begin(), clips.end(), before)) std::stable_sort(clips.begin(), clips.end(), before);
}

void moveAlong(Clip& clip, Frames by) {
  if (by.value == 0) return;
  clip.start += by;
  if (clip.piece) clip.piece->home += by;
}

void moveStart(Clip& c, Frames by) {
  c.start += by;
  c.length -= by;
  if (!c.reversed) c.source += by;
}

void moveEnd(Clip& c, Frames by) {
  c.length += by;
  if (c.reversed) c.source -= by;
}

Result<Clip> onSet(const Song& song, Clip clip, const MicSet& from, const MicSet& to) {
  if (from.id == to.id) return clip;
  if (from.tracks.size() != to.tracks.size())
    return fail(ErrorKind::refused, "\"" + from.name + "\" has " + std::to_string(from.tracks.size()) +
                                        (from.tracks.size() == 1 ? " track" : " tracks") + " and \"" + to.name + "\" " +
                                        std::to_string(to.tracks.size()) +
                                        ". A clip goes to a set with as many tracks as its own.");
  if (clip.extras->sound) return clip;
  std::vector<MediaId> media;
  bool own = true;
  for (std::size_t i = 0; i < to.tracks.size(); ++i) {
    const auto* mic = song.micFor(from, clip, from.tracks[i]);
    const auto* there = song.micOf(clip.take, to.tracks[i]);
    media.push_back(mic ? mic->media : MediaId{});
    own = own && (there ? there->media : MediaId{}) == media.back();
  }
  ClipExtras extras = *clip.extras;
  extras.media = own ? std::vector<MediaId>{} : std::move(media);
  clip.extras = std::move(extras);
  return clip;
}

void fitSeam(const Song& song, const Clip& a, Clip& b) {
  if (a.piece || b.piece) return;  // the plan's own
  b.seam.before = std::clamp(b.seam.before, Frames{0}, std::min(a.length, b.handleBefore(song.takeLength(b))));
  b.seam.after = std::clamp(b.seam.after, Frames{0}, std::min(b.length, a.handleAfter(song.takeLength(a))));
}

void tidySeams(const Song& song, ClipList& clips) {
  for (std::size_t i = 0; i < clips.size(); ++i) {
    auto& c = clips[i];
    if ((c.seam.before + c.seam.after).value == 0 && c.seam == Seam{}) continue;
    if (i == 0 || clips[i - 1].end() != c.start) {
      if (c.seam.fill != SeamFill::faded) c.seam = {};
    } else {
      fitSeam(song, clips[i - 1], c);
    }
  }
}

void fitFades(Clip& c) {
  c.fadeIn.length = std::clamp(c.fadeIn.length, Frames{0}, c.length);
  c.fadeOut.length = std::clamp(c.fadeOut.length, Frames{0}, c.length - c.fadeIn.length);
}

namespace {
/// A place of a clip's stretched take in the stretched time of what its plan piece was cut from.
Frames inOrigin(const Clip& clip, Frames stretched) {
  return clip.map == clip.piece->map ? stretched : clip.piece->map.stretched(clip.map.take(stretched));
}
}  // namespace

Clip partOf(const Clip& clip, FrameRange range) {
  Clip part = clip;
  part.start = std::max(clip.start, range.start);
  part.length = std::min(clip.end(), range.end) - part.start;
  part.source = clip.source + (clip.reversed ? clip.end() - part.end() : part.start - clip.start);
  if (part.start > clip.start) {
    part.fadeIn = {};
    part.seam = {};
  }
  if (part.end() < clip.end()) part.fadeOut = {};
  if (clip.piece) {  // nominal ranges still touch: the cut stands for the same take time on both sides
    const auto& covers = clip.piece->covers;
    const auto within = [&](Frames at) { return std::clamp(inOrigin(clip, at), covers.start, covers.end); };
    if (part.start > clip.start) part.piece->covers.start = within(part.window().start);
    if (part.end() < clip.end()) part.piece->covers.end = within(part.window().end);
  }
  fitFades(part);
  return part;
}

void giveOwnNames(Song& song, ClipList& clips) {
  std::set<ClipId> used;
  for (auto& c : clips)
    if (!used.insert(c.id).second) used.insert(c.id = song.newId<ClipTag>());
}

void clearRange(Song& song, ClipList& clips, FrameRange range) {
  if (range.empty()) return;
  ClipList kept;
  kept.reserve(clips.size() + 1);
  for (const auto& c : clips) {
    if (!c.range().overlaps(range)) {
      kept.push_back(c);
      continue;
    }
    if (c.start < range.start) kept.push_back(partOf(c, {c.start, range.start}));
    if (c.end() > range.end) {
      auto rest = partOf(c, {range.end, c.end()});
      if (c.start < range.start) rest.id = song.newId<ClipTag>();
      kept.push_back(rest);
    }
  }
  clips = std::move(kept);
}

void placeClip(Song& song, ClipList& clips, const Clip& clip) {
  clearRange(song, clips, clip.range());
  clips.insert(std::upper_bound(clips.begin(), clips.end(), clip,
                                [](const Clip& a, const Clip& b) { return a.start < b.start; }),
               clip);
}

}  // namespace ochron
