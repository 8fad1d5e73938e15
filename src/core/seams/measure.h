#pragma once

#include <map>
#include <vector>

#include "base/progress.h"
#include "media/pool.h"
#include "song/joint.h"
#include "song/song.h"

namespace ochron {

/// How a seam comes out on one mic.
struct MicSeam {
  TrackId track;
  double levelDb = 0;    ///< level over the 20 ms that end with the crossfade, against the level of what it joins; 0
                         ///< where the mic is below -70 dBFS
  double steepness = 0;  ///< steepest step inside against the recording's own 99.9th percentile step; 0 when it is no
                         ///< steeper than what it joins
  double loudDb = -120;  ///< level at the seam against the mic's mean
};

/// The worst of all mics of a set.
struct SeamMeasure {
  double levelDb = 0;
  double steepness = 0;
  double loudDb = -120;
  TrackId worst;  ///< the mic of levelDb

  bool operator==(const SeamMeasure&) const = default;
};

inline constexpr double kSeamLevelBarDb = 0.5;
inline constexpr double kSeamSteepnessBar = 1.0;

/// Measures the crossfades of one set's mics, with what it needs to know about the recordings at hand.
class SeamGauge {
 public:
  /// `sound`: of clips that are more than the recording itself: stretched, at another pitch, reversed, another
  /// track's. Without it they are not measured.
  SeamGauge(const Song& song, SetId set, const MediaPool& pool, PieceSound sound = {});
  ~SeamGauge();
  /// The joint of two neighbouring pieces as it would sound; one entry a channel. Empty where there is none, where a
  /// piece is muted, and while its sound is not at hand.
  std::vector<MicSeam> measure(const Clip& earlier, const Clip& later);

 private:
  struct Mic;
  const Song& song_;
  SetId set_;
  const MediaPool& pool_;
  PieceSound sound_;
  std::map<TakeId, std::vector<Mic>> mics_;
};

SeamMeasure worstOf(const std::vector<MicSeam>& mics);

/// Every crossfade of a set by the piece it begins. Fails only when cancelled.
Result<std::map<ClipId, SeamMeasure>> measureSeams(const Song& song, SetId set, const MediaPool& pool,
                                                   Progress& progress, const PieceSound& sound = {});

}  // namespace ochron
