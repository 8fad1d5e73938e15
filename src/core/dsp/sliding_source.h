#pragma once

#include <cstdint>
#include <functional>
#include <span>
#include <vector>

namespace ochron {

/// Some channels of one length.
using ChannelSpans = std::span<const std::span<float>>;
/// A source of sound: adds to all channels, which are silent before, from a frame on (0 or later).
using StreamSource = std::function<void(std::size_t from, ChannelSpans channels)>;

/// Reads a source in order, each frame once, and keeps so many of its last frames, so that windows may overlap. Before
/// its beginning there is silence. Not thread-safe.
class SlidingSource {
 public:
  SlidingSource(std::size_t channels, std::size_t kept, StreamSource source);

  std::size_t channels() const { return sums_.size(); }
  /// What begins at `from`, which may lie at most `kept` frames before the last one read so far.
  void read(std::size_t channel, std::int64_t from, std::span<float> to);

 private:
  void readUpTo(std::int64_t end);
  std::size_t kept_;
  StreamSource source_;
  std::int64_t start_ = 0;  ///< frame of the source that the kept ones begin with
  std::vector<std::vector<float>> sums_;
};

}  // namespace ochron
