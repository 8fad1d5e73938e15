#pragma once

#include <span>
#include <vector>

#include "base/drum_class.h"
#include "base/progress.h"
#include "base/result.h"
#include "base/units.h"

namespace ochron {

/// One guide's sound, one channel, in take time from `offset` on.
struct GuideSignal {
  std::span<const float> samples;
  Frames offset;
};

struct Hearing {
  int guide = 0;
  double strength = 0;  ///< 0 to 1, against the loudest strokes of this guide
};

struct Onset {
  Frames at;                          ///< take time where the attack begins
  double strength = 0;                ///< 0 to 1: level against the loudest strokes of its guide; bleed is marked down
  double confidence = 0;              ///< 0 to 1
  DrumClass drum = DrumClass::other;  ///< what the attack sounds like, by its spectrum
  std::vector<Hearing> guides;        ///< which guides heard it, the clearest first
};

/// All onsets on the guides, one a stroke, sorted. Everything down to the noise is reported; callers filter by
/// strength.
///
/// Presence: log-filtered spectral flux with a maximum filter against vibrato (SuperFlux: Boeck & Widmer, DAFx 2013)
/// and an adaptive threshold. Place: on the waveform at full rate, where the variance of the signal changes (Maeda's
/// AIC picker, 1985, applied twice). Bleed: by likeness to the guide's own loud strokes, and by what each guide usually
/// hears of the others. `rate` in Hz. Fails only when cancelled.
Result<std::vector<Onset>> detectOnsets(const std::vector<GuideSignal>& guides, int rate, Progress& progress);

}  // namespace ochron
