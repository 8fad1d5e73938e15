#pragma once

#include <optional>
#include <span>

namespace ochron {

/// What a recording's length tells when it is a loop.
struct LoopLength {
  double seconds = 0;                ///< of one pass: the period it repeats with, or the whole
  bool repeats = false;              ///< it was heard to repeat
  double likeness = 0;               ///< of a pass and the next, -1 to 1
  std::optional<double> beats = {};  ///< of the whole file, when that was said
  double whole = 0;                  ///< s, of the file
};

/// The exact period of a recording that repeats itself (waveform autocorrelation, parabolic between samples), or its
/// length.
LoopLength loopOf(std::span<const float> samples, int rate, std::optional<double> beats);

/// Whether it may be a loop: it repeats, or is no longer than a loop that does not.
bool isLoop(const LoopLength& loop);
/// How many beats one pass of a loop has at a tempo; none when it is no whole number that loops have, or no loop.
std::optional<int> wholeBeats(const LoopLength& loop, double bpm);

/// Whether it is a loop at a tempo: it repeats, or has a whole number of beats.
bool isLoopAt(const LoopLength& loop, double bpm);

/// The exact tempo of a loop near a tempo that was heard: a whole number of beats in its pass. None when it does not
/// fit, or when the recording is too long to be a loop that does not repeat.
std::optional<double> exactLoopTempo(const LoopLength& loop, double heardBpm);

}  // namespace ochron
