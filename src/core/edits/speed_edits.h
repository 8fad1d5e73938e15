#pragma once

#include "base/result.h"
#include "song/song.h"

namespace ochron {

/// Ways to write how fast a song runs.
enum class SpeedUnit { percent, bpm, semitones, cents, a4 };
inline constexpr std::array<std::string_view, 5> kSpeedUnitNames{"%", "BPM", "semitones", "cents", "A4 Hz"};

/// Percent of the speed as recorded. `bpm`: the song's tempo there. Semitones, cents and A4 (440 as recorded) say how
/// far a tape's pitch goes along.
double percentOf(SpeedUnit unit, double value, double bpm);
/// The other way.
double speedIn(SpeedUnit unit, double percent, double bpm);

/// The whole song runs at one speed (percent, kSpeedRange), or a range of it does and what is around stays as it is.
/// Fails outside of the range of speeds.
Result<Song> setSongSpeed(const Song& song, double percent, FrameRange range = {});
Song setSpeedManner(const Song& song, const SpeedManner& manner);

/// The tempo map as it sounds when the song runs at its speeds, counted in frames of what is played from bar 1 on.
/// Where the speed changes there is a tempo for each sixteenth note.
TempoMap playedTempo(const Song& song);

}  // namespace ochron
