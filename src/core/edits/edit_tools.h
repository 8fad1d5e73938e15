#pragma once

#include <algorithm>
#include <optional>
#include <unordered_set>

#include "base/result.h"
#include "song/incoming_sounds.h"
#include "song/song.h"

namespace ochron {

inline tl::unexpected<Error> setGone() {
  return fail(ErrorKind::notFound, "This mic set is not in the song any more.");
}
inline tl::unexpected<Error> clipGone() { return fail(ErrorKind::notFound, "This clip is not in the song any more."); }

/// Bundles that no clip is in any more are dropped.
void dropEmptyBundles(Song& song);

/// Prints and patterns whose set, or whose takes, are not in the song any more are dropped; of patterns, the strokes.
void dropStale(Song& song);

/// Recordings and sounds that no take and no layer plays any more are dropped; their files stay where they are.
void dropUnusedMedia(Song& song);

/// A file of sound among the song's recordings; the same name for a file that is there already.
MediaId takeIn(Song& song, const IncomingSound& sound);

/// A copy of the song with one set changed by `change(Song&, MicSet&) -> Result<void>`.
template <class F>
Result<Song> withSet(const Song& song, SetId id, F&& change) {
  Song next = song;
  for (std::size_t i = 0; i < next.sets.size(); ++i) {
    auto& s = next.sets[i];
    if (s.id != id) continue;
    if (auto ok = change(next, s); !ok) return tl::unexpected(ok.error());
    dropEmptyBundles(next);
    return next;
  }
  return setGone();
}

/// Clips by name.
using ChosenClips = std::unordered_set<ClipId>;

/// Runs `change(Song&, MicSet&, ClipList&, const ChosenClips&) -> Result<void>` on every set that holds some of the
/// clips. Fails when one of them is not in the song.
template <class F>
Result<Song> withClips(const Song& song, const ClipIds& ids, F&& change) {
  if (ids.empty()) return fail(ErrorKind::refused, "No clip is chosen. Click one, or drag over some.");
  Song next = song;
  const ChosenClips chosen(ids.begin(), ids.end());
  std::size_t found = 0;
  for (std::size_t i = 0; i < next.sets.size(); ++i) {
    const auto& before = song.sets[i];
    const auto here =
        std::count_if(before.clips->begin(), before.clips->end(), [&](const Clip& c) { return chosen.contains(c.id); });
    if (here == 0) continue;
    found += static_cast<std::size_t>(here);
    ClipList clips = *before.clips;
    if (auto ok = change(next, next.sets[i], clips, chosen); !ok) return tl::unexpected(ok.error());
    next.sets[i].clips = std::move(clips);
  }
  if (found != chosen.size()) return clipGone();
  dropEmptyBundles(next);
  return next;
}

/// By where they start; those that start together keep their order.
void sortByStart(ClipList& clips);
/// Of clips that share a name, all but the first get new ones.
void giveOwnNames(Song& song, ClipList& clips);

/// The clips of [range), parts of those that reach out of it.
ClipList partsIn(const ClipList& clips, FrameRange range);
/// A song that plays a range alone.
Song onlyIn(const Song& song, FrameRange range);

/// Clips changed by hand are no longer the plan's: later runs leave them alone. `clips` is the set's list.
void takeOutOfPlan(MicSet& set, ClipList& clips, const ChosenClips& chosen);
/// Moves a clip together with what its plan piece stands for: it stays the plan's.
void moveAlong(Clip& clip, Frames by);
/// The clip as it is on another set: it goes on playing the recordings it was made of. Refused when the sets have
/// unlike numbers of tracks.
Result<Clip> onSet(const Song& song, Clip clip, const MicSet& from, const MicSet& to);

/// Moves a clip's edge by `by` without moving its sound.
void moveStart(Clip& clip, Frames by);
void moveEnd(Clip& clip, Frames by);

/// Cuts [range) out of a clip list: clips inside go, clips that reach in are trimmed, a clip around it becomes two.
void clearRange(Song& song, ClipList& clips, FrameRange range);
/// Puts a clip in its place over what is there.
void placeClip(Song& song, ClipList& clips, const Clip& clip);
/// Shortens fades that no longer fit.
void fitFades(Clip& clip);
/// Shortens the crossfade between two touching clips to the material both have, and to their lengths.
void fitSeam(const Song& song, const Clip& a, Clip& b);
/// Seams of clips that no longer touch the one before are gone; the rest are fitted.
void tidySeams(const Song& song, ClipList& clips);
/// The part of a clip between two song times (both inside it); keeps its name.
Clip partOf(const Clip& clip, FrameRange range);

}  // namespace ochron
