#pragma once

#include <span>
#include <vector>

#include "analysis/drums/mic_strokes.h"
#include "base/progress.h"
#include "base/result.h"
#include "base/units.h"
#include "terms/drum_class.h"

namespace ochron {

struct Hearing {
  int guide = 0;
  double claim = 0;  ///< 0 to 1: how surely a stroke counts on this guide; 0.05 counts at the default sensitivity
};

/// One drum of a hit.
struct OnsetStroke {
  Frames at;  ///< take time where its attack begins
  DrumClass drum = DrumClass::other;
  double strength = 0;  ///< 0 to 1, level against the loudest strokes of the guide that hears it best
  int guide = 0;
};

/// Strokes that are one hit: they follow each other within 25 ms.
struct Onset {
  Frames at;                          ///< of its leading stroke
  double strength = 0;                ///< of the leading stroke
  double confidence = 0;              ///< 0 to 1
  DrumClass drum = DrumClass::other;  ///< of the leading stroke
  std::vector<Hearing> guides;        ///< which guides heard it, the surest first
  std::vector<OnsetStroke> strokes;   ///< the leading one first, then by time
};

/// All hits on the guides, sorted. Everything down to the noise is reported; callers filter by the guides' claims.
///
/// Attacks are rises over seven bands alike (findAttacks); which of them are strokes, each mic decides by its own drum
/// or, overheads and the like, by how far they rise (judgeAttacks), and where there are wide mics, guides or not, by
/// the levels between the mics (BetweenMics). Strokes within 25 ms of each other are one hit, timed by kick or snare
/// before toms before hats and cymbals. Instruments that sound on go by what is new (findSoftStrokes). Mics are
/// listened to on all cores. `rate` in Hz. Fails only when cancelled.
Result<std::vector<Onset>> detectOnsets(const std::vector<GuideSignal>& mics, int rate, Progress& progress);

}  // namespace ochron
