// The phase vocoder against Rubber Band's finer engine: the same chord, the same ratio, in one run.
#include <benchmark/benchmark.h>
#include <rubberband/RubberBandStretcher.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <vector>

#include "dsp/stream_stretch.h"

namespace ochron {
namespace {

constexpr int kRate = 48'000;
constexpr double kLonger = 1.2;
constexpr std::size_t kBlock = 4096;

/// Ten seconds of a chord that swells and of noise over it.
std::vector<float> chordAndNoise() {
  std::vector<float> out(10 * kRate);
  unsigned dice = 1;
  for (std::size_t i = 0; i < out.size(); ++i) {
    const double t = static_cast<double>(i) / kRate;
    double x = 0;
    for (const double hz : {110.0, 138.6, 164.8, 220.0, 440.0, 880.0}) x += std::sin(2 * std::numbers::pi * hz * t);
    dice = dice * 1'664'525U + 1'013'904'223U;
    out[i] = static_cast<float>(0.05 * x * (1 + std::sin(2 * t)) +
                                0.02 * (static_cast<double>(dice) / 4'294'967'296.0 - 0.5));
  }
  return out;
}

std::vector<std::vector<float>> mics(std::int64_t count) {
  return std::vector<std::vector<float>>(static_cast<std::size_t>(count), chordAndNoise());
}

void StretchByThePhaseVocoder(benchmark::State& state) {
  const auto sound = mics(state.range(0));
  const std::vector<std::span<const float>> in(sound.begin(), sound.end());
  for (auto _ : state)
    benchmark::DoNotOptimize(soundStretched(
        kRate, in, {in.front().size(), static_cast<std::size_t>(kLonger * static_cast<double>(in.front().size()))}));
}
BENCHMARK(StretchByThePhaseVocoder)->Arg(1)->Arg(12)->Unit(benchmark::kMillisecond);

void StretchByRubberBandsFinerEngine(benchmark::State& state) {
  using RubberBand::RubberBandStretcher;
  const auto sound = mics(state.range(0));
  std::vector<const float*> in;
  in.reserve(sound.size());
  const auto frames = sound.front().size();
  std::vector<std::vector<float>> made(sound.size(), std::vector<float>(frames * 2));
  for (auto _ : state) {
    RubberBandStretcher engine(kRate, sound.size(),
                               RubberBandStretcher::OptionProcessOffline | RubberBandStretcher::OptionThreadingNever |
                                   RubberBandStretcher::OptionChannelsTogether | RubberBandStretcher::OptionEngineFiner,
                               kLonger);
    engine.setDebugLevel(0);
    engine.setExpectedInputDuration(frames);
    engine.setMaxProcessSize(kBlock);
    in.clear();
    for (const auto& s : sound) in.push_back(s.data());
    engine.study(in.data(), frames, true);
    std::size_t done = 0;
    for (std::size_t at = 0; at < frames; at += kBlock) {
      for (std::size_t c = 0; c < sound.size(); ++c) in[c] = sound[c].data() + at;
      const auto n = std::min(kBlock, frames - at);
      engine.process(in.data(), n, at + n == frames);
      const auto ready = static_cast<std::size_t>(std::max(0, engine.available()));
      std::vector<float*> out;
      out.reserve(made.size());
      for (auto& m : made) out.push_back(m.data() + done);
      done += engine.retrieve(out.data(), std::min(ready, made.front().size() - done));
    }
    benchmark::DoNotOptimize(made);
  }
}
BENCHMARK(StretchByRubberBandsFinerEngine)->Arg(1)->Arg(12)->Unit(benchmark::kMillisecond);

}  // namespace
}  // namespace ochron
