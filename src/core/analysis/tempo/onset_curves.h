#pragma once

#include <array>
#include <span>
#include <vector>

namespace ochron {

/// Bands that onsets are looked for in, Hz: [edge, next edge).
inline constexpr std::array<double, 6> kOnsetBandEdges{30, 110, 350, 1500, 5000, 15'000};
inline constexpr std::size_t kOnsetBands = kOnsetBandEdges.size() - 1;

/// How much begins at each moment of a recording, 200 values a second.
struct OnsetCurves {
  static constexpr double kPerSecond = 200;
  std::array<std::vector<float>, kOnsetBands> bands;  ///< 0 to 1.5, against the band's own strong onsets
  std::vector<float> activation;                      ///< all bands together, 0 to 1, against what is around it

  std::size_t size() const { return activation.size(); }
};

/// Spectral flux over a log spectrum with a maximum filter over frequency (Böck & Widmer 2013), in five bands.
OnsetCurves onsetCurves(std::span<const float> samples, int rate);

/// Pitch classes, 12 values from C on, `perSecond` of them; each frame of length 1, or 0 in silence.
struct Chroma {
  double perSecond = 0;
  std::vector<std::array<float, 12>> frames;

  /// How far the strongest class stands over the middle one, 0 to 1: some 0.2 for drums alone, 0.6 for a piano.
  double tonal() const;
};
Chroma chromaOf(std::span<const float> samples, int rate);

}  // namespace ochron
