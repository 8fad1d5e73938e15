#pragma once

#include <cstdint>
#include <span>

namespace ochron {

inline constexpr double kStrokeMs = 60;        ///< from its attack on, in which a stroke is at its loudest
inline constexpr double kSilentStroke = -120;  ///< dB, of silence

/// Loudness of a stroke: RMS of the loudest 10 ms within the 60 ms from its attack on, dB full scale. (Hands do not
/// clap at once.)
double strokeDb(std::span<const float> sound, std::int64_t attack, int rate);

/// Where the attack of a sound that holds a single stroke begins: the first frame over -40 dB of its peak that no quiet
/// millisecond parts from the peak's rise. `floor`: what counts as silence, in full scale. Zero of silence.
std::int64_t attackIn(std::span<const float> sound, int rate, float floor = 0);

}  // namespace ochron
