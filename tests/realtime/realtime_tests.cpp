#include <gtest/gtest.h>

#include <cmath>
#include <mutex>

#include "edits/arrange.h"
#include "edits/clip_edits.h"
#include "edits/fade_edits.h"
#include "edits/mark_edits.h"
#include "edits/pieces.h"
#include "edits/plan_edits.h"
#include "edits/speed_edits.h"
#include "play/engine.h"
#include "realtime/traps.h"
#include "seams/apply_plan.h"
#include "support/song_maker.h"
#include "support/two_sets.h"

namespace ochron {
namespace {

std::shared_ptr<const PlayPlan> planOf(const Song& song, const MediaPool& pool) {
  auto plan = std::make_shared<PlayPlan>();
  plan->edited = compilePlan(song, pool);
  plan->original = compilePlan(withoutPlans(song), pool);
  plan->clicks = clicksOf(song.tempo, {Frames{0}, song.end()});
  return plan;
}

std::shared_ptr<const LiveBank> bankOf(std::size_t sounds) {
  auto bank = std::make_shared<LiveBank>();
  for (std::size_t i = 0; i < sounds; ++i)
    bank->sounds.push_back({{std::vector<float>(30'000, 0.001F)}, 1, 0, static_cast<int>(i % 5)});
  return bank;
}

TEST(AudioThread, NeitherAllocatesNorLocksWhateverIsTurned) {
  auto m = test::songOf(test::perform({}));
  TimingPlan plan;
  plan.settings.on = true;
  m.song = *applyTimingPlan(*setTimingPlan(m.song, m.set, plan), m.set, m.pool);
  Engine engine(48'000);
  const auto keys = std::make_shared<KeyStream>();
  keys->strikeFrom(36);
  engine.listenTo(keys);
  std::vector<float> left(256), right(256);
  engine.setPlan(planOf(m.song, m.pool));
  engine.setClick(true, -6);
  engine.play();
  for (int block = 0; block < 3000; ++block) {
    if (block % 50 == 10) engine.setOriginal(block % 100 == 10);
    if (block % 70 == 20) engine.setPlan(planOf(m.song, m.pool));
    if (block % 90 == 30) engine.seek(Frames{block * 100});
    if (block % 110 == 40) engine.setLoop({Frames{1000}, Frames{60'000}});
    if (block % 130 == 60) engine.stop();
    if (block % 130 == 70) engine.play();
    if (block % 60 == 15) engine.tryKey(TrackMask(block % 120 == 15 ? 1 : 6), (block % 7) * 300.0 - 900);
    if (block % 400 == 399) engine.tryKey({}, 0);
    if (block % 200 == 3) engine.setBank(bankOf(160));
    if (block % 3 == 0) engine.strike(block % 160, 0.7);
    if (block % 5 == 0) keys->press({36 + block % 60, 1 + block % 127});
    if (block % 500 == 250) engine.hush();
    {
      const test::NoAllocationNoLock trap;
      engine.process(left, right);
    }
    engine.collect();
  }
  SUCCEED();
}

TEST(AudioThread, NeitherAllocatesNorLocksWithEveryKindOfHandEdit) {
  test::TwoSets t;
  auto song = *splitAt(t.song, t.bass, {Frames{40'000}}, Frames{960});
  song = *reverseClips(song, {t.kitClip});
  song = *changeFades(song, {t.voiceClip}, FadeEnd::out, [](const Clip&, Fade) {
    return Fade{Frames{48'000}, FadeShape::line, 0, FadeKind::tape};
  });
  song = *bundleClips(song, {t.voiceClip, t.kitClip}, "all");
  auto bundle = song.bundles.front();
  bundle.fadeIn.length = Frames{9000};
  song = *setBundle(song, bundle);
  const auto track = song.find(t.bass)->tracks[0];
  song = *addSpan(song, {track}, {Frames{20'000}, Frames{30'000}}, "");
  song = *setEnvelope(song, {EnvelopeKind::trackGain, track, {}}, {{Frames{0}, 0, 0}, {Frames{90'000}, -20, 0.5}});
  song = *setEnvelope(song, {EnvelopeKind::trackPan, track, {}}, {{Frames{0}, -50, 0}, {Frames{90'000}, 50, 0}});
  song = *setEnvelope(song, {EnvelopeKind::clipGain, {}, t.voiceClip}, {{Frames{0}, 0, 0}, {Frames{90'000}, -9, 0}});
  song = *fadeSong(song, Frames{4800}, Frames{4800});
  auto fast = *setEnvelope(song, {EnvelopeKind::songSpeed, {}, {}}, {{Frames{0}, 50, 0}, {Frames{200'000}, 300, 0.3}});
  Engine engine(48'000);
  std::vector<float> left(128), right(128);
  engine.setPlan(planOf(fast, t.pool));
  engine.play();
  for (int block = 0; block < 3000; ++block) {
    if (block % 500 == 100) engine.setPlan(planOf(song, t.pool));
    if (block % 500 == 300) engine.setPlan(planOf(fast, t.pool));
    if (block % 90 == 30) engine.seek(Frames{block * 100});
    if (block % 700 == 40) engine.setLoop({Frames{1000}, Frames{60'000}});
    if (block % 400 == 50) engine.audition({{Frames{10'000}, Frames{20'000}}, false, true, 1});
    if (block % 400 == 90) engine.play();
    {
      const test::NoAllocationNoLock trap;
      engine.process(left, right);
    }
    engine.collect();
    for (const float s : left) ASSERT_TRUE(std::isfinite(s));
  }
}

TEST(AudioThread, NeitherAllocatesNorLocksAtASpeedWhosePitchStays) {
  const auto m = test::songOf(test::perform({}));
  const auto at = [&](double percent) { return setSpeedManner(*setSongSpeed(m.song, percent), {true, true}); };
  auto changing = *setEnvelope(m.song, {EnvelopeKind::songSpeed, {}, {}},
                               {{Frames{0}, kSpeedRange.low, 0}, {Frames{200'000}, kSpeedRange.high, 0.3}});
  changing = setSpeedManner(changing, {true, true});
  Engine engine(48'000);
  std::vector<float> left(256), right(256);
  engine.setPlan(planOf(at(80), m.pool));
  engine.play();
  for (int block = 0; block < 2500; ++block) {
    if (block % 500 == 100) engine.setPlan(planOf(changing, m.pool));
    if (block % 500 == 200) engine.setPlan(planOf(m.song, m.pool));
    if (block % 500 == 300) engine.setPlan(planOf(at(kSpeedRange.low), m.pool));
    if (block % 500 == 400) engine.setPlan(planOf(at(kSpeedRange.high), m.pool));
    if (block % 90 == 30) engine.seek(Frames{block * 100});
    if (block % 130 == 60) engine.stop();
    if (block % 130 == 70) engine.play();
    {
      const test::NoAllocationNoLock trap;
      engine.process(left, right);
    }
    engine.collect();
  }
  SUCCEED();
}

TEST(TrapDeathTest, AllocatingInsideEndsTheProgram) {
  EXPECT_DEATH(
      {
        const test::NoAllocationNoLock trap;
        delete new std::vector<int>(10);
      },
      "malloc on the audio thread");
}

TEST(TrapDeathTest, LockingInsideEndsTheProgram) {
  EXPECT_DEATH(
      {
        std::mutex m;
        const test::NoAllocationNoLock trap;
        m.lock();
      },
      "pthread_mutex_lock on the audio thread");
}

}  // namespace
}  // namespace ochron
