#pragma once

#include "base/result.h"
#include "base/setting.h"
#include "song/song.h"

namespace ochron {

inline constexpr SettingRange kSteadyRange{"steady", "%", 0, 100, 5, 100};

/// The song's wandering tempo turned into one tempo, `amount` % of the way, over the bars that clips lie in; every
/// recording follows by stretching, pinned at the strokes of its hits and at bar lines. What is held by the clock is
/// carried along with the bars it lies in. Nothing changes at 0 %. Sets that are locked whole stay. Anchors are gone,
/// as the recording no longer lies where they were set. Plans are to be run again.
Result<Song> makeSteady(const Song& song, double amount);

/// Stretches a clip so that its own bars lie on the song's: its first downbeat on the bar line nearest to where it is,
/// and every beat from there on the song's beat, pinned at the strokes of its hits. What a locked range holds is
/// refused; what follows may be covered. The take keeps the tempo.
Result<Song> fitClip(const Song& song, ClipId clip, const SourceTempo& source);

/// How a clip is brought to the song's tempo.
enum class FitManner {
  stretched,  ///< pitch stays, by the clip's way of stretching
  tape,       ///< speed and pitch together
  slices,     ///< cut before every hit, nothing stretched: gaps fade out, what is too long is cut short
};

/// As fitClip(), by one of these manners. By slices it is refused for clips that are stretched or turned round already,
/// and where no hits were found.
Result<Song> fitClip(const Song& song, ClipId clip, const SourceTempo& source, FitManner manner);

/// Stretches a clip evenly so that it begins and ends with a range, to the frame.
Result<Song> fitClipTo(const Song& song, ClipId clip, FrameRange range);

/// A take's own tempo as it is known; none: forgotten.
Result<Song> setSourceTempo(const Song& song, TakeId take, const std::optional<SourceTempo>& tempo);

/// What to fit: a mic set's clips, by the tempo of what they play.
struct FitOne {
  SetId set;
  SourceTempo source;
};
/// Fits all clips of several sets, as fitClip() does. Clips that play backwards and sets that are locked whole stay.
Result<Song> fitSets(const Song& song, const std::vector<FitOne>& sets);

}  // namespace ochron
