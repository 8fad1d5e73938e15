// Layers and sounds struck by hand: 24 mics, some 2 000 strokes, four layers.

#include <benchmark/benchmark.h>

#include <algorithm>
#include <chrono>

#include "bench/big_song.h"
#include "edits/layer_edits.h"
#include "kit/line_up.h"
#include "play/engine.h"
#include "render/render_plan.h"

namespace {

using namespace ochron;
using bench::bigSong;

/// Four layers of 64 sounds of a quarter of a second on all strokes, lined up.
test::MadeSong layeredSong() {
  auto m = bigSong();
  IncomingSoundSet in;
  in.name = in.origin = "sounds";
  for (std::size_t i = 0; i < 64; ++i) {
    in.files.push_back({"s", "s" + std::to_string(i), "", 1, 48'000, Frames{12'000}});
    KitSound sound;
    sound.range = {Frames{}, Frames{12'000}};
    sound.low = static_cast<double>(i / 8) / 8;
    sound.high = sound.low + 0.125;
    in.sounds.push_back({i, sound});
  }
  for (int layer = 0; layer < 4; ++layer) {
    m.song = *addLayer(m.song, m.set, std::nullopt, "layer");
    m.song = *setLayerSounds(m.song, m.song.layers.back().id, in);
    for (const auto& s : m.song.layers.back().sounds->sounds)
      m.pool[s.media] = DecodedMedia::fromSamples(48'000, {std::vector<float>(12'000, 0.1F)});
  }
  Progress progress;
  m.song = *layersLinedUp(m.song, m.pool, progress);
  return m;
}

void LiningUpAllStrokesOfALayer(benchmark::State& state) {
  auto m = bigSong();
  m.song = *addLayer(m.song, m.set, std::nullopt, "layer");
  Progress progress;
  for (auto _ : state) benchmark::DoNotOptimize(linedUp(m.song, m.song.layers.back(), m.pool, progress));
}
BENCHMARK(LiningUpAllStrokesOfALayer)->Unit(benchmark::kMillisecond)->Iterations(2);

/// A control of one layer is turned: the song compiled anew, all else taken over. 1: its pitch, so that all its sounds
/// are made anew; 0: its level.
void ALayersControlIsTurned(benchmark::State& state) {
  auto m = layeredSong();
  auto plan = compilePlan(m.song, m.pool);
  std::size_t strokes = 0;
  for (auto _ : state) {
    auto layer = m.song.layers.front();
    layer.settings.gainDb += 0.001;
    layer.settings.cents = state.range(0) == 1 && layer.settings.cents == 100 ? 200 : 100;
    m.song = *setLayer(m.song, layer);
    plan = compilePlan(m.song, m.pool, &plan);
    strokes = plan.tracks.back().strokes.size();
  }
  state.counters["strokes"] = static_cast<double>(strokes);
}
BENCHMARK(ALayersControlIsTurned)->Arg(0)->Arg(1)->UseRealTime()->Unit(benchmark::kMillisecond);

/// 64 tracks and 128 voices in blocks of 64, as a share of one core.
void TracksAndVoicesInBlocksOf64(benchmark::State& state) {
  auto m = bigSong();
  auto plan = std::make_shared<PlayPlan>();
  plan->edited = compilePlan(m.song, m.pool);
  while (plan->edited.tracks.size() < 64)
    plan->edited.tracks.push_back(plan->edited.tracks[plan->edited.tracks.size() % 24]);
  plan->original = plan->edited;
  Engine engine(48'000);
  auto bank = std::make_shared<LiveBank>();
  for (int i = 0; i < 128; ++i) bank->sounds.push_back({{std::vector<float>(480'000, 0.001F)}});
  engine.setPlan(plan);
  engine.setBank(bank);
  engine.play();
  std::vector<float> left(64), right(64);
  for (int i = 0; i < 128; ++i) {
    engine.strike(i, 1);
    engine.process(left, right);
  }
  std::int64_t block = 0;
  for (auto _ : state) {
    engine.strike(static_cast<int>(block++ % 128), 1);
    engine.process(left, right);
    benchmark::DoNotOptimize(left.data());
  }
  state.counters["core share"] = benchmark::Counter(static_cast<double>(state.iterations()) * 64 / 48'000,
                                                    benchmark::Counter::kIsRate | benchmark::Counter::kInvert);
}
BENCHMARK(TracksAndVoicesInBlocksOf64);

}  // namespace
