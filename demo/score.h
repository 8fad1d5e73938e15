#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "terms/drum_class.h"
#include "time/tempo_map.h"

namespace ochron::demo {

inline constexpr int kRate = 48'000;
inline constexpr double kBpm = 104;
inline constexpr int kBars = 34;

/// One stroke with its place in the song and where the player really put it.
struct Stroke {
  Frames onset;
  Ticks intended;
  DrumClass drum = DrumClass::kick;
  int key = 36;        ///< General MIDI percussion key
  int velocity = 100;  ///< 1 to 127
  bool ghost = false;
  bool grace = false;  ///< the first of a flam
  double driftMs = 0;
  double pocketMs = 0;
  double scatterMs = 0;
};

struct Note {
  Frames start;
  Frames end;
  Ticks intended;
  int midi = 60;
  int velocity = 90;
  // Of sung notes only:
  double cents = 0;         ///< the centre's distance from the tempered pitch
  double vibratoCents = 0;  ///< half the whole swing
  double vibratoHz = 0;
  double scoopCents = 0;  ///< where the note begins, below its centre
  int vowel = 0;
};

struct Score {
  TempoMap tempo;
  std::vector<Stroke> drums;
  std::vector<Note> bass;
  std::vector<Note> guitar;
  std::vector<Note> voice;
};

/// The song "Low Tide Lanterns": the same every time.
Score writeScore();

}  // namespace ochron::demo
