#include "edits/track_edits.h"

#include <algorithm>
#include <set>

#include "edits/clip_edits.h"
#include "edits/edit_tools.h"

namespace ochron {
namespace {

/// A layer, its track and its set have one name.
void nameLayer(Song& song, TrackId track, const std::string& name) {
  for (auto& l : song.layers) {
    if (l.track != track) continue;
    l.name = name;
    for (auto& t : song.tracks)
      if (t.id == track) t.name = name;
    for (auto& s : song.sets)
      if (s.tracks == std::vector{track}) s.name = name;
  }
}

/// The tracks, and those of layers whose mic set loses all of its tracks with them.
std::vector<TrackId> withTheirLayers(const Song& song, std::vector<TrackId> tracks) {
  const auto gone = [&](TrackId t) { return std::find(tracks.begin(), tracks.end(), t) != tracks.end(); };
  for (const auto& l : song.layers)
    if (const auto* set = song.find(l.set); set && std::all_of(set->tracks.begin(), set->tracks.end(), gone))
      if (!gone(l.track)) tracks.push_back(l.track);
  return tracks;
}

}  // namespace

Result<Song> setGuides(const Song& song, SetId id, const std::vector<TrackId>& guides) {
  const auto* set = song.find(id);
  if (!set) return setGone();
  for (auto g : guides)
    if (std::find(set->tracks.begin(), set->tracks.end(), g) == set->tracks.end())
      return fail(ErrorKind::refused, "A guide must be one of the mic set's own tracks.");
  Song next = song;
  for (auto& t : next.tracks)
    if (std::find(set->tracks.begin(), set->tracks.end(), t.id) != set->tracks.end())
      t.guide = std::find(guides.begin(), guides.end(), t.id) != guides.end();
  return next;
}

Result<Song> setTrack(const Song& song, const Track& track) {
  if (!kGainRange.accepts(track.gainDb) || !kPanRange.accepts(track.pan))
    return fail(ErrorKind::badInput, "Gain goes from -60 to 24 dB and pan from -100 to 100.");
  Song next = song;
  for (auto& t : next.tracks)
    if (t.id == track.id) {
      const bool renamed = t.name != track.name;
      t = track;
      if (renamed) nameLayer(next, track.id, track.name);
      return next;
    }
  return fail(ErrorKind::notFound, "This track is not in the song any more.");
}

Result<Song> removeTracks(const Song& song, const std::vector<TrackId>& chosen) {
  Song next = song;
  const auto tracks = withTheirLayers(song, chosen);
  const auto gone = [&](TrackId id) { return std::find(tracks.begin(), tracks.end(), id) != tracks.end(); };
  std::erase_if(next.layers, [&](auto& l) { return gone(l.track); });
  std::erase_if(next.tracks, [&](auto& t) { return gone(t.id); });
  std::set<MediaId> played;  // by clips that play another track's recording
  for (auto& s : next.sets) {
    const auto before = s.tracks;
    std::erase_if(s.tracks, gone);
    if (s.tracks.empty()) continue;
    ClipList clips = *s.clips;
    for (auto& c : clips)
      changeExtras(c, [&](ClipExtras& x) {
        if (x.media.empty()) return;
        std::vector<MediaId> left;
        for (std::size_t i = 0; i < before.size(); ++i)
          if (!gone(before[i])) left.push_back(x.media[i]);
        x.media = left;
        played.insert(left.begin(), left.end());
      });
    if (before != s.tracks) s.clips = std::move(clips);
  }
  std::erase_if(next.sets, [](auto& s) { return s.tracks.empty(); });
  for (auto& span : next.spans) std::erase_if(span.tracks, gone);
  std::erase_if(next.spans, [](auto& span) { return span.tracks.empty(); });
  dropEmptyBundles(next);
  for (auto& t : next.takes) std::erase_if(t.mics, [&](auto& m) { return gone(m.track) && !played.contains(m.media); });
  for (auto& t : next.takes) std::erase_if(t.facts, [&](auto& h) { return next.find(h.set) == nullptr; });
  std::erase_if(next.takes, [](auto& t) { return t.mics.empty(); });
  // What a print was made of had one recording for each of its set's tracks.
  std::erase_if(next.prints, [&](const Print& p) {
    const auto* now = next.find(p.set);
    return now && now->tracks != song.find(p.set)->tracks;
  });
  dropStale(next);
  dropUnusedMedia(next);
  return next;
}

Result<Song> moveSet(const Song& song, SetId id, int by) {
  const auto at = std::find_if(song.sets.begin(), song.sets.end(), [&](auto& s) { return s.id == id; });
  if (at == song.sets.end()) return setGone();
  const auto from = at - song.sets.begin();
  const auto to = std::clamp<std::ptrdiff_t>(from + by, 0, std::ssize(song.sets) - 1);
  if (to == from)
    return fail(ErrorKind::refused, "\"" + at->name + "\" is the " + (by < 0 ? "first" : "last") + " one already.");
  Song next = song;
  const auto set = next.sets[static_cast<std::size_t>(from)];
  next.sets.erase(next.sets.begin() + from);
  next.sets.insert(next.sets.begin() + to, set);
  // Tracks stand on the screen as their sets do.
  std::vector<Track> tracks;
  for (const auto& s : next.sets)
    for (const auto& t : song.tracks)
      if (std::find(s.tracks.begin(), s.tracks.end(), t.id) != s.tracks.end()) tracks.push_back(t);
  next.tracks = std::move(tracks);
  return next;
}

Result<Song> renameSet(const Song& song, SetId id, const std::string& name) {
  if (name.empty()) return fail(ErrorKind::badInput, "A mic set needs a name.");
  Song next = song;
  for (auto& s : next.sets)
    if (s.id == id) {
      s.name = name;
      if (next.layerOn(s.tracks.front())) nameLayer(next, s.tracks.front(), name);
      return next;
    }
  return setGone();
}

Result<Song> renameTake(const Song& song, TakeId id, const std::string& name) {
  if (name.empty()) return fail(ErrorKind::badInput, "A take needs a name.");
  Song next = song;
  for (auto& t : next.takes)
    if (t.id == id) return t.name = name, next;
  return fail(ErrorKind::notFound, "This take is not in the song any more.");
}

Result<Song> removeTake(const Song& song, TakeId id) {
  if (!song.find(id)) return fail(ErrorKind::notFound, "This take is not in the song any more.");
  std::vector<TrackId> bare;
  Song next = song;
  for (auto& s : next.sets) {
    ClipList clips = *s.clips;
    const auto gone = std::erase_if(clips, [&](const Clip& c) { return c.take == id; });
    if (gone == 0) continue;
    if (clips.empty()) bare.insert(bare.end(), s.tracks.begin(), s.tracks.end());
    tidySeams(next, clips);
    s.clips = std::move(clips);
    TimingPlan plan = *s.plan;
    std::erase_if(plan.gaps, [&](const PlanGap& g) { return g.take == id; });
    if (plan != *s.plan) s.plan = std::move(plan);
  }
  dropEmptyBundles(next);
  std::erase_if(next.takes, [&](const Take& t) { return t.id == id; });
  dropStale(next);
  dropUnusedMedia(next);
  // Tracks that held nothing else go with it.
  return bare.empty() ? Result<Song>(next) : removeTracks(next, bare);
}

Result<Song> renameSong(const Song& song, const std::string& name) {
  if (name.empty()) return fail(ErrorKind::badInput, "A song needs a name.");
  Song next = song;
  next.name = name;
  return next;
}

}  // namespace ochron
