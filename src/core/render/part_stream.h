#pragma once

#include <cstdint>
#include <vector>

#include "dsp/stream_stretch.h"
#include "render/made_sound.h"

namespace ochron {

/// A stretch of the recordings laid over what an engine makes of them.
struct Laid {
  std::int64_t at = 0;      ///< frame of what is made
  Frames take;              ///< take time of its first frame
  std::int64_t frames = 0;  ///< how long
  std::int64_t in = 0;      ///< of these, the first, over which it comes
  std::int64_t out = 0;     ///< and the last, over which it goes
};

/// Takes what an engine makes, in order, and passes it on with stretches of the recordings laid over it, each
/// crossfaded so that it comes out as loud as what it joins (crossInto).
class LayOver {
 public:
  /// `laid`: in order and apart.
  LayOver(const Voices& voices, std::vector<Laid> laid, StreamSink next);
  bool operator()(ChannelSpans made);
  /// Passes on what was held back for a stretch that did not become whole.
  bool finish();

 private:
  bool pass(std::size_t frames);
  void lay(const Laid& l);

  const Voices& voices_;
  std::vector<Laid> laid_;
  StreamSink next_;
  std::size_t nextLaid_ = 0;
  std::int64_t given_ = 0;                ///< frames passed on
  std::vector<std::vector<float>> held_;  ///< what came since
};

/// Passes on what comes, but for its first frames, until so many were passed on.
class Trimmed {
 public:
  Trimmed(std::int64_t skip, std::int64_t frames, StreamSink next);
  bool operator()(ChannelSpans made);

 private:
  std::int64_t skip_;
  std::int64_t left_;
  StreamSink next_;
};

/// The voices as an engine reads them: from a take time on, so many frames, then silence.
StreamSource takeSource(const Voices& voices, Frames from, std::int64_t frames);
/// Asks a sink, which takes so many channels, whether to go on.
bool goesOn(const StreamSink& to, std::size_t channels);
/// Passes on frames [from, to) of a source, block by block.
bool passOn(const StreamSource& source, std::size_t channels, FrameRange range, const StreamSink& to);
/// Passes on sound at hand, a channel each, of one length.
bool passOn(const std::vector<std::vector<float>>& sound, const StreamSink& to);

}  // namespace ochron
