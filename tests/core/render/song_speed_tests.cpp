// A song at another speed whose pitch stays: heard while it plays, and exported at full quality to the frame.

#include "render/song_speed.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "analysis/pitch/pitch.h"
#include "edits/speed_edits.h"
#include "media/audio_file.h"
#include "play/engine.h"
#include "render/export.h"
#include "support/scratch.h"
#include "support/song_maker.h"
#include "support/units.h"

namespace ochron {
namespace {

using test::atSeconds;

constexpr double kHertz = 220;

/// Eight seconds of a tone with overtones, a stroke at each second.
struct SongAtSpeed : ::testing::Test {
  SongAtSpeed() {
    std::vector<float> x(48'000 * 8);
    for (std::size_t i = 0; i < x.size(); ++i) {
      const double t = static_cast<double>(i) / 48'000;
      double v = 0;
      for (int h = 1; h <= 5; ++h) v += std::sin(2 * M_PI * kHertz * h * t) / h;
      x[i] = static_cast<float>(0.15 * v);
    }
    made = test::songOf(*TempoMap::steady(48'000, 120), {x}, {});
  }
  Song at(double percent, bool keepsPitch, bool exported = true) {
    return setSpeedManner(*setSongSpeed(made.song, percent), {keepsPitch, exported});
  }
  static double pitchOf(const std::vector<float>& x) {
    const auto hertz = pitchOfMoment(std::span(x).subspan(x.size() / 2, 9'600), 48'000);
    EXPECT_TRUE(hertz);
    return hertz.value_or(0);
  }
  std::vector<float> exported(const Song& song, FrameRange range) {
    const auto file = scratch / "out.wav";
    Outputs outputs;
    Progress progress;
    ExportSettings s;
    s.range = range;
    s.samples = SampleFormat::float32;
    const auto done = exportSong(song, compilePlan(song, made.pool), s, file, outputs, progress);
    EXPECT_TRUE(done);
    EXPECT_TRUE(outputs.commit());
    auto reader = AudioFileReader::open(file);
    EXPECT_TRUE(reader);
    std::vector<float> all(static_cast<std::size_t>(reader->info().length.value * 2));
    EXPECT_TRUE(reader->read(all));
    std::vector<float> left;
    for (std::size_t i = 0; i < all.size(); i += 2) left.push_back(all[i]);
    return left;
  }
  /// Seconds of what an engine plays from the song's beginning.
  std::vector<float> played(const Song& song, double seconds, Engine& engine) {
    auto plan = std::make_shared<PlayPlan>();
    plan->edited = compilePlan(song, made.pool);
    plan->original = plan->edited;
    engine.setPlan(plan);
    engine.play();
    std::vector<float> out;
    std::vector<float> right(512);
    while (out.size() < static_cast<std::size_t>(seconds * 48'000)) {
      std::vector<float> left(512);
      engine.process(left, right);
      out.insert(out.end(), left.begin(), left.end());
    }
    return out;
  }
  test::MadeSong made;
  test::Scratch scratch;
};

TEST_F(SongAtSpeed, AnExportHasItsLengthToTheFrameAndItsPitchStays) {
  for (const double percent : {50.0, 80.0, 93.7, 125.0, 200.0}) {
    const auto x = exported(at(percent, true), {Frames{}, atSeconds(8)});
    EXPECT_EQ(x.size(), static_cast<std::size_t>(std::llround(8 * 48'000 / (percent / 100)))) << percent;
    EXPECT_NEAR(1200 * std::log2(pitchOf(x) / kHertz), 0, 1) << percent;
  }
}

TEST(PlayedTime, NothingAddsUpOverTwoHours) {
  constexpr std::int64_t kTwoHours = std::int64_t{48'000} * 7'200;
  // Two points of one speed: keys are needed, and where each of them lies is known.
  for (const double percent : {110.0, 93.7, 51.3, 199.0}) {
    PlayedTime played({{Frames{}, percent, 0}, {Frames{kTwoHours}, percent, 0}}, Frames{});
    const auto keys = played.keys(Frames{kTwoHours});
    std::size_t before = 0;
    for (const auto& [from, to] : keys) {
      ASSERT_NEAR(static_cast<double>(to), static_cast<double>(from) * 100 / percent, 1) << percent << " at " << from;
      ASSERT_GT(to, before);
      before = to;
    }
    EXPECT_NEAR(static_cast<double>(played.of(Frames{kTwoHours}).value), kTwoHours * 100 / percent, 1);
  }
}

TEST(PlayedTime, IsTheSameInWhateverOrderItIsAskedFor) {
  const Envelope speed{{Frames{}, 80, 0}, {Frames{100'000}, 140, 0.4}, {Frames{400'000}, 60, -0.3}};
  PlayedTime rising(speed, Frames{777});
  PlayedTime falling(speed, Frames{777});
  std::vector<Frames> all;
  for (std::int64_t at = 777; at < 500'000; at += 4'321) all.push_back(rising.of(Frames{at}));
  for (std::size_t i = all.size(); i-- > 0;)
    EXPECT_EQ(falling.of(Frames{777 + static_cast<std::int64_t>(i) * 4'321}), all[i]);
}

// The mics of one kit, one of them farther away: exported one by one, their sum must be what it was.
TEST_F(SongAtSpeed, TracksExportedOneByOneStayInPhaseWithEachOther) {
  constexpr std::size_t kLate = 37;
  std::mt19937 dice(3);
  std::normal_distribution<float> noise(0, 1);
  std::vector<float> near(48'000 * 6, 0.0F);
  for (std::size_t hit = 0; hit < 12; ++hit)
    for (std::size_t i = 0; i < 20'000; ++i) {
      const double t = static_cast<double>(i) / 48'000;
      const double tone =
          std::sin(2 * M_PI * (170 + 13 * static_cast<double>(hit)) * t) + 0.5 * static_cast<double>(noise(dice));
      near[hit * 24'000 + i] += static_cast<float>(0.2 * std::exp(-t / 0.12) * tone);
    }
  std::vector<float> far(near.size(), 0.0F);
  std::copy(near.begin(), near.end() - kLate, far.begin() + kLate);
  // What the far mic hears besides must not pull it away.
  for (std::size_t i = 0; i < far.size(); ++i)
    far[i] += static_cast<float>(0.05 * std::sin(2 * M_PI * 523 * static_cast<double>(i) / 48'000));
  made = test::songOf(*TempoMap::steady(48'000, 120), {near, far}, {});
  const auto song = at(80, true);
  Outputs outputs;
  Progress progress;
  ExportSettings s;
  s.what = ExportWhat::tracks;
  s.range = {Frames{}, atSeconds(6)};
  s.samples = SampleFormat::float32;
  const auto done = exportSong(song, compilePlan(song, made.pool), s, scratch.path(), outputs, progress);
  ASSERT_TRUE(done) << done.error().message;
  ASSERT_TRUE(outputs.commit());
  ASSERT_EQ(done->files.size(), 2U);
  std::vector<std::vector<float>> stems;
  for (const auto& file : done->files) {
    auto reader = AudioFileReader::open(file);
    ASSERT_TRUE(reader);
    EXPECT_EQ(reader->info().length, Frames{48'000 * 6 * 10 / 8});
    auto& x = stems.emplace_back(static_cast<std::size_t>(reader->info().length.value));
    ASSERT_TRUE(reader->read(x));
  }
  // The place where the far mic is most like the near one, stroke by stroke: always the same.
  int least = 1000;
  int most = -1000;
  for (std::size_t hit = 0; hit < 12; ++hit) {
    const std::size_t from = hit * 30'000 + 3'000;
    double best = -1;
    int at = 0;
    for (int lag = 0; lag < 80; ++lag) {
      double sum = 0;
      for (std::size_t i = 0; i < 9'000; ++i)
        sum += static_cast<double>(stems[0][from + i]) * stems[1][from + i + static_cast<std::size_t>(lag)];
      if (sum > best) best = sum, at = lag;
    }
    least = std::min(least, at);
    most = std::max(most, at);
  }
  EXPECT_GE(least, static_cast<int>(kLate) - 1);
  EXPECT_LE(most, static_cast<int>(kLate) + 1);
}

TEST_F(SongAtSpeed, ATapesPitchGoesAlong) {
  const auto x = exported(at(125, false), {Frames{}, atSeconds(8)});
  EXPECT_NEAR(1200 * std::log2(pitchOf(x) / (1.25 * kHertz)), 0, 1);
}

TEST_F(SongAtSpeed, WhatIsOnlyHeardIsNotExported) {
  const auto plain = exported(made.song, {Frames{}, atSeconds(2)});
  EXPECT_EQ(exported(at(125, true, false), {Frames{}, atSeconds(2)}), plain);
  EXPECT_EQ(exported(at(125, false, false), {Frames{}, atSeconds(2)}), plain);
}

TEST_F(SongAtSpeed, ARangeFasterLeavesWhatIsAroundItAsItWas) {
  const auto song = setSpeedManner(*setSongSpeed(made.song, 200, {atSeconds(2), atSeconds(4)}), {true, true});
  const auto x = exported(song, {Frames{}, atSeconds(8)});
  EXPECT_NEAR(static_cast<double>(x.size()) / 48'000, 7, 0.02);
  EXPECT_NEAR(1200 * std::log2(pitchOf(x) / kHertz), 0, 1);
}

TEST_F(SongAtSpeed, ItIsHeardAtOnceAndThePlayLineFollowsWhatIsHeard) {
  for (const double percent : {70.0, 140.0}) {
    Engine engine(48'000);
    const auto x = played(at(percent, true), 3, engine);
    EXPECT_NEAR(1200 * std::log2(pitchOf(x) / kHertz), 0, 8) << percent;
    const double seconds = static_cast<double>(x.size()) / 48'000;
    EXPECT_NEAR(static_cast<double>(engine.position().value) / 48'000, seconds * percent / 100, 0.03) << percent;
    float loudest = 0;
    for (std::size_t i = 4'800; i < 9'600; ++i) loudest = std::max(loudest, std::abs(x[i]));
    EXPECT_GT(loudest, 0.1F) << "it sounds from the beginning on";
  }
}

TEST_F(SongAtSpeed, AsRecordedIsTheRecordingToTheBitWhateverTheManner) {
  Engine engine(48'000);
  Engine plain(48'000);
  EXPECT_EQ(played(setSpeedManner(made.song, {true, true}), 1, engine), played(made.song, 1, plain));
}

TEST(SpeedUnits, EachIsReadBackAsItWasWritten) {
  for (std::size_t u = 0; u < kSpeedUnitNames.size(); ++u)
    for (const double percent : {25.0, 80.0, 98.1818, 100.0, 106.0, 400.0}) {
      const auto unit = static_cast<SpeedUnit>(u);
      EXPECT_NEAR(percentOf(unit, speedIn(unit, percent, 97), 97), percent, 1e-9);
    }
  EXPECT_NEAR(percentOf(SpeedUnit::a4, 432, 120), 98.1818, 1e-3);
  EXPECT_NEAR(percentOf(SpeedUnit::bpm, 132, 120), 110, 1e-9);
  EXPECT_NEAR(percentOf(SpeedUnit::semitones, -12, 120), 50, 1e-9);
}

TEST(SpeedUnits, ASpeedOutOfItsRangeIsRefused) {
  EXPECT_FALSE(setSongSpeed(Song{}, 20));
  EXPECT_FALSE(setSongSpeed(Song{}, 500));
  EXPECT_TRUE(setSongSpeed(*setSongSpeed(Song{}, 50), 100)->speedEnvelope->empty());
}

TEST(SpeedUnits, TheTempoOfWhatIsPlayedFollows) {
  Song song;
  song.tempo = *TempoMap::steady(48'000, 120);
  EXPECT_NEAR(playedTempo(*setSongSpeed(song, 75)).bpmAt(Ticks{}), 90, 1e-9);
  const auto faster = playedTempo(*setSongSpeed(song, 200, {atSeconds(2), atSeconds(4)}));
  EXPECT_NEAR(faster.bpmAt(Ticks{}), 120, 1e-6);
  EXPECT_NEAR(faster.bpmAt(song.tempo.toTicks(atSeconds(3))), 240, 1e-6);
  // Eight beats of the song lie between 2 s and 6 s; played they take 3 s.
  const auto from = song.tempo.toTicks(atSeconds(2));
  const auto to = song.tempo.toTicks(atSeconds(6));
  EXPECT_NEAR(static_cast<double>((faster.toFrames(to) - faster.toFrames(from)).value) / 48'000, 3, 0.15);
}

}  // namespace
}  // namespace ochron
