#pragma once

#include <cmath>
#include <cstddef>
#include <vector>

namespace ochron {

/// A pitch in cents above 1 Hz.
inline double centsOf(double hertz) { return 1200 * std::log2(hertz); }

/// The pitch of a single line, 200 values a second.
struct PitchTrack {
  static constexpr int kPerSecond = 200;
  static constexpr double kHop = 1.0 / kPerSecond;  ///< s
  struct Value {
    double hertz = 0;   ///< the likeliest, also where it is hardly voiced; 0 where there is none
    double voiced = 0;  ///< probability

    bool sounds() const { return voiced >= 0.5 && hertz > 0; }
    bool operator==(const Value&) const = default;
  };
  std::vector<Value> values;

  static double secondsAt(std::size_t value) { return static_cast<double>(value) * kHop; }
  /// The value nearest to a time of at least 0 s.
  static std::size_t valueAt(double seconds) { return static_cast<std::size_t>(std::lround(seconds / kHop)); }
  bool operator==(const PitchTrack&) const = default;
};

/// A stretch of one pitch.
struct SungNote {
  double start = 0;  ///< s
  double end = 0;
  double hertz = 0;     ///< median of what follows its first quarter
  bool byHand = false;  ///< split or joined by the user: it survives a new hearing

  bool operator==(const SungNote&) const = default;
};

/// What was heard of a single line, on take time.
struct SungLine {
  PitchTrack track;
  std::vector<SungNote> notes;  ///< in order, apart

  bool operator==(const SungLine&) const = default;
};

}  // namespace ochron
