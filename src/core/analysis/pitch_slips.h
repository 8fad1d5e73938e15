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
/// short stretch an octave below what it goes on into, or came from, is lifted where the sound repeats itself well at
/// that octave too. What is really an octave lower does not.
void liftOctaves(std::vector<PitchTrack::Value>& values, const Unlikeness& unlike);

/// A second harmonic far above all others (a bassoon, a low flute, some vowels) is heard as the pitch: a stretch whose
/// sound is far more alike after two periods than after one is an octave lower, down to `lowest` Hz.
void dropOctaves(std::vector<PitchTrack::Value>& values, double lowest, const Unlikeness& unlike);

}  // namespace ochron
