#include "dsp/stream_stretch.h"

#include <rubberband/RubberBandStretcher.h>

#include <algorithm>
#include <vector>

namespace ochron {

using RubberBand::RubberBandStretcher;

namespace {

constexpr std::size_t kStreamBlock = 4096;  // with a map the ratio is looked up anew for each
constexpr std::size_t kBeyond = 16'384;     // the engine may end early: it is given more to read

/// All channels of one block.
class Block {
 public:
  explicit Block(std::size_t channels) : samples_(channels, std::vector<float>(kStreamBlock)), spans_(channels) {
    for (auto& c : samples_) pointers_.push_back(c.data());
  }
  /// Its first frames.
  ChannelSpans first(std::size_t n) {
    for (std::size_t c = 0; c < samples_.size(); ++c) spans_[c] = std::span(samples_[c]).first(n);
    return spans_;
  }
  ChannelSpans silent(std::size_t n) {
    for (auto& c : samples_) std::fill_n(c.begin(), n, 0.0F);
    return first(n);
  }
  float* const* pointers() const { return pointers_.data(); }

 private:
  std::vector<std::vector<float>> samples_;
  std::vector<std::span<float>> spans_;
  std::vector<float*> pointers_;
};

}  // namespace

bool streamStretched(int rate, std::size_t channels, const StreamLength& length, const StreamSource& source,
                     const StreamSink& sink, Progress& progress) {
  if (length.frames == 0 || length.made == 0) return true;
  RubberBandStretcher engine(static_cast<std::size_t>(rate), channels,
                             RubberBandStretcher::OptionProcessOffline | RubberBandStretcher::OptionThreadingNever |
                                 RubberBandStretcher::OptionChannelsTogether | RubberBandStretcher::OptionEngineFiner);
  engine.setDebugLevel(0);
  const double ratio = static_cast<double>(length.made) / static_cast<double>(length.frames);
  const auto given = length.frames + kBeyond;
  engine.setTimeRatio(ratio);
  engine.setExpectedInputDuration(given);
  engine.setMaxProcessSize(kStreamBlock);
  auto map = length.keys;
  map[length.frames] = length.made;
  map[given] = length.made + static_cast<std::size_t>(static_cast<double>(kBeyond) * ratio);
  engine.setKeyFrameMap(map);
  Block block(channels);
  constexpr double kStudyShare = 0.3;
  const auto share = [&](std::size_t at) { return static_cast<double>(at) / static_cast<double>(given); };
  for (std::size_t at = 0; at < given; at += kStreamBlock) {
    if (progress.cancelled()) return false;
    const auto n = std::min(kStreamBlock, given - at);
    source(at, block.silent(n));
    engine.study(block.pointers(), n, at + n == given);
    progress.report(kStudyShare * share(at));
  }
  std::size_t done = 0;
  Block out(channels);
  for (std::size_t at = 0; at < given && done < length.made; at += kStreamBlock) {
    if (progress.cancelled()) return false;
    const auto n = std::min(kStreamBlock, given - at);
    source(at, block.silent(n));
    engine.process(block.pointers(), n, at + n == given);
    for (int ready = engine.available(); ready > 0 && done < length.made; ready = engine.available()) {
      const auto got = engine.retrieve(out.pointers(), std::min(kStreamBlock, static_cast<std::size_t>(ready)));
      if (got == 0) break;
      const auto kept = std::min(got, length.made - done);
      if (!sink(out.first(kept))) return false;
      done += kept;
    }
    progress.report(kStudyShare + (1 - kStudyShare) * share(at));
  }
  // Nothing was left over to give: the rest is silent.
  while (done < length.made) {
    const auto n = std::min(kStreamBlock, length.made - done);
    if (!sink(out.silent(n))) return false;
    done += n;
  }
  return true;
}

}  // namespace ochron
