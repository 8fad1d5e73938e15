#include <gtest/gtest.h>

#include <mutex>

#include "play/engine.h"
#include "realtime/traps.h"
#include "seams/apply_plan.h"
#include "song/edits.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

std::shared_ptr<const PlayPlan> planOf(const Song& song, const MediaPool& pool) {
  auto plan = std::make_shared<PlayPlan>();
  plan->edited = compilePlan(song, pool);
  plan->original = compilePlan(withoutPlans(song), pool);
  plan->clicks = clicksOf(song.tempo, {Frames{0}, song.end()});
  return plan;
}

TEST(AudioThread, NeitherAllocatesNorLocksWhateverIsTurned) {
  auto m = test::songOf(test::perform({}));
  TimingPlan plan;
  plan.settings.on = true;
  m.song = *applyTimingPlan(*setTimingPlan(m.song, m.set, plan), m.set, m.pool);
  Engine engine(48'000);
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
