#include "files/file_names.h"
#include "render/render.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "dsp/fade.h"
#include "edits/clip_edits.h"
#include "edits/mark_edits.h"
#include "edits/plan_edits.h"
#include "edits/track_edits.h"
#include "media/audio_file.h"
#include "render/export.h"
#include "seams/apply_plan.h"
#include "support/scratch.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

test::MadeSong quantized() {
  test::Style style;
  style.bars = 6;
  auto m = test::songOf(test::perform(style));
  TimingPlan plan;
  plan.settings.on = true;
  m.song = *applyTimingPlan(*setTimingPlan(m.song, m.set, plan), m.set, m.pool);
  return m;
}

TEST(Render, AnUntouchedClipIsTheRecordingBitForBit) {
  test::Style style;
  style.bars = 2;
  const auto p = test::perform(style);
  const auto m = test::songOf(p);
  EXPECT_EQ(test::rendered(m, 1, {Frames{0}, m.song.end()}), p.mics[1]);
}

TEST(Render, BlockSizeCannotBeHeard) {
  const auto m = quantized();
  const auto plan = compilePlan(m.song, m.pool);
  const FrameRange range{Frames{10'000}, Frames{130'000}};
  const auto whole = test::rendered(m, 1, range);
  for (const std::size_t block : {1u, 2u, 3u, 7u, 15u, 64u, 1000u}) {
    std::vector<float> parts(whole.size(), 0.0f);
    for (std::size_t i = 0; i < parts.size(); i += block) {
      const auto n = std::min(block, parts.size() - i);
      addSegments(*plan.tracks[1].channels[0], range.start + Frames{static_cast<std::int64_t>(i)},
                  std::span(parts).subspan(i, n));
    }
    ASSERT_EQ(parts, whole) << block;
  }
}

TEST(Render, ASplitWithoutMovingCannotBeHeard) {
  test::Style style;
  style.bars = 2;
  const auto p = test::perform(style);
  auto m = test::songOf(p);
  m.song = *splitAt(m.song, m.set, {Frames{50'000}}, Frames{480});
  const auto out = test::rendered(m, 1, {Frames{0}, m.song.end()});
  for (std::size_t i = 0; i < out.size(); ++i) ASSERT_NEAR(out[i], p.mics[1][i], 2e-7);
}

TEST(Render, UnchangedTracksAreTakenOverFromTheEarlierPlan) {
  const auto m = quantized();
  const auto first = compilePlan(m.song, m.pool);
  Track t = m.song.tracks[2];
  t.gainDb = -6;
  const auto second = compilePlan(*setTrack(m.song, t), m.pool, &first);
  EXPECT_EQ(second.tracks[2].channels[0], first.tracks[2].channels[0]);
  EXPECT_NEAR(second.tracks[2].left, std::pow(10, -0.3), 1e-6);
}

TEST(Render, SoloMutesTheRestAndPanTurnsDownOneSide) {
  auto m = quantized();
  m.song.tracks[1].solo = true;
  m.song.tracks[1].pan = -100;
  const auto plan = compilePlan(m.song, m.pool);
  EXPECT_FALSE(plan.tracks[0].audible);
  EXPECT_EQ(plan.tracks[1].left, 1.0f);
  EXPECT_EQ(plan.tracks[1].right, 0.0f);
}

TEST(Crossfade, MatchedGainsKeepThePowerForAnyLikeness) {
  for (const double r : {-0.5, -0.2, 0.0, 0.4, 0.9, 1.0})
    for (double x = 0; x <= 1; x += 0.05) {
      const auto g = crossfadeGains(CrossfadeLaw::matched, FadeShape::line, 0, r, x);
      EXPECT_NEAR(g.out * g.out + g.in * g.in + 2 * r * g.out * g.in, 1.0, 1e-5);
    }
}

TEST(Crossfade, TheMeasuredLikenessMakesAJointAsLoudAsWhatItJoinsAtAnyLength) {
  std::mt19937 random(5);
  std::normal_distribution<float> noise(0, 0.2F);
  for (const std::size_t n : {1, 7, 8, 9, 63, 480, 4801})
    for (const float alike : {-0.4F, 0.0F, 0.6F, 1.0F}) {
      std::vector<float> a(n), b(n);
      for (std::size_t i = 0; i < n; ++i) {
        a[i] = noise(random);
        b[i] = 0.7F * (alike * a[i] + std::sqrt(1 - alike * alike) * noise(random));
      }
      const double r = crossfadeLikeness(a, b, FadeShape::sCurve, 0.2);
      const auto shares = laterShares(FadeShape::sCurve, 0.2, n);
      double wanted = 0, got = 0;
      for (std::size_t i = 0; i < n; ++i) {
        const double y = shares[i];
        wanted += (1 - y) * a[i] * a[i] + y * b[i] * b[i];
        const auto g = gainsForShare(CrossfadeLaw::matched, r, y);
        got += std::pow(g.out * a[i] + g.in * b[i], 2.0);
      }
      if (r > -0.74 && r < 0.999)
        EXPECT_NEAR(10 * std::log10(got / wanted), 0, 0.05) << n << " frames, " << alike;
      else  // as far as the gains go
        EXPECT_GE(r >= 0.999 ? got : wanted, (r >= 0.999 ? wanted : got) * 0.99) << n << " frames, " << alike;
    }
  const std::vector<float> silent(100);
  EXPECT_EQ(crossfadeLikeness(silent, silent, FadeShape::line, 0), 1);
}

TEST(Render, AnEditCompilesOnlyTheTracksThatItChanged) {
  auto m = quantized();
  const auto before = compilePlan(m.song, m.pool);
  auto muted = m.song;
  muted.tracks[0].muted = true;
  const auto after = compilePlan(muted, m.pool, &before);
  ASSERT_EQ(after.tracks.size(), before.tracks.size());
  for (std::size_t i = 0; i < after.tracks.size(); ++i) {
    EXPECT_EQ(after.tracks[i].track, muted.tracks[i].id) << "in the song's order";
    EXPECT_EQ(after.tracks[i].channels, before.tracks[i].channels);
  }
  auto cut = m.song;
  ClipList clips = *cut.sets[0].clips;
  clips.pop_back();
  cut.sets[0].clips = clips;
  const auto anew = compilePlan(cut, m.pool, &before);
  for (std::size_t i = 0; i < anew.tracks.size(); ++i) EXPECT_NE(anew.tracks[i].channels, before.tracks[i].channels);
}

TEST(Crossfade, LawsKeepWhatTheyPromise) {
  for (double x = 0; x <= 1; x += 0.1) {
    const auto gain = crossfadeGains(CrossfadeLaw::equalGain, FadeShape::sCurve, 0.3, 0, x);
    const auto power = crossfadeGains(CrossfadeLaw::equalPower, FadeShape::line, -0.3, 0, x);
    EXPECT_NEAR(gain.in + gain.out, 1, 1e-6);
    EXPECT_NEAR(power.in * power.in + power.out * power.out, 1, 1e-6);
  }
}

TEST(Export, TheFileHoldsWhatThePlanPlays) {
  const auto m = quantized();
  const test::Scratch scratch;
  const auto plan = compilePlan(m.song, m.pool);
  ExportSettings s;
  s.samples = SampleFormat::float32;
  s.range = {Frames{4800}, Frames{100'000}};
  Progress progress;
  Outputs outputs;
  const auto report = exportSong(m.song, plan, s, scratch / "mix.wav", outputs, progress);
  ASSERT_TRUE(report.has_value());
  EXPECT_FALSE(std::filesystem::exists(scratch / "mix.wav")) << "there only when all of the run is";
  ASSERT_TRUE(outputs.commit());
  auto reader = AudioFileReader::open(scratch / "mix.wav");
  std::vector<float> file(2 * 95'200);
  ASSERT_EQ(*reader->read(file), 95'200);
  std::vector<float> left(95'200), right(95'200), scratchBuffer(95'200);
  addMix(plan, s.range.start, left, right, scratchBuffer, {});
  for (std::size_t i = 0; i < left.size(); ++i) ASSERT_EQ(file[2 * i], left[i]);
}

TEST(Export, EveryWavTellsTheOneTempoAndNoneWhenTheSongRunsAtAnotherSpeed) {
  auto m = quantized();
  ASSERT_EQ(m.song.tempo.tempos().size(), 1U);
  const double bpm = m.song.tempo.bpmAt(Ticks{});
  for (const bool fast : {false, true}) {
    if (fast) m.song = *setEnvelope(m.song, {EnvelopeKind::songSpeed, {}, {}}, {{Frames{}, 150, 0}});
    for (const auto what : {ExportWhat::mix, ExportWhat::tracks}) {
      const test::Scratch scratch;
      ExportSettings s;
      s.what = what;
      s.range = {Frames{}, Frames{20'000}};
      Progress progress;
      Outputs outputs;
      const auto target = what == ExportWhat::mix ? scratch / "mix.wav" : scratch / "tracks";
      const auto report = exportSong(m.song, compilePlan(m.song, m.pool), s, target, outputs, progress);
      ASSERT_TRUE(report && outputs.commit());
      ASSERT_FALSE(report->files.empty());
      for (const auto& file : report->files) {
        const auto told = AudioFileReader::open(file)->info().bpm;
        ASSERT_EQ(told.has_value(), !fast) << file;
        if (told) EXPECT_NEAR(*told, bpm, 1e-4);
      }
    }
  }
}

TEST(Export, CancelTakesEverythingAwayAgain) {
  const auto m = quantized();
  const test::Scratch scratch;
  ExportSettings s;
  s.what = ExportWhat::tracks;
  s.range = {Frames{0}, m.song.end()};
  Progress progress;
  progress.cancel();
  {
    Outputs outputs;
    EXPECT_FALSE(exportSong(m.song, compilePlan(m.song, m.pool), s, scratch / "out", outputs, progress));
  }
  EXPECT_TRUE(!std::filesystem::exists(scratch / "out") || std::filesystem::is_empty(scratch / "out"));
}

TEST(Export, TrackNamesBecomeSafeFileNames) {
  EXPECT_EQ(fileNameFor("../kick"), "_kick");
  EXPECT_EQ(fileNameFor("a/b\\c"), "a_b_c");
  EXPECT_EQ(fileNameFor(".."), "track");
}

}  // namespace
}  // namespace ochron
