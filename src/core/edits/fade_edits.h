#pragma once

#include "edits/clip_edits.h"

namespace ochron {

enum class FadeEnd { in, out };

/// Changes fades at one end of clips; what `change` makes of each clip's fade is fitted into the clip. A crossfade at
/// that end gives way to a fade of some length.
Result<Song> changeFades(const Song& song, const ClipIds& clips, FadeEnd end,
                         const std::function<Fade(const Clip&, Fade)>& change);
/// No fades and no crossfades at both ends of the clips.
Result<Song> removeFades(const Song& song, const ClipIds& clips);

/// How far a crossfade at a clip's start can reach into the piece before (its own material before its start) and
/// into the clip itself (the earlier piece's material after its end), in frames. Both 0 when nothing touches it there.
struct CrossfadeRoom {
  Frames before;
  Frames after;
};
CrossfadeRoom crossfadeRoom(const Song& song, ClipId clip);

struct CrossfadeChange {
  std::optional<Frames> before = {};  ///< into the earlier piece
  std::optional<Frames> after = {};   ///< into the later piece
  std::optional<CrossfadeLaw> law = {};
  std::optional<FadeShape> shape = {};
  std::optional<double> bias = {};  ///< -1 to 1
};
/// Changes the crossfade at the start of each clip that touches the one before, as far as both have material. Refused
/// when none of them can have one; the sentence says whether there is no neighbour or no material.
Result<Song> changeCrossfades(const Song& song, const ClipIds& clips, const CrossfadeChange& change);

/// A tape stop (or start) over a range: the clips of the sets are cut at its ends and get a tape fade of its length.
Result<Song> tapeFade(const Song& song, const std::vector<SetId>& sets, FrameRange range, FadeEnd end);

}  // namespace ochron
