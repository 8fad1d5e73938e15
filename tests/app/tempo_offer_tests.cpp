// From files of an unknown tempo to the tempo of the song: offered in one line, taken over by one press, nothing
// unasked.

#include <QPushButton>

#include "app/window_fixture.h"
#include "document/hit_desk.h"
#include "document/selection.h"
#include "document/tempo_desk.h"
#include "head/notice_bar.h"
#include "support/midi_bytes.h"

namespace ochron {
namespace {

struct TempoOffer : test::Window {
  NoticeBar& notices() { return *window->findChild<NoticeBar*>(); }
};

TEST_F(TempoOffer, AfterAnImportIntoAnEmptySongWhatWasHeardIsOfferedAndNothingIsApplied) {
  const auto before = doc().song().tempo;
  window->takeIn(files, false);
  doc().jobs().finishAll();
  EXPECT_TRUE(doc().tempoDesk().heard());
  EXPECT_TRUE(notices().isVisible());
  EXPECT_EQ(doc().song().tempo, before);
}

TEST_F(TempoOffer, OnePressTakesItOverAsOneStep) {
  window->takeIn(files, false);
  doc().jobs().finishAll();
  ASSERT_TRUE(doc().tempoDesk().heard());
  const auto before = doc().song();
  QPushButton* use = nullptr;
  for (auto* b : notices().findChildren<QPushButton*>())
    if (b->isVisible() && b->text().contains("Use")) use = b;
  ASSERT_NE(use, nullptr);
  QTest::mouseClick(use, Qt::LeftButton);
  const auto& map = doc().song().tempo;
  EXPECT_NEAR(map.bpmAt(Ticks{0}) / performance.map.bpmAt(Ticks{0}), 1, 0.01);
  // Bar 1 stands on a beat of the performance.
  const auto ticks = static_cast<double>(performance.map.toTicks(map.origin()).value) / kTicksPerQuarter;
  EXPECT_NEAR(ticks, std::round(ticks), 0.05);
  EXPECT_FALSE(notices().isVisible());
  doc().undo();
  EXPECT_EQ(doc().song(), before);
}

TEST_F(TempoOffer, ALaterImportIsNotListenedToUnasked) {
  import();
  const auto heard = doc().song().tempo;
  notices().dismiss();
  window->takeIn({files.front()}, false);
  doc().jobs().finishAll();
  EXPECT_FALSE(notices().isVisible());
  EXPECT_EQ(doc().song().tempo, heard);
  EXPECT_TRUE(run("take.heartempo"));
  doc().jobs().finishAll();
  EXPECT_TRUE(notices().isVisible());
}

TEST_F(TempoOffer, APerformanceOnKeysIsTakenInAsNotesAndItsHitsAreThoseNotes) {
  test::MidiBytes keys;
  for (int i = 0; i < 48; ++i) keys.note(i * 503, i * 503 + 300, 50 + i % 7, 60 + i % 5 * 10);
  const auto file = keys.write(scratch / "Keys.mid");
  window->takeIn({QString::fromStdString(file.string())}, false);
  doc().jobs().finishAll();
  ASSERT_EQ(doc().song().tracks.size(), 1U);
  EXPECT_EQ(doc().pool().begin()->second->notes().size(), 48U);
  doc().hitDesk().find(doc().selection().set());
  doc().jobs().finishAll();
  const auto hits = doc().timingDesk().planned().hits;
  ASSERT_EQ(hits.size(), 48U);
  for (std::size_t i = 0; i < hits.size(); ++i)
    EXPECT_NEAR(static_cast<double>(hits[i].hit.at.value), static_cast<double>(i) * 503 / 480 * 24'000, 1) << i;
  EXPECT_TRUE(notices().isVisible()) << "its tempo is offered";
}

TEST_F(TempoOffer, TheTempoMapOfAMidiFileIsTakenWithItsMarkersAsOneStep) {
  import();
  const auto before = doc().song();
  const auto file = test::MidiBytes().tempo(0, 90).tempo(480 * 8, 99).marker(480 * 4, "B").write(scratch / "map.mid");
  doc().tempoDesk().readMap(file);
  const auto& song = doc().song();
  EXPECT_NEAR(song.tempo.bpmAt(Ticks{9 * kTicksPerQuarter}), 99, 0.01);
  ASSERT_EQ(song.markers.size(), before.markers.size() + 1);
  doc().tempoDesk().readMap(file);
  EXPECT_EQ(doc().song().markers.size(), song.markers.size()) << "no marker comes twice";
  run("edit.undo");
  EXPECT_EQ(doc().song(), before);
  doc().tempoDesk().readMap(test::MidiBytes().note(0, 100, 60, 90).write(scratch / "none.mid"));
  EXPECT_EQ(doc().song(), before);
  EXPECT_TRUE(notices().isVisible()) << "why is said";
}

}  // namespace
}  // namespace ochron
