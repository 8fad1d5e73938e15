// How fast a song of 24 tracks with edits is written to files.

#include <benchmark/benchmark.h>

#include <cmath>

#include "edits/clip_edits.h"
#include "render/export.h"
#include "support/scratch.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

constexpr int kRate = 48'000;
constexpr double kSeconds = 300;
constexpr std::size_t kTracks = 24;
constexpr int kCuts = 2'000;

/// Five minutes of one mic set of 24, cut 2 000 times with crossfades, every other piece moved by a millisecond.
test::MadeSong editedSong() {
  std::vector<float> mic(static_cast<std::size_t>(kSeconds * kRate));
  for (std::size_t i = 0; i < mic.size(); ++i) mic[i] = 0.3F * std::sin(static_cast<float>(i % 4'800) * 0.05F);
  auto made = test::songOf(*TempoMap::steady(kRate, 120), std::vector<std::vector<float>>(kTracks, mic), {});
  std::vector<Frames> cuts;
  for (int k = 1; k <= kCuts; ++k)
    cuts.push_back(Frames{static_cast<std::int64_t>(kSeconds * kRate / (kCuts + 1)) * k});
  made.song = *splitAt(made.song, made.set, cuts, Frames{480});
  ClipIds moved;
  for (std::size_t i = 1; i < made.song.find(made.set)->clips->size(); i += 2)
    moved.push_back((*made.song.find(made.set)->clips)[i].id);
  made.song = *moveClips(made.song, moved, Frames{48}, Overlap::crossfade);
  return made;
}

/// Aim: 30 times real time.
void ExportOf24Tracks(benchmark::State& state) {
  const auto made = editedSong();
  const auto plan = compilePlan(made.song, made.pool);
  ExportSettings settings;
  settings.what = static_cast<ExportWhat>(state.range(0));
  settings.range = {Frames{}, made.song.end()};
  settings.dither = true;
  for (auto _ : state) {
    const test::Scratch scratch;
    Outputs outputs;
    Progress progress;
    const auto target = settings.what == ExportWhat::mix ? scratch / "mix.wav" : scratch.path();
    if (!exportSong(made.song, plan, settings, target, outputs, progress) || !outputs.commit())
      return state.SkipWithError("not written");
  }
  state.counters["x real time"] =
      benchmark::Counter(kSeconds * static_cast<double>(state.iterations()), benchmark::Counter::kIsRate);
}
BENCHMARK(ExportOf24Tracks)
    ->Arg(static_cast<int>(ExportWhat::mix))
    ->Arg(static_cast<int>(ExportWhat::tracks))
    ->Unit(benchmark::kSecond)
    ->UseRealTime()
    ->Iterations(2);

}  // namespace
}  // namespace ochron
