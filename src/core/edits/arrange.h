#pragma once

#include "edits/clip_edits.h"

namespace ochron {

// Copying, repeating and bundling.

/// Clips taken out of a song to be put in again. Places are counted from the earliest clip's start.
struct CopiedClips {
  struct Part {
    SetId set;
    ClipList clips;
  };
  std::vector<Part> parts;
  std::vector<Bundle> bundles;
  Frames start;  ///< song time it was taken from
  Frames length;

  bool empty() const { return parts.empty(); }
};

/// The chosen clips; fails when one is not in the song.
Result<CopiedClips> copyClips(const Song& song, const ClipIds& clips);
/// What lies in a range of some sets, cut at its ends. Refused when that is nothing.
Result<CopiedClips> copyRange(const Song& song, const std::vector<SetId>& sets, FrameRange range);
/// A song into which clips were put, and these clips.
struct Placed {
  Song song;
  ClipIds clips;
};

/// Puts copies in at `at`. With `to`, clips of one set go to that set; otherwise each goes to where it came from.
/// Bundles come as bundles of their own.
Result<Placed> pasteClips(const Song& song, const CopiedClips& copied, Frames at, Overlap overlap,
                          std::optional<SetId> to = {});
/// Puts copies of the clips after each other, directly behind them, `times` times (1 to 1 000).
Result<Placed> duplicateClips(const Song& song, const ClipIds& clips, int times);
/// The same until `until`; the last copy ends there.
Result<Placed> repeatClips(const Song& song, const ClipIds& clips, Frames until);
/// From the first clip's start to the last one's end.
FrameRange extentOf(const Song& song, const ClipIds& clips);

/// Puts clips in a bundle. Those of other bundles leave them.
Result<Song> bundleClips(const Song& song, const ClipIds& clips, const std::string& name);
/// Takes a bundle apart: its clips are as they were before.
Result<Song> unbundle(const Song& song, BundleId bundle);
Result<Song> setBundle(const Song& song, const Bundle& bundle);
ClipIds clipsOf(const Song& song, BundleId bundle);

}  // namespace ochron
