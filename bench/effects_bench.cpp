// Effects live: how much of a block's time they take, and how often one does not answer in time.

#include <benchmark/benchmark.h>

#include <chrono>
#include <thread>

#include "big_song.h"
#include "edits/insert_edits.h"
#include "effects/catalog.h"
#include "play/engine.h"
#include "render/live_racks.h"

namespace ochron {
namespace {

/// 24 tracks with an equalizer and a compressor each.
test::MadeSong songWithEffects() {
  auto m = bench::bigSong();
  for (const auto& t : bench::bigSong().song.tracks)
    for (const char* uri : {"urn:orthochron:lv2:equalizer", "urn:orthochron:lv2:compressor"})
      m.song = *addInsert(m.song, {t.id, {}}, {{}, uri, uri, true, {{"low_gain", 3.0}, {"threshold", -30.0}}});
  return m;
}

/// 24 tracks with two effects each, played block by block at the speed of a device. Argument: frames of a block.
void EffectsOn24Tracks(benchmark::State& state) {
  auto m = songWithEffects();
  const auto known = listEffects();
  if (!known) return state.SkipWithError(known.error().message.c_str());
  LiveRacks live;
  live.know(*known);
  live.follow(m.song);
  const auto all = [&] {
    return live.racks() && live.racks()->tracks.size() == m.song.tracks.size() &&
           std::all_of(live.racks()->tracks.begin(), live.racks()->tracks.end(),
                       [](const TrackRack& r) { return r.stages.size() == 2; });
  };
  while (!all()) {
    live.watch(m.song);
    std::this_thread::sleep_for(std::chrono::milliseconds(5));
  }
  auto plan = std::make_shared<PlayPlan>();
  plan->edited = compilePlan(m.song, m.pool);
  plan->original = plan->edited;
  for (auto* version : {&plan->edited, &plan->original}) useRacks(*version, live.racks());
  const auto frames = static_cast<std::size_t>(state.range(0));
  std::vector<float> left(frames);
  auto right = left;
  Engine engine(48'000);
  engine.setPlan(plan);
  engine.play();
  std::vector<double> shares;
  const auto missedSoFar = [&] {
    std::int64_t sum = 0;
    for (const auto& t : live.racks()->tracks)
      for (const auto& s : t.stages) sum += s->missed();
    return sum;
  };
  std::int64_t before = 0;
  const auto block = std::chrono::nanoseconds(static_cast<std::int64_t>(1e9 * static_cast<double>(frames) / 48'000));
  for (auto _ : state) {
    auto due = std::chrono::steady_clock::now();
    for (std::size_t done = 0; done < 48'000 * 6; done += frames) {
      if (done < 48'000) before = missedSoFar();  // the first second wakes all processes
      std::this_thread::sleep_until(due += block);
      const auto begin = std::chrono::steady_clock::now();
      engine.process(left, right);
      const std::chrono::duration<double> took = std::chrono::steady_clock::now() - begin;
      shares.push_back(took.count() * 48'000 / static_cast<double>(frames));
    }
  }
  std::sort(shares.begin(), shares.end());
  state.counters["missed at first"] = static_cast<double>(before);
  state.counters["median share"] = shares[shares.size() / 2];
  state.counters["p99 share"] = shares[shares.size() * 99 / 100];
  state.counters["missed later"] = static_cast<double>(missedSoFar() - before);
}
BENCHMARK(EffectsOn24Tracks)->Arg(64)->Arg(256)->Arg(1024)->Iterations(1)->Unit(benchmark::kSecond);

/// A mix of the same, not live: times real time.
void ExportThroughEffects(benchmark::State& state) {
  auto m = songWithEffects();
  const auto known = listEffects();
  if (!known) return state.SkipWithError(known.error().message.c_str());
  std::vector<std::string> missing;
  auto plan = compilePlan(m.song, m.pool);
  const auto racks = startRacks(m.song, *known, missing);
  if (!racks) return state.SkipWithError(racks.error().message.c_str());
  useRacks(plan, *racks);
  constexpr std::size_t kBlock = 8'192;
  constexpr std::size_t kFrames = 48'000 * 20;
  std::vector<float> left(kBlock);
  auto right = left;
  double seconds = 0;
  for (auto _ : state) {
    const auto begin = std::chrono::steady_clock::now();
    PlayedThrough through(plan);
    for (std::size_t at = 0; at < kFrames; at += kBlock) {
      std::fill(left.begin(), left.end(), 0.0F);
      std::fill(right.begin(), right.end(), 0.0F);
      through.addMix(Frames{static_cast<std::int64_t>(at)}, left, right);
    }
    seconds += std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
  }
  state.counters["times real time"] = static_cast<double>(kFrames) / 48'000 / seconds;
}
BENCHMARK(ExportThroughEffects)->Iterations(1)->Unit(benchmark::kSecond);

}  // namespace
}  // namespace ochron
