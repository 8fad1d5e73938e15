#pragma once

#include <QString>

#include "document/pitch_desk.h"
#include "feel/plan_timing.h"
#include "seams/measure.h"
#include "song/song.h"

namespace ochron {

// What stands in a song, in words: as it is said to readers of the screen and to who asks where the work is.

/// "bar 10 beat 2".
QString placeWords(const Song& song, Frames at);
/// "3.8 ms late", "on the line".
QString lateWords(double ms);
/// "snare, bar 10 beat 2, 3.8 ms late, goes to 5.3 ms late".
QString hitWords(const Song& song, const PlannedHit& hit);
/// "clip 3, bar 1 beat 1 to bar 4 beat 4, muted"; `number` counts from 0.
QString clipWords(const Song& song, const Clip& clip, std::size_t number);
/// "seam, bar 2 beat 1, 8.0 ms long, level holds"; without a measure its level is not known yet.
QString seamWords(const Song& song, const Clip& later, const SeamMeasure* measure);
/// "F4, bar 2 beat 3, 17 cents sharp, goes to 2 cents sharp".
QString noteWords(const Song& song, const PitchDesk::Note& note, const PitchDesk& desk);

}  // namespace ochron
