// A real session's size in the real window: 24 mics, five minutes, 2 000 hits, heard while controls are turned.

#include <QComboBox>
#include <chrono>
#include <cmath>
#include <random>

#include "app/window_fixture.h"
#include "document/hit_desk.h"
#include "document/selection.h"
#include "document/song_files.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "edits/hit_edits.h"
#include "edits/tempo_edits.h"
#include "lanes/lanes_view.h"
#include "panel/controls.h"
#include "play/device.h"
#include "store/project.h"

namespace ochron {
namespace {

/// Twenty-four mics of one take: each of the four of a made-up kit at several distances.
struct Session : test::Driven {
  /// 225 bars at 180 BPM are five minutes.
  void record(int bars) {
    QSettings().clear();
    test::Style style;
    style.bpm = 180;
    style.bars = bars;
    performance = test::perform(style);
    const char* names[] = {"Kick In", "Kick Out", "Kick Sub",   "Snare Top",   "Snare Bottom", "Snare Side",
                           "Hat",     "Hat Low",  "Tom 1",      "Tom 2",       "Tom 3",        "Ride",
                           "Crash L", "Crash R",  "Overhead L", "Overhead R",  "Overhead C",   "Room L",
                           "Room R",  "Room Far", "Room Mono",  "Room Hall L", "Room Hall R",  "Room Talk"};
    constexpr std::array<std::size_t, 24> kFrom{0, 0, 0, 1, 1, 1, 2, 2, 0, 0, 1, 2, 3, 3, 3, 3, 3, 3, 3, 3, 3, 3, 3, 3};
    for (std::size_t i = 0; i < 24; ++i) {
      const auto file = scratch / (std::string(names[i]) + ".wav");
      auto samples = performance.mics[kFrom[i]];
      const float gain = 1.0F - 0.03F * static_cast<float>(i);
      for (auto& s : samples) s *= gain;
      test::writeWav(file, samples);
      files << QString::fromStdString(file.string());
    }
    show();
  }
};

TEST_F(Session, ImportsShowsProgressPlaysWithoutADropOutWhileControlsAreTurnedAndOpensAgain) {
  record(225);
  bool progressSeen = false;
  QObject::connect(&doc().jobs(), &Jobs::changed, window.get(),
                   [&] { progressSeen = progressSeen || !doc().jobs().what().isEmpty(); });
  window->takeIn(files, false);
  doc().jobs().finishAll();
  ASSERT_EQ(doc().song().tracks.size(), 24u);
  EXPECT_TRUE(progressSeen);
  doc().edit("tempo", setTempoMap(doc().song(), performance.map));
  // Every track a guide's worth of hits: some two thousand strokes of three drums.
  HitList hits;
  for (const auto& h : performance.of({DrumClass::kick, DrumClass::snare, DrumClass::hat})) {
    Hit hit;
    hit.at = h.at, hit.drum = h.drum, hit.strength = h.velocity, hit.confidence = 1;
    if (hits.empty() || hit.at - hits.back().at > Frames{300}) hits.push_back(hit);
  }
  ASSERT_GT(hits.size(), 1700u);
  auto* set = doc().song().find(doc().selection().set());
  ASSERT_EQ(set->tracks.size(), 24u);
  doc().edit("hits", setDetectedHits(doc().song(), doc().song().takes[0].id, set->id, hits));
  auto s = doc().timingDesk().settings();
  s.on = true;
  doc().timingDesk().setSettings("plan", s);
  doc().jobs().finishAll();
  EXPECT_GT(doc().song().find(doc().selection().set())->clips->size(), 800u);

  auto* simulated = dynamic_cast<SimulatedDevice*>(doc().transport().player().device());
  ASSERT_NE(simulated, nullptr);
  doc().transport().playFrom(Frames{48'000 * 20});
  ASSERT_TRUE(hear(Frames{4'800}));
  // What another thread of the same kind, that has nothing to compute, is late on this machine in the same time.
  Engine nothing(48'000);
  SimulatedDevice idle;
  ASSERT_TRUE(idle.start(nothing, {}));
  [[maybe_unused]] const auto before = simulated->dropOuts();
  [[maybe_unused]] const auto overrunsBefore = simulated->overruns();
  std::mt19937_64 dice(2);
  for (int i = 0; i < 12; ++i) {
    s = doc().timingDesk().settings();
    s.strength = static_cast<double>(dice() % 101);
    s.keepPocket = static_cast<double>(dice() % 101);
    s.crossfadeMs = 2 + static_cast<double>(dice() % 8);
    doc().timingDesk().setSettings("turn", s, "turn");
    ASSERT_TRUE(hear(Frames{2'880}));
  }
  EXPECT_TRUE(doc().transport().player().engine().playing());
  idle.stop();
#ifndef OCHRON_SANITIZED  // which makes everything several times slower
  // Both count what the machine takes away from a thread that plays; only one of them plays this song.
  const auto machine = idle.dropOuts();
  EXPECT_LE(simulated->overruns() - overrunsBefore, machine);
  EXPECT_LE(simulated->dropOuts() - before, 2 * machine + 2);
#endif
  doc().transport().playStop();
  doc().jobs().finishAll();

  const auto folder = scratch / "session.ochron";
  ASSERT_TRUE(doc().files().save(folder));
  EXPECT_LT(std::filesystem::file_size(folder / "song.json"), 4u << 20) << "decisions, not sound";
  const auto saved = doc().song();
  ASSERT_TRUE(doc().files().open(folder));
  doc().jobs().finishAll();
  EXPECT_EQ(doc().song(), saved);
  EXPECT_TRUE(doc().recordings().troubles().empty());
}

TEST_F(Session, FindingHitsCanBeCancelledAndLeavesTheHitsThatWereThere) {
  record(40);
  window->takeIn(files, false);
  doc().jobs().finishAll();
  const auto before = doc().song();
  doc().hitDesk().find(doc().selection().set());
  ASSERT_TRUE(until([&] { return doc().jobs().fraction() > 0; }));
  doc().jobs().cancelAll();
  doc().jobs().finishAll();
  EXPECT_EQ(doc().song(), before);
}

}  // namespace
}  // namespace ochron
