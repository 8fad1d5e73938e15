#pragma once

#include <span>

namespace ochron {

/// By how much the colour of a sound changes about a moment: how far the spectra of the 110 ms that end 40 ms before it
/// and of those that begin 60 ms after it lie apart, dB RMS over nine bands from 150 to 5 500 Hz, their level aside.
/// What lies 40 dB under the loudest band does not count. A held vowel stays under 4 dB, another vowel is at 5 to 13. 0
/// where the sound does not reach that far.
double colourChange(std::span<const float> samples, int rate, double seconds);

}  // namespace ochron
