#include "dsp/stream_stretch.h"

#include <rubberband/RubberBandStretcher.h>

#include <algorithm>
#include <array>
#include <vector>

namespace ochron {

using RubberBand::RubberBandStretcher;

namespace {

constexpr std::size_t kStreamBlock = 4096;  // with a map the ratio is looked up anew for each
constexpr std::size_t kBeyond = 16'384;     // the engine may end early: it is given more to read

/// Both sides of one block.
struct Block {
  std::vector<float> left = std::vector<float>(kStreamBlock);
  std::vector<float> right = std::vector<float>(kStreamBlock);

  void read(const StreamSource& source, std::size_t at, std::size_t n) {
    std::fill_n(left.begin(), n, 0.0F);
    std::fill_n(right.begin(), n, 0.0F);
    source(at, std::span(left).first(n), std::span(right).first(n));
  }
  std::array<const float*, 2> in() const { return {left.data(), right.data()}; }
  std::array<float*, 2> out() { return {left.data(), right.data()}; }
};

}  // namespace

bool streamStretched(int rate, std::size_t frames, std::size_t made, const std::map<std::size_t, std::size_t>& keys,
                     const StreamSource& source, const StreamSink& sink, Progress& progress) {
  if (frames == 0 || made == 0) return true;
  RubberBandStretcher engine(static_cast<std::size_t>(rate), 2,
                             RubberBandStretcher::OptionProcessOffline | RubberBandStretcher::OptionThreadingNever |
                                 RubberBandStretcher::OptionChannelsTogether | RubberBandStretcher::OptionEngineFiner);
  engine.setDebugLevel(0);
  const double ratio = static_cast<double>(made) / static_cast<double>(frames);
  const auto length = frames + kBeyond;
  engine.setTimeRatio(ratio);
  engine.setExpectedInputDuration(length);
  engine.setMaxProcessSize(kStreamBlock);
  auto map = keys;
  map[frames] = made;
  map[length] = made + static_cast<std::size_t>(static_cast<double>(kBeyond) * ratio);
  engine.setKeyFrameMap(map);
  Block block;
  constexpr double kStudyShare = 0.3;
  const auto share = [&](std::size_t at) { return static_cast<double>(at) / static_cast<double>(length); };
  for (std::size_t at = 0; at < length; at += kStreamBlock) {
    if (progress.cancelled()) return false;
    const auto n = std::min(kStreamBlock, length - at);
    block.read(source, at, n);
    engine.study(block.in().data(), n, at + n == length);
    progress.report(kStudyShare * share(at));
  }
  std::size_t done = 0;
  Block out;
  for (std::size_t at = 0; at < length && done < made; at += kStreamBlock) {
    if (progress.cancelled()) return false;
    const auto n = std::min(kStreamBlock, length - at);
    block.read(source, at, n);
    engine.process(block.in().data(), n, at + n == length);
    for (int ready = engine.available(); ready > 0 && done < made; ready = engine.available()) {
      const auto got = engine.retrieve(out.out().data(), std::min(kStreamBlock, static_cast<std::size_t>(ready)));
      if (got == 0) break;
      const auto kept = std::min(got, made - done);
      if (!sink(std::span(out.left).first(kept), std::span(out.right).first(kept))) return false;
      done += kept;
    }
    progress.report(kStudyShare + (1 - kStudyShare) * share(at));
  }
  // Nothing was left over to give: the rest is silent.
  std::fill(out.left.begin(), out.left.end(), 0.0F);
  std::fill(out.right.begin(), out.right.end(), 0.0F);
  while (done < made) {
    const auto n = std::min(kStreamBlock, made - done);
    if (!sink(std::span(out.left).first(n), std::span(out.right).first(n))) return false;
    done += n;
  }
  return true;
}

}  // namespace ochron
