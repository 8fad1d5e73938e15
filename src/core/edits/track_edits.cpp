#include "edits/track_edits.h"

#include <algorithm>
#include <set>

#include "edits/clip_edits.h"
#include "edits/edit_tools.h"

namespace ochron {
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
      t = track;
      return next;
    }
  return fail(ErrorKind::notFound, "This track is not in the song any more.");
}

Result<Song> removeTracks(const Song& song, const std::vector<TrackId>& tracks) {
  Song next = song;
  const auto gone = [&](TrackId id) { return std::find(tracks.begin(), tracks.end(), id) != tracks.end(); };
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
  std::erase_if(next.media, [&](auto& m) {
    return std::none_of(next.takes.begin(), next.takes.end(), [&](auto& t) {
      return std::any_of(t.mics.begin(), t.mics.end(), [&](auto& mic) { return mic.media == m.id; });
    });
  });
  return next;
}

Result<Song> renameSong(const Song& song, const std::string& name) {
  if (name.empty()) return fail(ErrorKind::badInput, "A song needs a name.");
  Song next = song;
  next.name = name;
  return next;
}

}  // namespace ochron
