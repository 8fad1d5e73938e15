#include "dsp/stretch.h"

#include <rubberband/RubberBandStretcher.h>

#include <algorithm>

namespace ochron {

using RubberBand::RubberBandStretcher;

/// With a map the ratio is looked up anew for each block.
constexpr std::size_t kKeyedBlock = 4096;
/// The engine drops what does not fit into its output at once, without a word.
constexpr std::size_t kBlock = 16'384;
constexpr std::size_t kMirrored = 4096;

struct Stretcher::State {
  State(int rate, int channelCount, int options)
      : engine(static_cast<std::size_t>(rate), static_cast<std::size_t>(channelCount), options),
        channels(channelCount) {
    engine.setDebugLevel(0);
  }
  RubberBandStretcher engine;
  int channels;
};

Stretcher::Stretcher(int rate, int channels, Material material) : Stretcher(rate, channels, material, Shift{}) {}

Stretcher::Stretcher(int rate, int channels, Material material, Shift shift) {
  int options = RubberBandStretcher::OptionProcessOffline | RubberBandStretcher::OptionThreadingNever |
                RubberBandStretcher::OptionChannelsTogether;
  options |= material == Material::drums
                 ? RubberBandStretcher::OptionEngineFaster | RubberBandStretcher::OptionTransientsCrisp |
                       RubberBandStretcher::OptionWindowShort
                 : RubberBandStretcher::OptionEngineFiner;
  if (shift.keepFormants) options |= RubberBandStretcher::OptionFormantPreserved;
  state_ = std::make_unique<State>(rate, channels, options);
  if (shift.ratio != 1) state_->engine.setPitchScale(shift.ratio);
}
Stretcher::~Stretcher() = default;
Stretcher::Stretcher(Stretcher&&) noexcept = default;
Stretcher& Stretcher::operator=(Stretcher&&) noexcept = default;

std::vector<std::vector<float>> Stretcher::stretch(const std::vector<std::span<const float>>& in, std::size_t frames,
                                                   const std::map<std::size_t, std::size_t>& keys) {
  std::size_t made = 0;
  auto out = run(in, frames, keys, made);
  if (made >= frames) return out;
  // The engine sometimes ends some frames early. It is given more to read, mirrored at the end, and what it then makes
  // beyond the end is left out.
  const auto length = in.front().size();
  const auto more = std::min(length, kMirrored);
  std::vector<std::vector<float>> longer;
  for (const auto& c : in) {
    longer.emplace_back(c.begin(), c.end());
    for (std::size_t i = 0; i < more; ++i) longer.back().push_back(c[length - 1 - i]);
  }
  const auto extra = std::max<std::size_t>(
      frames - made + 1,
      static_cast<std::size_t>(static_cast<double>(more) * static_cast<double>(frames) / static_cast<double>(length)));
  auto longerKeys = keys;
  if (!keys.empty()) longerKeys[length] = frames;
  out = run({longer.begin(), longer.end()}, frames + extra, longerKeys, made);
  for (auto& c : out) c.resize(frames);
  return out;
}

/// `made`: frames that the engine gave; what is missing is silent.
std::vector<std::vector<float>> Stretcher::run(const std::vector<std::span<const float>>& in, std::size_t frames,
                                               const std::map<std::size_t, std::size_t>& keys, std::size_t& made) {
  auto& engine = state_->engine;
  const auto length = in.front().size();
  engine.reset();
  engine.setTimeRatio(static_cast<double>(frames) / static_cast<double>(length));
  engine.setExpectedInputDuration(length);
  const auto most = std::min(length, keys.empty() ? kBlock : kKeyedBlock);
  engine.setMaxProcessSize(most);
  if (!keys.empty()) engine.setKeyFrameMap(keys);
  const auto eachBlock = [&](auto&& take) {
    for (std::size_t at = 0; at < length; at += most) {
      std::vector<const float*> from;
      from.reserve(in.size());
      for (const auto& c : in) from.push_back(c.data() + at);
      const auto n = std::min(most, length - at);
      take(from.data(), n, at + n == length);
    }
  };
  std::vector<std::vector<float>> out(in.size(), std::vector<float>(frames, 0.0f));
  std::size_t done = 0;
  std::vector<std::vector<float>> block(in.size());
  std::vector<float*> to(in.size());
  const auto retrieve = [&] {
    for (int ready = engine.available(); ready > 0; ready = engine.available()) {
      const auto n = static_cast<std::size_t>(ready);
      for (std::size_t c = 0; c < in.size(); ++c) {
        block[c].resize(n);
        to[c] = block[c].data();
      }
      const auto got = engine.retrieve(to.data(), n);
      const auto kept = std::min(got, frames - done);
      for (std::size_t c = 0; c < in.size(); ++c)
        std::copy_n(block[c].begin(), kept, out[c].begin() + static_cast<std::ptrdiff_t>(done));
      done += kept;
      if (got == 0) break;
    }
  };
  eachBlock([&](auto* from, std::size_t n, bool last) { engine.study(from, n, last); });
  eachBlock([&](auto* from, std::size_t n, bool last) {
    engine.process(from, n, last);
    retrieve();
  });
  made = done;
  return out;
}

}  // namespace ochron
