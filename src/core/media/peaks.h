#pragma once

#include <cstdint>
#include <span>
#include <vector>

namespace ochron {

/// One bin of a waveform picture; full scale is +-32767.
struct Peak {
  std::int16_t low = 0;
  std::int16_t high = 0;
  std::int16_t rms = 0;
};

inline constexpr int kPeakBaseFrames = 64;  ///< frames in one bin of the finest level
inline constexpr int kPeakLevelFactor = 4;  ///< bins of one level in one bin of the next
inline constexpr int kPeakLevels = 8;       ///< 64 ... 1 048 576 frames a bin

/// Bins of each level for `frames` frames.
std::size_t peakCount(std::int64_t frames, int level);

/// Builds one channel's pyramid while samples come in, in any block sizes.
class PeakBuilder {
 public:
  void add(std::span<const float> samples);
  /// Finest level first. Ends the build.
  std::vector<std::vector<Peak>> finish();

 private:
  void close();
  std::vector<Peak> base_;
  float low_ = 0;
  float high_ = 0;
  float squares_ = 0;
  int count_ = 0;
};

/// A finished pyramid of one channel; views into a mapped file.
struct PeakPyramid {
  std::vector<std::span<const Peak>> levels;

  /// The coarsest level whose bins are no longer than `framesPerPixel`; -1 when samples should be drawn themselves.
  int levelFor(double framesPerPixel) const;
  /// The loudest value of the finest bins that reach into frames `from` to `to`; 0 where there are none.
  float loudest(std::int64_t from, std::int64_t to) const;
};

}  // namespace ochron
