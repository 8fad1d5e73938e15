#include "song/edits.h"

#include <algorithm>
#include <set>

#include "song/edit_tools.h"

namespace ochron {
namespace {

std::vector<Frames> offsetsOf(const std::vector<IncomingFile>& files, bool honour, int songRate) {
  std::vector<Frames> offsets(files.size());
  const bool all =
      honour && std::all_of(files.begin(), files.end(), [](auto& f) { return f.timeReference.has_value(); });
  if (!all) return offsets;
  std::vector<Frames> stamps;
  for (const auto& f : files)
    stamps.emplace_back(static_cast<std::int64_t>(static_cast<double>(*f.timeReference) * songRate / f.fileRate + 0.5));
  const auto first = *std::min_element(stamps.begin(), stamps.end());
  for (std::size_t i = 0; i < files.size(); ++i) offsets[i] = stamps[i] - first;
  return offsets;
}

}  // namespace

Result<Song> importTake(const Song& song, const std::vector<IncomingFile>& files, const ImportSettings& settings) {
  if (files.empty()) return fail(ErrorKind::badInput, "There is nothing to import. Choose at least one file.");
  const auto offsets = offsetsOf(files, settings.honourTimeReference, song.rate);
  constexpr std::int64_t kHours = 24 * 3600;
  for (std::size_t i = 0; i < files.size(); ++i)
    if (offsets[i].value > kHours * song.rate)
      return fail(
          ErrorKind::badInput,
          files[i].name + ": its time stamp lies more than a day after the first file's. Import it on its own.");
  Song next = song;
  Take take;
  take.id = next.newId<TakeTag>();
  take.name = settings.takeName;
  for (std::size_t i = 0; i < files.size(); ++i) {
    const auto& f = files[i];
    const auto media = next.newId<MediaTag>();
    const auto track = next.newId<TrackTag>();
    next.media.push_back({media, f.name, f.path, f.fingerprint, f.channels, f.fileRate, f.length, f.timeReference});
    Track t;
    t.id = track;
    t.name = f.name;
    t.role = f.role;
    next.tracks.push_back(t);
    take.mics.push_back({track, media, offsets[i]});
    take.length = std::max(take.length, offsets[i] + f.length);
  }
  next.takes.push_back(take);

  std::vector<bool> grouped(files.size(), false);
  std::vector<std::vector<int>> sets = settings.sets;
  for (const auto& s : sets)
    for (const int i : s) grouped.at(static_cast<std::size_t>(i)) = true;
  for (std::size_t i = 0; i < files.size(); ++i)
    if (!grouped[i]) sets.push_back({static_cast<int>(i)});
  std::sort(sets.begin(), sets.end());
  int colour = static_cast<int>(song.sets.size());
  for (const auto& members : sets) {
    MicSet set;
    set.id = next.newId<SetTag>();
    for (const int i : members) {
      auto& track = next.tracks[song.tracks.size() + static_cast<std::size_t>(i)];
      set.tracks.push_back(track.id);
      track.colour = colour;
    }
    set.name = members.size() > 1 ? "Drums" : next.find(set.tracks.front())->name;
    Clip c;
    c.id = next.newId<ClipTag>();
    c.take = take.id;
    c.start = settings.at;
    c.length = take.length;
    if (members.size() == 1) {  // a single track's clip is as long as its own recording
      const auto& mic = take.mics[static_cast<std::size_t>(members.front())];
      c.source = mic.offset;
      c.start += mic.offset;
      c.length = next.find(mic.media)->length;
    }
    set.clips = ClipList{c};
    next.sets.push_back(std::move(set));
    ++colour;
  }
  return next;
}

Result<Song> makeMicSet(const Song& song, const std::vector<TrackId>& tracks, const std::string& name) {
  if (tracks.size() < 2)
    return fail(ErrorKind::refused, "A mic set needs at least two tracks. Select the mics of one kit.");
  Song next = song;
  std::set<SetId> old;
  Clip whole;
  for (auto id : tracks) {
    const auto* set = song.setOf(id);
    if (!set) return fail(ErrorKind::notFound, "One of these tracks is not in the song any more.");
    if (const auto locked = anythingLocked(*set)) return tl::unexpected(*locked);
    if (set->clips->size() != 1 || set->clips->front().reversed || !set->clips->front().extras->media.empty())
      return fail(
          ErrorKind::refused,
          "\"" + set->name +
              "\" is already cut, so its pieces may differ from the other tracks'. Make the mic set before cutting.");
    const auto& c = set->clips->front();
    if (old.empty()) whole = c;
    if (c.take != whole.take || c.shift() != whole.shift())
      return fail(
          ErrorKind::refused,
          "\"" + set->name +
              "\" was not recorded together with the others, or lies elsewhere. A mic set holds tracks of one take.");
    const auto start = std::min(whole.start, c.start);
    const auto end = std::max(whole.end(), c.end());
    whole.source -= whole.start - start;
    whole.start = start;
    whole.length = end - start;
    old.insert(set->id);
  }
  std::vector<TrackId> members;
  for (const auto& t : next.tracks)
    if (old.contains(song.setOf(t.id)->id)) members.push_back(t.id);
  MicSet set;
  set.id = next.newId<SetTag>();
  set.name = name;
  set.tracks = members;
  whole.id = next.newId<ClipTag>();
  whole.piece.reset();
  set.clips = ClipList{whole};
  auto at = std::find_if(next.sets.begin(), next.sets.end(), [&](auto& s) { return old.contains(s.id); });
  const auto index = at - next.sets.begin();
  std::erase_if(next.sets, [&](auto& s) { return old.contains(s.id); });
  next.sets.insert(next.sets.begin() + std::min<std::ptrdiff_t>(index, std::ssize(next.sets)), set);
  for (auto& t : next.takes) std::erase_if(t.hits, [&](auto& h) { return old.contains(h.set); });
  // Members stand together on the screen, where the first one stood.
  auto isMember = [&](const Track& t) { return std::find(members.begin(), members.end(), t.id) != members.end(); };
  const auto first = std::find_if(next.tracks.begin(), next.tracks.end(), isMember);
  const int colour = first->colour;
  std::stable_partition(first, next.tracks.end(), isMember);
  for (auto& t : next.tracks)
    if (isMember(t)) t.colour = colour;
  return next;
}

Result<Song> dissolveMicSet(const Song& song, SetId id) {
  Song next = song;
  auto at = std::find_if(next.sets.begin(), next.sets.end(), [&](auto& s) { return s.id == id; });
  if (at == next.sets.end()) return setGone();
  const MicSet old = *at;
  if (const auto locked = anythingLocked(old)) return tl::unexpected(*locked);
  auto index = at - next.sets.begin();
  next.sets.erase(at);
  for (auto track : old.tracks) {
    MicSet single;
    single.id = next.newId<SetTag>();
    single.name = song.find(track)->name;
    single.tracks = {track};
    ClipList clips = withoutPlan(*old.clips);
    const auto place =
        static_cast<std::size_t>(std::find(old.tracks.begin(), old.tracks.end(), track) - old.tracks.begin());
    for (auto& c : clips) {
      c.id = next.newId<ClipTag>();
      changeExtras(c, [&](ClipExtras& x) {
        if (!x.media.empty()) x.media = {x.media[place]};
      });
    }
    single.clips = std::move(clips);
    next.sets.insert(next.sets.begin() + index++, std::move(single));
  }
  for (auto& t : next.takes) std::erase_if(t.hits, [&](auto& h) { return h.set == id; });
  return next;
}

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
    if (t.id == track.id) return t = track, next;
  return fail(ErrorKind::notFound, "This track is not in the song any more.");
}

Result<Song> removeTracks(const Song& song, const std::vector<TrackId>& tracks) {
  Song next = song;
  const auto gone = [&](TrackId id) { return std::find(tracks.begin(), tracks.end(), id) != tracks.end(); };
  for (const auto& s : song.sets)
    if (std::any_of(s.tracks.begin(), s.tracks.end(), gone))
      if (const auto locked = anythingLocked(s)) return tl::unexpected(*locked);
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
  for (auto& t : next.takes) std::erase_if(t.hits, [&](auto& h) { return next.find(h.set) == nullptr; });
  std::erase_if(next.takes, [](auto& t) { return t.mics.empty(); });
  std::erase_if(next.media, [&](auto& m) {
    return std::none_of(next.takes.begin(), next.takes.end(), [&](auto& t) {
      return std::any_of(t.mics.begin(), t.mics.end(), [&](auto& mic) { return mic.media == m.id; });
    });
  });
  return next;
}

namespace {

/// Whether what lies at a place of a track goes with the grid: the clip there does.
bool heldByGrid(const Song& song, TrackId track, Frames at) {
  const auto* set = song.setOf(track);
  if (!set) return false;
  const auto& clips = *set->clips;
  auto c = std::upper_bound(clips.begin(), clips.end(), at, [](Frames f, const Clip& x) { return f < x.start; });
  return c != clips.begin() && std::prev(c)->hold == ClipHold::grid;
}

Envelope moved(const Envelope& envelope, const Song& song, TrackId track, const TempoMap& map) {
  Envelope out = envelope;
  for (auto& p : out)
    if (heldByGrid(song, track, p.at)) p.at = map.toFrames(song.tempo.toTicks(p.at));
  // Points that went with their clips and points that stayed may have met or passed each other.
  std::stable_sort(out.begin(), out.end(), [](auto& a, auto& b) { return a.at < b.at; });
  out.erase(std::unique(out.begin(), out.end(), [](auto& a, auto& b) { return a.at == b.at; }), out.end());
  return out;
}

void carryMarks(const Song& from, Song& to, const TempoMap& map) {
  const auto place = [&](Frames at) { return map.toFrames(from.tempo.toTicks(at)); };
  for (auto& s : to.spans)
    if (heldByGrid(from, s.tracks.front(), s.range.start)) {
      const FrameRange range{place(s.range.start), place(s.range.end)};
      if (!range.empty()) s.range = range;
    }
  std::stable_sort(to.spans.begin(), to.spans.end(), [](auto& a, auto& b) { return a.range.start < b.range.start; });
  for (auto& t : to.tracks)
    for (auto* e : {&t.gainEnvelope, &t.panEnvelope, &t.muteEnvelope})
      if (!(*e)->empty()) *e = moved(**e, from, t.id, map);
}

}  // namespace

Result<Song> setTempoMap(const Song& song, const TempoMap& map) {
  if (map.rate() != song.rate) return fail(ErrorKind::badInput, "The tempo map has another sample rate than the song.");
  Song next = song;
  next.tempo = map;
  for (std::size_t i = 0; i < next.sets.size(); ++i) {
    auto& s = next.sets[i];
    if (std::none_of(s.clips->begin(), s.clips->end(), [](auto& c) { return c.hold == ClipHold::grid; })) continue;
    ClipList clips = withoutPlan(*s.clips);
    ClipList placed;
    for (auto& c : clips) {
      if (c.hold == ClipHold::grid) moveAlong(c, map.toFrames(song.tempo.toTicks(c.start)) - c.start);
      placeClip(next, placed, c);
    }
    s.clips = std::move(placed);
    if (auto locked = lockedAgainst(song, song.sets[i], s)) return tl::unexpected(*locked);
  }
  carryMarks(song, next, map);
  return next;
}

Result<Song> renameSong(const Song& song, const std::string& name) {
  if (name.empty()) return fail(ErrorKind::badInput, "A song needs a name.");
  Song next = song;
  next.name = name;
  return next;
}

Result<Song> relinkMedia(const Song& song, MediaId id, const std::string& path) {
  Song next = song;
  for (auto& m : next.media)
    if (m.id == id) return m.path = path, next;
  return fail(ErrorKind::notFound, "This recording is not in the song any more.");
}

Result<Song> replaceMedia(const Song& song, MediaId id, const FoundMedia& found) {
  Song next = song;
  const auto m = std::find_if(next.media.begin(), next.media.end(), [&](auto& x) { return x.id == id; });
  if (m == next.media.end()) return fail(ErrorKind::notFound, "This recording is not in the song any more.");
  m->path = found.path;
  m->fingerprint = found.fingerprint;
  m->channels = found.channels;
  m->fileRate = found.fileRate;
  m->length = found.length;
  for (auto& t : next.takes)
    for (const auto& mic : t.mics)
      if (mic.media == id) t.length = std::max(t.length, mic.offset + found.length);
  return next;
}

}  // namespace ochron
