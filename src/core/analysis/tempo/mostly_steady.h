#pragma once

#include <optional>
#include <vector>

namespace ochron {

/// Beats that keep one tempo but for some stretches: fills and breaks where the beat was lost.
struct MostlySteady {
  double start = 0;       ///< s, of a beat, the first that is not before those that were heard
  double step = 0;        ///< s, from beat to beat
  std::size_t count = 0;  ///< of beats up to the last that was heard
  /// Stretches whose beats were heard off the line, s.
  struct Away {
    double from = 0;
    double to = 0;
  };
  std::vector<Away> away;

  std::vector<double> beats() const;
};

/// The line that most beats lie on, by consensus (RANSAC, Fischler and Bolles 1981): begun where the beats are even the
/// longest, and taken on from there over what lies off it, whatever number of beats was heard in between. None where a
/// quarter of the beats or more lies off it, or when they are fewer than 24: beats that breathe lie on no line.
std::optional<MostlySteady> mostlySteady(const std::vector<double>& beats);

}  // namespace ochron
