#pragma once

#include <functional>
#include <utility>
#include <vector>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

// Edits of clips by hand. A clip of a mic set is on all its tracks, so every one of these moves all mics by the same
// frames. Clips of a timing plan that are changed here are no longer the plan's.

inline constexpr SettingRange kCutFadeRange{"crossfade at cuts", "ms", 0, 50, 0.5, 2};

/// What happens where a clip that was moved or put in overlaps others.
enum class Overlap {
  cover,      ///< what lies under it is trimmed
  crossfade,  ///< where one reaches into another, they go over into each other along the overlap
};

/// Cuts at song times, with a crossfade of `crossfade` frames around each. Refused when no clip lies at any of them.
Result<Song> splitAt(const Song& song, SetId set, const std::vector<Frames>& at, Frames crossfade);

/// Moves clips of any sets by `by`.
Result<Song> moveClips(const Song& song, const ClipIds& clips, Frames by, Overlap overlap = Overlap::cover);
/// Moves each clip by its own number of frames.
Result<Song> moveEach(const Song& song, const std::vector<std::pair<ClipId, Frames>>& moves,
                      Overlap overlap = Overlap::cover);
/// Moves clips by `by` and `rows` mic sets down (up when negative) in screen order. They go on playing the recordings
/// they were made of. Refused when there is no set there, or one with another number of tracks.
Result<Song> moveClipsAcross(const Song& song, const ClipIds& clips, Frames by, int rows, Overlap overlap);
/// The mic sets from the top of the screen down.
std::vector<SetId> setsInOrder(const Song& song);

/// How far a change goes, for each clip.
using ByClip = std::function<Frames(const Clip&)>;

/// Moves the starts or ends of clips by `by`: material comes back up to the recording's ends, and up to the neighbour
/// unless `closeGaps`, with which all that follows in the set moves along.
Result<Song> trimStarts(const Song& song, const ClipIds& clips, const ByClip& by, bool closeGaps = false);
Result<Song> trimEnds(const Song& song, const ClipIds& clips, const ByClip& by, bool closeGaps = false);
inline Result<Song> trimStarts(const Song& song, const ClipIds& clips, Frames by, bool closeGaps = false) {
  return trimStarts(
      song, clips, [by](const Clip&) { return by; }, closeGaps);
}
inline Result<Song> trimEnds(const Song& song, const ClipIds& clips, Frames by, bool closeGaps = false) {
  return trimEnds(
      song, clips, [by](const Clip&) { return by; }, closeGaps);
}

/// Moves the recording inside the clips by `by` of song time, as far as there is material; the clips stay.
Result<Song> slipClips(const Song& song, const ClipIds& clips, const ByClip& by);
inline Result<Song> slipClips(const Song& song, const ClipIds& clips, Frames by) {
  return slipClips(song, clips, [by](const Clip&) { return by; });
}
/// Moves clips between their neighbours: the one before gets longer and the one after shorter, or the other way
/// round, as far as material and neighbours allow.
Result<Song> slideClips(const Song& song, const ClipIds& clips, Frames by);

/// With `closeGaps` what follows in the set moves up.
Result<Song> deleteClips(const Song& song, const ClipIds& clips, bool closeGaps = false);
Result<Song> deleteRange(const Song& song, const std::vector<SetId>& sets, FrameRange range, bool closeGaps = false);
/// Moves clips up to the end of the one before in their set, and what follows along with them.
Result<Song> closeGapsBefore(const Song& song, const ClipIds& clips);

/// Plays clips backwards, or forwards again.
Result<Song> reverseClips(const Song& song, const ClipIds& clips);
/// Puts two clips into each other's place. In one set what lies between them is kept between them; in two sets each
/// goes to the other's start.
Result<Song> swapClips(const Song& song, ClipId a, ClipId b);

/// Changes what is named in `change`: gain, pan, name, colour, muting, hold, sync point and envelopes. Refused when a
/// value is out of its range.
Result<Song> changeClips(const Song& song, const ClipIds& clips, const std::function<void(Clip&)>& change);
/// A clip's extras changed.
void changeExtras(Clip& clip, const std::function<void(ClipExtras&)>& change);

/// Song time of the point of a clip that is put on the grid: its sync point, else its first hit, else its start.
Frames anchorOf(const Song& song, const MicSet& set, const Clip& clip);

}  // namespace ochron
