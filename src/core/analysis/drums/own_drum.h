#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <vector>

#include "analysis/hits/attacks.h"
#include "analysis/levels/mic_level.h"
#include "terms/drum_class.h"

namespace ochron {

/// What a mic is there to hear.
enum class MicHears {
  unknown,  ///< to be found out by its sound
  kick,     ///< a close mic: what else it hears is bleed
  snare,
  tom,
  hat,         ///< among much else: every stroke it hears clearly counts, and its own are told by their level
  everything,  ///< overheads, cymbals: every stroke it hears clearly counts
  room,        ///< the same, from afar
};

/// The drum that a mic stands at, if any.
constexpr std::optional<DrumClass> ownDrum(MicHears hears) {
  switch (hears) {
    case MicHears::kick: return DrumClass::kick;
    case MicHears::snare: return DrumClass::snare;
    case MicHears::tom: return DrumClass::tom;
    case MicHears::hat: return DrumClass::hat;
    default: return {};
  }
}

/// Thresholds by which attacks count as strokes, from takes with truth (docs/figures.md).
struct OwnDrumSettings {
  double everythingDb = 3.5;       ///< least of rise and 1.3 mean rises, dB
  double everythingSeveralDb = 6;  ///< the same when several mics are asked
  double kickLeastDb = -22;        ///< every band from 100 Hz to 9 kHz of a kick in its mic reaches this
  double kickMeanDb = -13;         ///< or their mean this
  double kickRiseDb = 3;           ///< least rise over the 41 ms before
  double kickSureDb = -12;         ///< a stroke so loud against the mic's loud ones needs to be no deeper than it is
  double kickDeepDb = 1;           ///< by so much less deep than those, against its other bands, it is another drum
  double neighbourMs = 15;         ///< so near to a stroke with that much more new sound an attack is that stroke
  double neighbourDb = 6;
  double likeness = 0.44;     ///< of a snare's spectrum and level to the mic's own sure strokes
  double bodyRiseDb = 2;      ///< of a snare's mic's own drum
  double tomBase = -0.408;    ///< of a tom: what its sureness begins at
  double tomAlike = 0.493;    ///< more for its likeness to the mic's own
  double tomSounds = 0.43;    ///< and for sounding like toms do
  double tomGain = 0.0268;    ///< and for each dB over the mic's own
  double doubt = -0.15;       ///< less sure by that likeness: not asked for its clues
  double severalMore = 0.06;  ///< surer by so much when several mics are asked: they tell bleed from ghosts
  bool byClues = true;  ///< of a snare: by what tells it from toms and hats (snare_clues.h), not by likeness alone
};

/// The log odds that an attack of sureness 1 is a stroke, of takes with truth (docs/figures.md).
inline constexpr double kOddsOfSure = 16;

/// How surely each attack is a stroke that counts on its mic: above 0 yes, below 0 no; about -1 to 1.
std::vector<double> judgeAttacks(std::span<const float> samples, const MicLevel& level,
                                 const std::vector<Attack>& attacks, MicHears hears, bool several,
                                 const OwnDrumSettings& settings = {});

/// What a mic of unknown name hears: a close mic's loud strokes are all alike and, of a kick, low.
MicHears hearsBySound(std::span<const float> samples, int rate, const std::vector<Attack>& attacks);

}  // namespace ochron
