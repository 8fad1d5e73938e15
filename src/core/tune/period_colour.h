#pragma once

#include <span>
#include <vector>

namespace ochron {

/// A period of a recording that was laid at a place of new sound.
struct LaidPeriod {
  double place = 0;     ///< of its mark, in frames of the new sound
  double mark = 0;      ///< in frames of the recording
  double period = 0;    ///< of the recording there, in frames
  double formants = 1;  ///< ratio by which they are to lie higher
};

/// Periods that are laid over each other closer or wider than they were sung add up to another colour: what the new
/// harmonics have lies between those that were sung, where neighbours reinforce or cancel each other by their phases.
/// This brings each harmonic of the new sound to where a line from one sung harmonic to the next passes (in dB, by at
/// most 12), period by period, through a filter without phase, alike for all channels; the power stays, and what is
/// noise stays as loud among itself. Where the pitch is within 5 cents of the recording's nothing is done, from 20 on
/// all of it. The three periods at each end stay as they are, to the bit. `laid`: by rising places, which cover the
/// sound; a sound of under seven periods stays as it is.
void keepColour(std::vector<std::vector<float>>& sound, std::span<const std::span<const float>> recorded, int rate,
                std::span<const LaidPeriod> laid);

}  // namespace ochron
