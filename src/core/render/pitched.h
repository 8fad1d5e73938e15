#pragma once

#include <optional>

#include "render/stretched.h"

namespace ochron {

/// The stretched time that pitched() reads for a range.
FrameRange pitchReads(FrameRange range, int rate);
/// A range of stretched time, and kMadeTail after it, its pitch led by the clip's envelope: stretched by the ratio of
/// each place, then read at that speed. `sound` is what lies in `reads`. `formants`: cents from the recording's at
/// which they are held; none: they go along.
Channels pitched(const Clip& clip, const Channels& sound, FrameRange reads, FrameRange range, int rate,
                 std::optional<double> formants);
/// The voices of a single line (Voices::line) as its clip's pitch envelope makes them, period by period (regrain),
/// before they are stretched: what has no pitch and what is not moved is the recording. Good for a range of take time;
/// the same wherever that begins. Their digest says what was done.
Voices retunedLine(const Clip& clip, FrameRange take, const Voices& voices);
/// As pitched(), at once and less well, for the ear until that is made: grains of 20 ms, formants go along.
Channels quicklyPitched(const Clip& clip, const Channels& sound, FrameRange reads, FrameRange range, int rate);

}  // namespace ochron
