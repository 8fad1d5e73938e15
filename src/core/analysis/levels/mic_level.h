#pragma once

#include <cstdint>
#include <span>
#include <vector>

namespace ochron {

/// How loud a mic is, millisecond by millisecond, against its own loud strokes.
struct MicLevel {
  MicLevel(std::span<const float> samples, int sampleRate);

  std::vector<float> peaks;  ///< of each millisecond
  double reference = 1;      ///< peak of a loud stroke
  bool silent = false;
  int rate;  ///< Hz

  /// Peak in the 12 ms from a frame of the recording, 1 for a loud stroke.
  double at(std::int64_t frame) const;
  /// Share of that level that was not there in the 16 ms before: the swing of a low tone is no attack.
  double jumpAt(std::int64_t frame) const;
};

/// The value below which `share` (0 to 1) of the values lie; 0 of none.
double percentile(std::vector<double> values, double share);

}  // namespace ochron
