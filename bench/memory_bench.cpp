// How much memory long material takes beyond mapped files: the most at any time of a run, above what there was before.

#include <benchmark/benchmark.h>
#include <malloc.h>

#include <algorithm>
#include <atomic>
#include <chrono>
#include <cmath>
#include <fstream>
#include <string>
#include <thread>

#include "analysis/drums/onsets.h"
#include "edits/pitch_edits.h"
#include "files/content_id.h"
#include "media/audio_file.h"
#include "render/made_store.h"
#include "render/stretched.h"
#include "render/tuned_takes.h"
#include "support/made_voice.h"
#include "support/scratch.h"
#include "support/song_maker.h"
#include "takes/hear_line.h"

namespace ochron {
namespace {

constexpr int kRate = 48'000;

/// Megabytes of this process that no file holds (proc(5), RssAnon).
double anonymousMegabytes() {
  std::ifstream in("/proc/self/status");
  for (std::string line; std::getline(in, line);)
    if (line.starts_with("RssAnon:")) return std::stod(line.substr(8)) / 1024;
  return 0;
}

/// Looks often while it lives.
class MostMemory {
 public:
  MostMemory() : thread_([this] { look(); }) {}
  ~MostMemory() { end(); }
  MostMemory(const MostMemory&) = delete;
  MostMemory& operator=(const MostMemory&) = delete;
  /// Megabytes above what there was at the beginning.
  double end() {
    ended_ = true;
    if (thread_.joinable()) thread_.join();
    return most_ - before_;
  }

 private:
  void look() {
    while (!ended_) {
      most_ = std::max(most_, anonymousMegabytes());
      std::this_thread::sleep_for(std::chrono::milliseconds(5));
    }
    most_ = std::max(most_, anonymousMegabytes());
  }

  /// What was freed before goes back first: it would be taken again unseen.
  const double before_ = (malloc_trim(0), anonymousMegabytes());
  double most_ = before_;
  std::atomic<bool> ended_{false};
  std::thread thread_;
};

/// Twenty takes of five minutes, all of them tuned; aim 300 MB.
void TwentyTakesTuned(benchmark::State& state) {
  constexpr int kTakes = 20;
  MadeVoice voice;
  voice.seconds = 300;
  for (int i = 0; i < 450; ++i) voice.notes.push_back({0.3 + 0.65 * i, 0.6, 55.3 + std::abs(i % 14 - 7)});
  auto made = test::songOf(*TempoMap::steady(kRate, 120), {voice.samples()}, {});
  made.song.media[0].fingerprint = contentId(std::span<const char>("one voice", 9));
  Progress progress;
  const auto line = hearLine(made.song, *made.song.find(made.set), made.take, made.pool, {}, progress);
  made.song = *setLine(made.song, made.take, made.set, *line);
  for (int i = 1; i < kTakes; ++i) {
    auto media = made.song.media[0];
    media.id = MediaId{++made.song.lastId};
    made.pool[media.id] = made.pool.at(made.song.media[0].id);
    auto take = made.song.takes[0];
    take.id = TakeId{++made.song.lastId};
    take.mics[0].media = media.id;
    made.song.media.push_back(std::move(media));
    made.song.takes.push_back(std::move(take));
  }
  TuneSettings settings;
  settings.on = true;
  made.song = *setTuning(made.song, made.set, settings);
  for (auto _ : state) {
    const test::Scratch scratch;
    MadeStore store(scratch / "made");
    MostMemory memory;
    (void)makeTuned(made.song, made.pool, store, {}, progress);
    const auto tuned = tunedAtHand(made.song, made.pool, store);
    benchmark::DoNotOptimize(tunedAtHand(made.song, made.pool, store, &tuned));
    state.counters["MB"] = memory.end();
    state.counters["takes tuned"] = static_cast<double>(
        std::count_if(tuned.pool.begin(), tuned.pool.end(), [](const auto& m) { return m.second->variant() != 0; }));
  }
}
BENCHMARK(TwentyTakesTuned)->Unit(benchmark::kSecond)->Iterations(1);

/// So many minutes of one mic read where they lie and searched for hits; aim 400 MB at 120.
void HitsOfALongRecording(benchmark::State& state) {
  const test::Scratch scratch;
  const auto file = scratch / "mic.wav";
  auto writer = AudioFileWriter::create(file, {FileFormat::wav, SampleFormat::pcm24, kRate, 1});
  std::vector<float> second(kRate);
  unsigned dice = 1;
  for (std::int64_t s = 0; s < 60 * state.range(0); ++s) {
    for (std::size_t i = 0; i < second.size(); ++i) {
      dice = dice * 1'664'525U + 1'013'904'223U;
      const auto noise = static_cast<float>(static_cast<double>(dice) / 4'294'967'296.0 - 0.5);
      second[i] = 0.5F * noise * std::exp(-static_cast<float>(i % 24'000) / 900.0F);
    }
    if (!writer->write(second)) return state.SkipWithError("cannot write");
  }
  if (!writer->finish()) return state.SkipWithError("cannot finish");
  Progress progress;
  const auto media = decodeMedia(file, *contentId(file, progress), {scratch / "cache", kRate}, progress);
  for (auto _ : state) {
    MostMemory memory;
    benchmark::DoNotOptimize(detectOnsets({{(*media)->channel(0), Frames{0}}}, kRate, progress));
    state.counters["MB"] = memory.end();
  }
}
BENCHMARK(HitsOfALongRecording)->Arg(10)->Arg(120)->Unit(benchmark::kSecond)->Iterations(1);

/// So many mics of ten minutes between two pins, longer by 30 %; aim 1 000 MB at 24.
void MicsBetweenTwoPins(benchmark::State& state) {
  constexpr std::int64_t kFrames = 600 * std::int64_t{kRate};
  Voices voices;
  voices.rate = kRate;
  voices.method = StretchMethod::chords;
  voices.lasting = true;
  std::vector<float> mic(kFrames);
  for (std::size_t i = 0; i < mic.size(); ++i) {
    const double t = static_cast<double>(i) / kRate;
    mic[i] = static_cast<float>(0.2 * std::sin(1'400 * t) + 0.1 * std::sin(2'340 * t));
  }
  const auto sound = DecodedMedia::fromSamples(kRate, {std::move(mic)});
  for (std::int64_t m = 0; m < state.range(0); ++m) voices.list.push_back({MediaId{1}, sound, 0, Frames{0}});
  Clip clip;
  clip.map = TakeMap({{Frames{0}, Frames{0}}, {Frames{kFrames}, Frames{kFrames * 13 / 10}}});
  const auto part = madeParts(clip, {Frames{0}, Frames{kFrames}}, voices).at(0);
  for (auto _ : state) {
    const test::Scratch scratch;
    MadeStore store(scratch / "made");
    MostMemory memory;
    benchmark::DoNotOptimize(makePart(clip, part, voices, store));
    state.counters["MB"] = memory.end();
  }
}
BENCHMARK(MicsBetweenTwoPins)->Arg(2)->Arg(24)->Unit(benchmark::kSecond)->Iterations(1);

}  // namespace
}  // namespace ochron
