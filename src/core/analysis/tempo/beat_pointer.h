#pragma once

#include <span>
#include <vector>

namespace ochron {

/// A way through a recording, beat by beat.
struct BeatPath {
  std::vector<double> beats;  ///< seconds
  double score = 0;           ///< log likelihood a frame; higher is better
  double bpm = 0;             ///< of the median beat
};

/// The likeliest beats near a tempo: a bar pointer of one beat in semi-Markov form (Krebs, Böck & Widmer 2015, with the
/// interval as state). `activation`: 0 to 1, 200 values a second. Tempi lie within kPointerWidth of `bpm`; from beat to
/// beat they change little. No beats when it is shorter than two of them.
BeatPath beatsNear(std::span<const float> activation, double bpm);
inline constexpr double kPointerWidth = 0.32;

}  // namespace ochron
