#include "edits/take_edits.h"

#include <algorithm>
#include <set>

#include "edits/clip_edits.h"
#include "edits/edit_tools.h"
#include "edits/pieces.h"

namespace ochron {
namespace {

std::vector<Frames> offsetsOf(const std::vector<IncomingFile>& files, bool honour, int songRate) {
  std::vector<Frames> offsets(files.size());
  const bool all =
      honour && std::all_of(files.begin(), files.end(), [](auto& f) { return f.timeReference.has_value(); });
  if (!all) return offsets;
  std::vector<Frames> stamps;
  stamps.reserve(files.size());
  for (const auto& f : files)
    stamps.emplace_back(std::llround(static_cast<double>(*f.timeReference) * songRate / f.fileRate));
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
    next.media.push_back(
        {media, f.name, f.path, f.fingerprint, f.channels, f.fileRate, f.length, f.timeReference, {}, f.bpm});
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
    if (set->clips->size() != 1 || set->clips->front().reversed || !set->clips->front().map.identity() ||
        !set->clips->front().extras->ofItsTake())
      return fail(
          ErrorKind::refused,
          "\"" + set->name +
              "\" is already cut, so its pieces may differ from the other tracks'. Make the mic set before cutting.");
    const auto& c = set->clips->front();
    if (old.empty()) whole = c;
    if (c.gainDb != whole.gainDb || c.pan != whole.pan || c.muted != whole.muted || c.fadeIn != whole.fadeIn ||
        c.fadeOut != whole.fadeOut || c.extras != whole.extras)
      return fail(ErrorKind::refused,
                  "\"" + set->name +
                      "\" has another gain, pan, fade or name of its clip than the others, and a mic "
                      "set has one for all. Make them alike first.");
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
  for (auto& t : next.takes) std::erase_if(t.facts, [&](auto& h) { return old.contains(h.set); });
  for (auto& l : next.layers)
    if (old.contains(l.set)) l.set = set.id;
  dropStale(next);
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
      // A sound of its own is heard on the first track alone.
      c.muted = c.muted || (c.extras->sound && place > 0);
    }
    single.clips = std::move(clips);
    // A layer goes on with the mic that hears its drum best, or with the first.
    for (auto& l : next.layers)
      if (song.find(l.id)->set == id && (l.set == id || l.heard->mic == track)) l.set = single.id;
    next.sets.insert(next.sets.begin() + index++, std::move(single));
  }
  for (auto& t : next.takes) std::erase_if(t.facts, [&](auto& h) { return h.set == id; });
  dropStale(next);
  return next;
}

}  // namespace ochron
