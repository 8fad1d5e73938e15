#pragma once

#include <array>
#include <vector>

#include "analysis/tempo/beat_pointer.h"
#include "analysis/tempo/loop_length.h"
#include "analysis/tempo/onset_curves.h"
#include "base/progress.h"

namespace ochron {

/// What tells which of several readings of a recording (its tempo, half of it, twice, three for two) is the one that is
/// felt. In this order.
enum class LevelClue {
  octavesOff,    ///< squared: octaves from 100 BPM
  onsetsABeat,   ///< octaves from three onsets a beat
  onsetsABeat2,  ///< the same squared
  onTheBeat,     ///< ln of the activation on beats against its mean
  carried,       ///< share of the beats that something begins on
  thirds,        ///< high bands at thirds of the beats against on them
  quarters,      ///< the same at the first and third quarter
  evenLoop,      ///< a loop of 4, 8, 16 ... beats
  unevenLoop,    ///< a loop, and no whole number of beats
  bars,          ///< how much more alike beats are four apart than three apart
  everyBeat,     ///< how alike neighbouring beats are
  backbeat,      ///< how differently every second beat sounds in the middle
  halfTime,      ///< how differently beats two apart sound in the middle
  halfTimeLow,   ///< the same in the low band
  swungBelow,    ///< what would be a swung eighth of twice the tempo
};
inline constexpr std::size_t kLevelClues = 15;
using LevelClues = std::array<double, kLevelClues>;

/// A way through a recording and what tells for it.
struct TempoReading {
  BeatPath path;
  LevelClues clues{};
  double worth = 0;  ///< log likelihood among the recording's readings, but for what is common to all
};

/// All readings of a recording between two tempi (BPM), each tempo once, the likeliest first. Ends early when
/// cancelled.
std::vector<TempoReading> tempoReadings(const OnsetCurves& curves, const LoopLength& loop, double slowest,
                                        double fastest, Progress& progress);

}  // namespace ochron
