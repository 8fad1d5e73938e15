#pragma once

#include <array>
#include <optional>
#include <vector>

#include "analysis/tempo/onset_curves.h"
#include "time/tempo_map.h"

namespace ochron {

/// The bars of a recording.
struct BarLines {
  Meter meter;                            ///< of most of them: 4/4, 3/4, 7/8, or 6/8 with a beat of three eighths
  std::vector<MeterEvent> changes = {};   ///< bars, by their downbeat, from which on the meter is another one
  std::vector<double> beats;              ///< seconds; the beats that were given, or what lies halfway between them
  std::vector<double> downbeats;          ///< seconds
  double confidence = 0;                  ///< 0 to 1, that bars begin there
  std::optional<double> otherFirst = {};  ///< the first downbeat of the next likeliest bars of this meter
};

/// Which of all readings of beats as bars: how many halves (or thirds) of a beat a bar has, and which of them begin
/// one.
struct BarReading {
  int division = 2;  ///< of a beat
  int steps = 8;     ///< of a bar
  int first = 0;     ///< step that begins a bar, counted from half a beat or more before the first beat
};

/// What tells which is right, in this order.
enum class BarClue {
  lowDrums,        ///< the low band on downbeats; all bands are taken against their own mean and spread
  middle,          ///< the middle band there
  newHarmony,      ///< how much the harmony of the beat from there differs from that of the beat before
  lowHalfway,      ///< 4/4: the low band on the third beat
  begins,          ///< the recording's first onset is a downbeat
  loopBegins,      ///< the same of a loop
  repeats,         ///< how alike bars are
  seven,           ///< 7/8, that is rarer
  compound,        ///< 6/8
  three,           ///< 3/4
  thirds,          ///< 6/8: ln of what is played on thirds of a beat against on its half
  notEight,        ///< 7/8: how much more alike steps are seven apart than eight
  onsets,          ///< the activation on downbeats
  lowBefore,       ///< the low band on the step before them
  middleContrast,  ///< the middle band on downbeats against the other beats
  tonalLow,        ///< lowDrums, times how tonal the recording is: a bass note is no kick
  tonalHarmony,    ///< newHarmony, times the same: drums have none
};
inline constexpr std::size_t kBarClues = 17;
using BarClues = std::array<double, kBarClues>;

struct BarCandidate {
  BarReading reading;
  BarClues clues{};
  BarLines lines;  ///< without its confidence
};

/// All readings of a recording's beats (seconds, two and more) with what tells for them. `loop`: it is one.
std::vector<BarCandidate> barCandidates(const OnsetCurves& curves, const Chroma& chroma,
                                        const std::vector<double>& beats, bool loop);
/// A reading's log likelihood among the others of its recording, but for what is common to all.
double barWorth(const BarClues& clues);

/// The likeliest bars. Beats without room for a bar have none.
BarLines barLines(const OnsetCurves& curves, const Chroma& chroma, const std::vector<double>& beats, bool loop);

}  // namespace ochron
