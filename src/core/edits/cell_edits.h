#pragma once

#include "base/result.h"
#include "edits/clip_edits.h"
#include "song/incoming_sounds.h"

namespace ochron {

/// A sound in the place of what clips play, heard on their set's first track: its attack lies where the clip's first
/// stroke is, or where the clip begins when it has none; the clip's length, gain, pan, fades and groups stay. Clips
/// that a plan cut are taken out of it. `attack`: from the sound's first frame, at the song's rate. What lies beyond
/// the clip's end is not heard; it is faded there.
Result<Song> giveSound(const Song& song, const ClipIds& clips, const IncomingSound& sound, Frames attack);
/// The clips play what was recorded again. Refused when none of them has a sound of its own.
Result<Song> giveRecordingBack(const Song& song, const ClipIds& clips);

}  // namespace ochron
