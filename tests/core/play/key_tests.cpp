// Keys tried while a song plays: pitch, promptness, no click, in time, and back to the sound itself.

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "edits/take_edits.h"
#include "play/engine.h"
#include "support/units.h"

namespace ochron {
namespace {

using test::kRate;
constexpr std::size_t kBlockSize = 256;

/// A song of two tracks of their own, tones of 200 and 730 Hz or what is given, and an engine that plays it.
struct Playing {
  explicit Playing(std::vector<std::vector<float>> sounds) {
    song.rate = kRate;
    song.tempo = *TempoMap::steady(kRate, 120);
    std::vector<IncomingFile> files;
    for (std::size_t i = 0; i < sounds.size(); ++i) {
      IncomingFile f;
      f.name = "track " + std::to_string(i);
      f.path = "/nowhere/" + f.name + ".wav";
      f.fileRate = kRate;
      f.length = Frames{std::ssize(sounds[i])};
      files.push_back(f);
    }
    song = *importTake(song, files, {"take", Frames{}, true, {}});
    for (std::size_t i = 0; i < sounds.size(); ++i)
      pool[song.takes[0].mics[i].media] = DecodedMedia::fromSamples(kRate, {sounds[i]});
    auto plan = std::make_shared<PlayPlan>();
    plan->edited = compilePlan(song, pool);
    plan->original = plan->edited;
    engine.setPlan(plan);
    engine.play();
  }
  /// What is heard next; `at` counts on.
  std::vector<float> next(std::size_t frames) {
    std::vector<float> out;
    while (out.size() < frames) {
      std::vector<float> left(kBlockSize), right(kBlockSize);
      engine.process(left, right);
      out.insert(out.end(), left.begin(), left.end());
    }
    at += out.size();
    return out;
  }
  static TrackMask only(std::size_t track) { return TrackMask(1ULL << track); }

  Song song;
  MediaPool pool;
  Engine engine{kRate};
  std::size_t at = 0;
};

std::vector<float> tone(double hz, double seconds = 6) {
  std::vector<float> out(static_cast<std::size_t>(seconds * kRate));
  for (std::size_t i = 0; i < out.size(); ++i)
    out[i] = 0.3F * static_cast<float>(std::sin(2 * std::numbers::pi * hz * static_cast<double>(i) / kRate));
  return out;
}

/// Amplitude of one frequency.
double levelAt(std::span<const float> x, double hz) {
  double re = 0;
  double im = 0;
  for (std::size_t i = 0; i < x.size(); ++i) {
    const double w =
        0.5 - 0.5 * std::cos(2 * std::numbers::pi * static_cast<double>(i) / static_cast<double>(x.size()));
    const double phase = 2 * std::numbers::pi * hz * static_cast<double>(i) / kRate;
    re += w * static_cast<double>(x[i]) * std::cos(phase);
    im += w * static_cast<double>(x[i]) * std::sin(phase);
  }
  return 4 * std::hypot(re, im) / static_cast<double>(x.size());
}

TEST(TriedKeys, AreHeardWithinFiftyMillisecondsWhileTheOthersStay) {
  for (const double cents : {700.0, -500.0, 1200.0, 37.0}) {
    Playing p({tone(200), tone(730)});
    p.next(kRate);
    p.engine.tryKey(Playing::only(0), cents);
    p.next(kRate / 20);
    const auto out = p.next(kRate / 2);
    const double hz = 200 * std::exp2(cents / 1200);
    EXPECT_GT(levelAt(out, hz), 0.25) << cents;
    EXPECT_NEAR(levelAt(out, 730), 0.3, 0.01) << cents;
    if (std::abs(cents) > 100) EXPECT_LT(levelAt(out, 200), 0.03) << cents;
  }
}

TEST(TriedKeys, ComeAndGoWithoutAStep) {
  Playing p({tone(200)});
  std::vector<float> all = p.next(kRate / 2);
  for (const double cents : {300.0, -700.0, 1200.0, 0.0, 500.0}) {
    p.engine.tryKey(Playing::only(0), cents);
    const auto more = p.next(kRate / 4);
    all.insert(all.end(), more.begin(), more.end());
  }
  p.engine.tryKey({}, 0);
  const auto rest = p.next(kRate / 4);
  all.insert(all.end(), rest.begin(), rest.end());
  const double steepest = 0.3 * 2 * std::numbers::pi * 400 / kRate;
  for (std::size_t i = 1000; i < all.size(); ++i) ASSERT_LT(std::abs(all[i] - all[i - 1]), steepest * 1.3) << i;
}

TEST(TriedKeys, TakenBackTheSoundIsItselfToTheBit) {
  const auto x = tone(313);
  Playing p({x, tone(730)});
  p.next(kRate);
  p.engine.tryKey(Playing::only(0), 400);
  p.next(kRate / 2);
  p.engine.tryKey({}, 0);
  p.next(kRate / 10);
  const auto from = p.at;
  const auto out = p.next(4096);
  const auto other = tone(730);
  for (std::size_t i = 0; i < out.size(); ++i) ASSERT_FLOAT_EQ(out[i], x[from + i] + other[from + i]) << i;
}

TEST(TriedKeys, StrokesStayWithinSixMillisecondsOfTheirPlaces) {
  std::vector<float> x(static_cast<std::size_t>(kRate) * 6, 0.0F);
  for (std::size_t at = 12'000; at + 4000 < x.size(); at += 12'000)
    for (std::size_t k = 0; k < 4000; ++k)
      x[at + k] = 0.8F * static_cast<float>(std::exp(-static_cast<double>(k) / 900) *
                                            std::sin(2 * std::numbers::pi * 180 * static_cast<double>(k) / kRate));
  Playing p({x});
  p.engine.tryKey(Playing::only(0), 500);
  p.next(6000);
  const auto base = p.at;
  const auto out = p.next(kRate * 4);
  int strokes = 0;
  for (std::size_t at = 24'000; at + 4000 < base + out.size(); at += 12'000) {
    // The first place that is as loud as a fifth of the stroke.
    std::size_t found = 0;
    for (auto i = at - 2400 - base; i < at + 4000 - base && !found; ++i)
      if (std::abs(out[i]) > 0.15F) found = i + base;
    ASSERT_GT(found, 0U) << at;
    EXPECT_LT(std::abs(static_cast<double>(found) - static_cast<double>(at)), 0.006 * kRate + 120) << at;
    ++strokes;
  }
  EXPECT_GT(strokes, 10);
}

TEST(TriedKeys, GoOnAroundALoopAndOtherTracksCanBeTriedNext) {
  Playing p({tone(200), tone(730)});
  p.engine.setLoop({Frames{24'000}, Frames{48'000}});
  p.engine.tryKey(Playing::only(0), 700);
  const auto out = p.next(kRate * 2);
  EXPECT_GT(levelAt(std::span(out).subspan(kRate, kRate / 2), 200 * std::exp2(700 / 1200.0)), 0.2);
  p.engine.tryKey(Playing::only(1), 700);
  p.next(kRate / 10);
  const auto next = p.next(kRate / 2);
  EXPECT_GT(levelAt(next, 730 * std::exp2(700 / 1200.0)), 0.2);
  EXPECT_GT(levelAt(next, 200), 0.25);
}

TEST(TriedKeys, AreAsLoudAsTheVersionThatIsTriedAndShowOnTheirMeters) {
  Playing p({tone(200), tone(730)});
  auto plan = std::make_shared<PlayPlan>();
  plan->edited = compilePlan(p.song, p.pool);
  plan->original = plan->edited;
  plan->editedGain = 0.5F;
  p.engine.setPlan(plan);
  p.engine.tryKey(Playing::only(0), 700);
  p.next(kRate / 2);
  p.engine.takeTrackPeak(0);
  const auto out = p.next(kRate / 2);
  EXPECT_NEAR(levelAt(out, 200 * std::exp2(700 / 1200.0)), 0.15, 0.02);
  EXPECT_NEAR(levelAt(out, 730), 0.15, 0.01);
  EXPECT_NEAR(p.engine.takeTrackPeak(0), 0.3F, 0.02F) << "a track's meter is before the version's gain";
}

TEST(TriedKeys, NothingOfWhereItWasIsHeardAfterAJumpOrAStop) {
  auto x = tone(200);
  std::fill(x.begin() + 2 * kRate, x.end(), 0.0F);
  Playing p({x});
  p.engine.tryKey(Playing::only(0), 700);
  p.next(kRate / 2);
  p.engine.seek(Frames{3 * kRate});
  p.next(2 * kBlockSize);  // what was heard goes over into it
  for (const float s : p.next(4096)) ASSERT_EQ(s, 0);
  p.engine.seek(Frames{kRate});
  p.next(kRate / 4);
  p.engine.stop();
  p.next(4096);
  p.engine.seek(Frames{3 * kRate});
  p.engine.play();
  for (const float s : p.next(4096)) ASSERT_EQ(s, 0);
}

}  // namespace
}  // namespace ochron
