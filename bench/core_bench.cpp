// Speed of the core. Ratios to a plain reference stand in the counters of the same run.

#include <benchmark/benchmark.h>
#include <gtest/gtest.h>

#include <chrono>
#include <cmath>
#include <random>

#include "analysis/drums/onsets.h"
#include "analysis/levels/band_energy.h"
#include "analysis/pitch/note_overlap.h"
#include "analysis/pitch/notes.h"
#include "base/all_cores.h"
#include "bench/big_song.h"
#include "edits/clip_edits.h"
#include "edits/fade_edits.h"
#include "edits/pitch_edits.h"
#include "edits/plan_edits.h"
#include "edits/take_edits.h"
#include "edits/track_edits.h"
#include "files/content_id.h"
#include "gate/gate.h"
#include "media/decoded.h"
#include "play/engine.h"
#include "render/made_store.h"
#include "render/render.h"
#include "render/render_plan.h"
#include "render/tuned_takes.h"
#include "seams/apply_plan.h"
#include "seams/measure.h"
#include "store/project.h"
#include "store/song_json.h"
#include "support/made_voice.h"
#include "support/performance.h"
#include "support/scratch.h"
#include "support/song_maker.h"
#include "takes/hear_line.h"

namespace {

using namespace ochron;
using bench::bigSong;

double secondsNow() {
  return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

/// Four mics of five minutes, on all cores, against reading them once, one after the other.
void ImportAndPeaks(benchmark::State& state) {
  const test::Scratch scratch;
  std::vector<std::filesystem::path> files;
  std::mt19937 dice(1);
  for (int f = 0; f < 4; ++f) {
    files.push_back(scratch / ("mic " + std::to_string(f) + ".wav"));
    auto w = AudioFileWriter::create(files.back(), {FileFormat::wav, SampleFormat::pcm24, 48'000, 1});
    std::vector<float> block(48'000);
    for (int s = 0; s < 300; ++s) {
      for (auto& v : block) v = static_cast<float>(dice()) / 4294967296.0f - 0.5f;
      if (!w->write(block)) return state.SkipWithError("cannot write");
    }
    if (!w->finish()) return state.SkipWithError("cannot finish");
  }
  double plain = 0;
  double full = 0;
  std::vector<float> block(16'384);
  int round = 0;
  for (auto _ : state) {
    const auto a = secondsNow();
    for (const auto& file : files) {
      auto reader = AudioFileReader::open(file);
      while (*reader->read(block) > 0) benchmark::DoNotOptimize(block.data());
    }
    const auto b = secondsNow();
    Progress progress;
    const DecodeSettings settings{scratch / ("cache" + std::to_string(round++)), 48'000, Damaged::refuse};
    onAllCores(files.size(), progress, [&](std::size_t i, Progress& part) {
      benchmark::DoNotOptimize(decodeMedia(files[i], *contentId(files[i], part), settings, part));
    });
    plain += b - a, full += secondsNow() - b;
  }
  state.counters["times plain decoding"] = full / plain;
}
BENCHMARK(ImportAndPeaks)->Unit(benchmark::kMillisecond)->Iterations(3);

void DetectOneGuide(benchmark::State& state) {
  const auto& m = bigSong();
  const auto samples = m.pool.at(m.song.takes[0].mics[1].media)->channel(0);
  for (auto _ : state) {
    Progress progress;
    benchmark::DoNotOptimize(detectOnsets({{samples, Frames{0}}}, 48'000, progress));
  }
  state.counters["x real time"] =
      benchmark::Counter(static_cast<double>(samples.size()) / 48'000.0 * static_cast<double>(state.iterations()),
                         benchmark::Counter::kIsRate);
}
BENCHMARK(DetectOneGuide)->UseRealTime()->Unit(benchmark::kMillisecond);

/// Pitch and notes of a voice that sings up and down with vibrato.
void HearPitchAndNotes(benchmark::State& state) {
  MadeVoice voice;
  voice.seconds = 20;
  for (int i = 0; i < 30; ++i) voice.notes.push_back({0.3 + 0.65 * i, 0.6, 55.0 + std::abs(i % 14 - 7)});
  voice.bend = [](double t) { return 30 * std::sin(2 * M_PI * 5.5 * t); };
  const auto samples = voice.samples();
  for (auto _ : state) {
    Progress progress;
    const auto track = pitchOf(samples, voice.rate, {}, progress);
    const auto notes = notesOf(*track, samples, voice.rate, {}, progress);
    benchmark::DoNotOptimize(withBeginnings(*track, samples, voice.rate, notes));
  }
  state.counters["x real time"] =
      benchmark::Counter(voice.seconds * static_cast<double>(state.iterations()), benchmark::Counter::kIsRate);
}
BENCHMARK(HearPitchAndNotes)->UseRealTime()->Unit(benchmark::kMillisecond);

/// Three minutes of a voice brought to a scale: until the first sound by the play line is at hand, and all of it.
void TuneThreeMinutes(benchmark::State& state) {
  MadeVoice voice;
  voice.seconds = 180;
  for (int i = 0; i < 270; ++i) voice.notes.push_back({0.3 + 0.65 * i, 0.6, 55.3 + std::abs(i % 14 - 7)});
  voice.bend = [](double t) { return 30 * std::sin(2 * M_PI * 5.5 * t); };
  auto made = test::songOf(*TempoMap::steady(48'000, 120), {voice.samples()}, {});
  Progress progress;
  const auto line = hearLine(made.song, *made.song.find(made.set), made.take, made.pool, {}, progress);
  made.song = *setLine(made.song, made.take, made.set, *line);
  TuneSettings settings;
  settings.on = true;
  settings.transpose = static_cast<double>(state.range(0));
  made.song = *setTuning(made.song, made.set, settings);
  double first = 0;
  double all = 0;
  for (auto _ : state) {
    MadeStore store;
    const double from = secondsNow();
    double told = 0;
    (void)makeTuned(made.song, made.pool, store, Frames{100 * 48'000}, progress, [&] {
      if (told > 0) return;
      benchmark::DoNotOptimize(tunedAtHand(made.song, made.pool, store));
      told = secondsNow() - from;
    });
    first += told, all += secondsNow() - from;
  }
  const auto rounds = static_cast<double>(state.iterations());
  state.counters["first sound s"] = first / rounds;
  state.counters["x real time"] = voice.seconds * rounds / all;
}
BENCHMARK(TuneThreeMinutes)->Arg(0)->Arg(300)->Unit(benchmark::kMillisecond)->Iterations(2);

/// A gated mic rings out into digital silence: its bands must cost no more than those of noise.
void BandsOfSilenceAgainstNoise(benchmark::State& state) {
  std::mt19937 dice(1);
  std::vector<float> noise(48'000 * 30);
  for (auto& v : noise) v = static_cast<float>(dice()) / 4294967296.0F - 0.5F;
  std::vector<float> silence(noise.size(), 0.0F);
  std::copy_n(noise.begin(), 48'000, silence.begin());
  double loud = 0;
  double quiet = 0;
  Progress progress;
  for (auto _ : state) {
    const auto a = secondsNow();
    benchmark::DoNotOptimize(BandEnergy(noise, 48'000, progress, 0, 1).loud(3));
    const auto b = secondsNow();
    benchmark::DoNotOptimize(BandEnergy(silence, 48'000, progress, 0, 1).loud(3));
    loud += b - a, quiet += secondsNow() - b;
  }
  state.counters["times noise"] = quiet / loud;
}
BENCHMARK(BandsOfSilenceAgainstNoise)->Unit(benchmark::kMillisecond)->Iterations(5);

void PlanTimingOf2000Hits(benchmark::State& state) {
  const auto& m = bigSong();
  for (auto _ : state) benchmark::DoNotOptimize(planTiming(m.song, m.set));
  state.counters["hits"] = static_cast<double>(planTiming(m.song, m.set).hits.size());
}
BENCHMARK(PlanTimingOf2000Hits)->Unit(benchmark::kMillisecond);

void ApplyPlanTo24Mics(benchmark::State& state) {
  const auto& m = bigSong();
  for (auto _ : state) benchmark::DoNotOptimize(applyTimingPlan(m.song, m.set, m.pool));
  state.counters["pieces"] = static_cast<double>(applyTimingPlan(m.song, m.set, m.pool)->sets[0].clips->size());
}
BENCHMARK(ApplyPlanTo24Mics)->Unit(benchmark::kMillisecond);

void MeasureAllSeamsOn24Mics(benchmark::State& state) {
  auto m = bigSong();
  m.song = *applyTimingPlan(m.song, m.set, m.pool);
  Progress progress;
  for (auto _ : state) benchmark::DoNotOptimize(measureSeams(m.song, m.set, m.pool, progress));
}
BENCHMARK(MeasureAllSeamsOn24Mics)->Unit(benchmark::kMillisecond);

void CompileRenderPlanOf24Mics(benchmark::State& state) {
  auto m = bigSong();
  m.song = *applyTimingPlan(m.song, m.set, m.pool);
  for (auto _ : state) benchmark::DoNotOptimize(compilePlan(m.song, m.pool));
}
BENCHMARK(CompileRenderPlanOf24Mics)->Unit(benchmark::kMillisecond);

void MixOf64TracksInBlocksOf64(benchmark::State& state) {
  auto m = bigSong();
  m.song = *applyTimingPlan(m.song, m.set, m.pool);
  auto plan = compilePlan(m.song, m.pool);
  while (plan.tracks.size() < 64) plan.tracks.push_back(plan.tracks[plan.tracks.size() % 24]);
  std::vector<float> left(64), right(64), scratch(64), peaks(64);
  Frames at{0};
  for (auto _ : state) {
    std::fill(left.begin(), left.end(), 0.0f);
    addMix(plan, at, left, right, scratch, peaks);
    benchmark::DoNotOptimize(left.data());
    at += Frames{64};
    if (at > Frames{48'000 * 250}) at = {};
  }
  // Share of one core at 48 kHz.
  state.counters["core share"] = benchmark::Counter(static_cast<double>(state.iterations()) * 64 / 48'000,
                                                    benchmark::Counter::kIsRate | benchmark::Counter::kInvert);
}
BENCHMARK(MixOf64TracksInBlocksOf64);

/// The longest callbacks of an engine whose 64 tracks play while a key is tried on all of them and the place jumps, as
/// a share of the block's time. Arguments: rate in Hz, frames of a block, cents.
void CallbacksWithAKeyTried(benchmark::State& state) {
  auto m = bigSong();
  m.song = *applyTimingPlan(m.song, m.set, m.pool);
  auto plan = std::make_shared<PlayPlan>();
  plan->edited = compilePlan(m.song, m.pool);
  while (plan->edited.tracks.size() < 64)
    plan->edited.tracks.push_back(plan->edited.tracks[plan->edited.tracks.size() % 24]);
  plan->original = plan->edited;
  const auto rate = static_cast<int>(state.range(0));
  std::vector<float> left(static_cast<std::size_t>(state.range(1)));
  auto right = left;
  std::vector<double> shares;
  for (auto _ : state) {
    Engine engine(rate);
    engine.setPlan(plan);
    engine.play();
    for (int block = 0; block < 3'000; ++block) {
      if (block % 400 == 100) engine.tryKey(~TrackMask{}, static_cast<double>(state.range(2)));
      if (block % 400 == 250) engine.seek(Frames{block * 999});
      const auto begin = std::chrono::steady_clock::now();
      engine.process(left, right);
      const std::chrono::duration<double> took = std::chrono::steady_clock::now() - begin;
      shares.push_back(took.count() * rate / static_cast<double>(left.size()));
      engine.collect();
    }
  }
  std::sort(shares.begin(), shares.end());
  state.counters["median"] = shares[shares.size() / 2];
  state.counters["p99.9"] = shares[shares.size() - 1 - shares.size() / 1000];
  state.counters["longest"] = shares.back();
}
BENCHMARK(CallbacksWithAKeyTried)
    ->ArgsProduct({{48'000, 96'000, 192'000}, {64, 256}, {0, 300, 1'200}})
    ->Unit(benchmark::kMillisecond)
    ->Iterations(1);

void OneEditAndItsUndo(benchmark::State& state) {
  auto m = bigSong();
  m.song = *applyTimingPlan(m.song, m.set, m.pool);
  for (auto _ : state) {
    auto next = std::make_shared<const Song>(*splitAt(m.song, m.set, {Frames{1'000'000}}, Frames{200}));
    benchmark::DoNotOptimize(next);  // undoing is taking the earlier value again
  }
}
BENCHMARK(OneEditAndItsUndo)->Unit(benchmark::kMillisecond);

/// The gate behind a typed value, a cut by hand and a turn of the plan; the same while a clip is dragged.
template <class Edit>
void passTheGate(benchmark::State& state, Plans plans, const Edit& edit) {
  auto m = bigSong();
  TimingPlan plan = *m.song.find(m.set)->plan;
  plan.settings.on = true;
  m.song = *applyTimingPlan(*setTimingPlan(m.song, m.set, plan), m.set, m.pool);
  const Song next = *edit(m);
  for (auto _ : state) benchmark::DoNotOptimize(admitted(m.song, next, m.pool, plans));
}
void GateBehindAGain(benchmark::State& state) {
  passTheGate(state, Plans::all, [](const auto& m) {
    Track t = m.song.tracks[3];
    t.gainDb = -3;
    return setTrack(m.song, t);
  });
}
BENCHMARK(GateBehindAGain)->Unit(benchmark::kMillisecond);
void GateBehindAPlanThatIsTurned(benchmark::State& state) {
  passTheGate(state, Plans::all, [](const auto& m) {
    TimingPlan plan = *m.song.find(m.set)->plan;
    plan.settings.strength = 80;
    return setTimingPlan(m.song, m.set, plan);
  });
}
BENCHMARK(GateBehindAPlanThatIsTurned)->Unit(benchmark::kMillisecond);
void GateBehindAClipThatIsDragged(benchmark::State& state) {
  passTheGate(state, Plans::dragged, [](const auto& m) {
    const auto id = (*m.song.find(m.set)->clips)[50].id;
    return changeClips(m.song, {id}, [](Clip& c) { c.gainDb = -2; });
  });
}
BENCHMARK(GateBehindAClipThatIsDragged)->Unit(benchmark::kMillisecond);

void WriteAndReadTheSongFile(benchmark::State& state) {
  auto m = bigSong();
  m.song = *applyTimingPlan(m.song, m.set, m.pool);
  std::size_t bytes = 0;
  for (auto _ : state) {
    const auto text = songToJson(m.song);
    bytes = text.size();
    benchmark::DoNotOptimize(songFromJson(text, "song.json"));
  }
  state.counters["bytes"] = static_cast<double>(bytes);
}
BENCHMARK(WriteAndReadTheSongFile)->Unit(benchmark::kMillisecond);

/// 24 single tracks of 5 minutes.
Song manyTracks() {
  Song song;
  std::vector<IncomingFile> files(24);
  for (std::size_t i = 0; i < files.size(); ++i) {
    files[i].name = "track " + std::to_string(i);
    files[i].length = Frames{48'000 * 300};
  }
  return *importTake(song, files, {"take", {}, false, {}});
}

std::vector<Frames> twoThousandPlaces() {
  std::vector<Frames> out;
  for (std::int64_t i = 1; i < 2000; ++i) out.emplace_back(i * 7200);
  return out;
}

Song cutTracks() {
  const auto whole = manyTracks();
  auto song = whole;
  for (const auto& set : whole.sets) song = *splitAt(song, set.id, twoThousandPlaces(), Frames{96});
  return song;
}

void SplitOf24TracksAt2000Places(benchmark::State& state) {
  const auto song = manyTracks();
  const auto places = twoThousandPlaces();
  std::size_t clips = 0;
  for (auto _ : state) {
    Song next = song;
    for (const auto& set : song.sets) next = *splitAt(next, set.id, places, Frames{96});
    clips = 0;
    for (const auto& set : next.sets) clips += set.clips->size();
  }
  state.counters["clips"] = static_cast<double>(clips);
}
BENCHMARK(SplitOf24TracksAt2000Places)->Unit(benchmark::kMillisecond);

void FadesOn48000Clips(benchmark::State& state) {
  const auto song = cutTracks();
  ClipIds all;
  for (const auto& set : song.sets)
    for (const auto& c : *set.clips) all.push_back(c.id);
  std::optional<Song> next;
  for (auto _ : state)
    next = *changeFades(song, all, FadeEnd::in, [](const Clip&, Fade f) { return f.length = Frames{480}, f; });
  const auto start = secondsNow();
  next = song;  // undo is taking the earlier value
  state.counters["undo ms"] = (secondsNow() - start) * 1000;
  state.counters["clips"] = static_cast<double>(all.size());
}
BENCHMARK(FadesOn48000Clips)->Unit(benchmark::kMillisecond);

void MoveHalfOf48000Clips(benchmark::State& state) {
  const auto song = cutTracks();
  ClipIds half;
  for (const auto& set : song.sets)
    for (std::size_t i = 0; i < set.clips->size(); i += 2) half.push_back((*set.clips)[i].id);
  for (auto _ : state) benchmark::DoNotOptimize(moveClips(song, half, Frames{1000}, Overlap::crossfade));
}
BENCHMARK(MoveHalfOf48000Clips)->Unit(benchmark::kMillisecond);

}  // namespace

BENCHMARK_MAIN();
