#pragma once

#include <cstddef>
#include <functional>
#include <vector>

#include "terms/sung.h"

namespace ochron {

/// How unlike two periods of a pitch are about a value, from 0 (the same) to 1.
using Unlikeness = std::function<double(std::size_t value, double hertz)>;

/// Two notes that sound together have an undertone in common, and a path that goes from one to the other often dips to
/// it: a short dip of most of an octave or more is lifted to whichever neighbour it divides.
void liftUndertones(std::vector<PitchTrack::Value>& values);

/// An attack often repeats itself better after two periods than after one, and is heard an octave low for a moment: a
/// short stretch one or two octaves below what it goes on into, or came from, is lifted where the sound repeats itself
/// well at that octave too. What is really an octave lower does not.
void liftOctaves(std::vector<PitchTrack::Value>& values, const Unlikeness& unlike);

/// A second harmonic far above all others (a bassoon, a low flute, some vowels) is heard as the pitch: a stretch whose
/// sound is far more alike after two periods than after one is an octave lower, down to `lowest` Hz.
void dropOctaves(std::vector<PitchTrack::Value>& values, double lowest, const Unlikeness& unlike);

/// How loud odd harmonics of an octave below are about a value, and what lies between all of them, dB against the
/// pitch's own harmonics.
struct OddHarmonics {
  double level = 0;
  double between = 0;
};

/// What tells an octave from its odd harmonics.
struct OctaveClues {
  Unlikeness unlike;
  std::function<OddHarmonics(std::size_t value, double hertz)> odd;
  std::function<double(std::size_t value)> level;  ///< dB
};

/// The same where odd harmonics are there but weak, as of a string whose odd ones die first: they stand out from what
/// lies between, and the sound is more alike after two periods than after one; or they stand out a little, and the
/// stretch goes on from one an octave lower without getting louder. Not below 80 Hz, where what booms stands there too.
void dropOddOctaves(std::vector<PitchTrack::Value>& values, double lowest, const OctaveClues& clues);

}  // namespace ochron
