#pragma once

#include <optional>
#include <span>
#include <string>
#include <vector>

#include "analysis/tempo/mostly_steady.h"
#include "base/progress.h"
#include "base/result.h"
#include "base/setting.h"
#include "time/tempo_map.h"

namespace ochron {

inline constexpr SettingRange kSlowestRange{"slowest tempo", "BPM", 20, 400, 1, 60};
inline constexpr SettingRange kFastestRange{"fastest tempo", "BPM", 20, 400, 1, 200};

struct TempoSearch {
  double slowest = kSlowestRange.fallback;  ///< BPM of quarter notes, or of the beat that is felt
  double fastest = kFastestRange.fallback;
  std::optional<double> beats = {};  ///< the whole file is so many beats
};

/// One reading of a recording's tempo.
struct TempoCandidate {
  double bpm = 0;
  double score = 0;  ///< higher is better; of all candidates they add to 1
};

/// What was heard of a recording's tempo. Times are seconds from its start.
struct HeardTempo {
  double bpm = 0;         ///< of the whole: exact for a steady recording or a loop, else of the median beat
  double confidence = 0;  ///< 0 to 1, that this is the beat that is felt
  std::vector<double> beats;
  std::vector<double> downbeats;
  Meter meter;                             ///< of most bars: 4/4, 3/4, 7/8, or 6/8 whose beats are three eighths long
  std::vector<MeterEvent> changes;         ///< bars, by their downbeat, from which on the meter is another one
  double barConfidence = 0;                ///< 0 to 1, that bars begin there
  std::optional<double> otherBar;          ///< the first downbeat of the next likeliest bars of this meter
  bool steady = false;                     ///< one tempo throughout, as played to a click or a loop
  std::vector<MostlySteady::Away> away;    ///< where what is steady was heard off its beats
  std::vector<TempoCandidate> candidates;  ///< the best first

  Meter meterOfBar(int downbeat) const;
  /// The meters of all bars, the first one's at bar 0.
  std::vector<MeterEvent> meters() const;
  /// Quarter notes in the beat that is felt, whose tempo `bpm` is.
  double quartersABeat() const { return meter == Meter{6, 8} ? 1.5 : 1.0; }
};

/// Hears tempo, beats and downbeats of one recording. Silence, noise without onsets and what is shorter than two beats
/// fail with a sentence, never with a made-up number. About 90 times real time.
Result<HeardTempo> hearTempo(std::span<const float> samples, int rate, const TempoSearch& search, Progress& progress);

}  // namespace ochron
