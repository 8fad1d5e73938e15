#pragma once

#include <cstdint>
#include <ostream>
#include <random>
#include <vector>

#include "terms/drum_class.h"
#include "time/tempo_map.h"

namespace ochron::test {

/// How a made-up drummer plays. All timing is known to the frame.
struct Style {
  int rate = 48'000;
  double bpm = 120;
  Meter meter;
  int bars = 24;
  double swing = 50;
  double driftMs = 10;    ///< half the swing of the slow wandering
  double driftBars = 16;  ///< bars of one round of it
  double snareLateMs = 9;
  double hatLateMs = 0;
  double scatterMs = 3;
  double ghostShare = 0.4;
  double kickHz = 55;
  double snareHz = 190;
  std::uint64_t seed = 1;
};

std::ostream& operator<<(std::ostream& out, const Style& style);

struct PlayedHit {
  Frames at;
  Ticks intended;
  DrumClass drum = DrumClass::kick;
  double velocity = 1;
  double driftMs = 0;
  double pocketMs = 0;
  double scatterMs = 0;
};

struct Performance {
  TempoMap map;
  std::vector<PlayedHit> hits;           ///< sorted
  std::vector<std::vector<float>> mics;  ///< kick, snare, hat, overhead; equally long
  std::vector<PlayedHit> of(std::initializer_list<DrumClass> drums) const;
};

/// Plays and records a kit of four mics: attacks begin exactly at their frames, with bleed, distances and noise.
Performance perform(const Style& style);

/// How found onsets compare with the truth, matched one to one within `toleranceMs`.
struct Score {
  double precision = 0, recall = 0, f1 = 0;
  double medianMs = 0, p95Ms = 0;
};
Score compare(const std::vector<Frames>& truth, const std::vector<Frames>& found, int rate, double toleranceMs);

}  // namespace ochron::test
