#include "dsp/stream_stretch.h"

#include <algorithm>

namespace ochron {
namespace {

constexpr std::size_t kStreamBlock = 4096;

StretchMap mapOf(const StreamLength& length) {
  StretchMap map{{{0, 0}}, length.fresh};
  for (const auto& [from, to] : length.keys) map.keys[static_cast<std::int64_t>(to)] = static_cast<std::int64_t>(from);
  map.keys[static_cast<std::int64_t>(length.made)] = static_cast<std::int64_t>(length.frames);
  return map;
}

}  // namespace

bool streamStretched(int rate, std::size_t channels, const StreamLength& length, const StreamSource& source,
                     const StreamSink& sink, Progress& progress) {
  if (length.frames == 0 || length.made == 0) return true;
  PhaseVocoder vocoder(rate, channels, mapOf(length), source);
  std::vector<std::vector<float>> block(channels, std::vector<float>(kStreamBlock));
  for (std::size_t done = 0; done < length.made;) {
    if (progress.cancelled()) return false;
    const auto n = std::min(kStreamBlock, length.made - done);
    std::vector<std::span<float>> spans;
    spans.reserve(channels);
    for (auto& c : block) spans.push_back(std::span(c).first(n));
    vocoder.make(spans);
    if (!sink(spans)) return false;
    done += n;
    progress.report(static_cast<double>(done) / static_cast<double>(length.made));
  }
  return true;
}

std::vector<std::vector<float>> soundStretched(int rate, const std::vector<std::span<const float>>& in,
                                               const StreamLength& length) {
  std::vector<std::vector<float>> out(in.size(), std::vector<float>(length.made));
  std::size_t done = 0;
  Progress unseen;
  streamStretched(
      rate, in.size(), length,
      [&](std::size_t from, ChannelSpans channels) {
        for (std::size_t c = 0; c < in.size(); ++c) {
          if (from >= in[c].size()) continue;
          const auto here = in[c].subspan(from, std::min(channels[c].size(), in[c].size() - from));
          std::copy(here.begin(), here.end(), channels[c].begin());
        }
      },
      [&](ChannelSpans made) {
        for (std::size_t c = 0; c < out.size(); ++c)
          std::copy(made[c].begin(), made[c].end(), out[c].begin() + static_cast<std::ptrdiff_t>(done));
        done += made.front().size();
        return true;
      },
      unseen);
  return out;
}

}  // namespace ochron
