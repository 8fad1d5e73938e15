// What is one step and what undo, Escape and jobs do while something is held; numbers under a comma locale.
#include <QDoubleSpinBox>
#include <QLineEdit>
#include <QMouseEvent>
#include <clocale>

#include "app/window_fixture.h"
#include "document/clip_desk.h"
#include "document/selection.h"
#include "document/song_files.h"
#include "document/takes_desk.h"
#include "document/timing_desk.h"
#include "edits/clip_edits.h"
#include "edits/mark_edits.h"
#include "edits/track_edits.h"
#include "entry/entry.h"
#include "lanes/lanes_view.h"
#include "panel/controls.h"
#include "reports/hit_table.h"

namespace ochron {
namespace {

struct Gestures : test::Window {
  void SetUp() override {
    Window::SetUp();
    window->takeIn(files, false);
    doc().jobs().finishAll();
    run("step.6");
    auto s = doc().clipDesk().settings();
    s.snap.on = false;
    doc().clipDesk().setSettings(s);
    window->view().show(0, 600);
    doc().edit("split", splitAt(doc().song(), doc().song().sets[0].id, {Frames{100'000}, Frames{200'000}}, Frames{0}));
    doc().jobs().finishAll();
  }
  const Clip& clip(std::size_t i) { return (*doc().song().sets[0].clips)[i]; }
  QPoint at(Frames f) {
    const auto box = window->lanes().layout().laneBox(0);
    return QPointF(window->view().xOf(f), box.center().y()).toPoint();
  }
  void press(QPoint p) { QTest::mousePress(&window->lanes(), Qt::LeftButton, {}, p); }
  void moveTo(QPoint p) {
    QMouseEvent move(QEvent::MouseMove, p, window->lanes().mapToGlobal(p), Qt::NoButton, Qt::LeftButton, {});
    QApplication::sendEvent(&window->lanes(), &move);
  }
  void release(QPoint p) { QTest::mouseRelease(&window->lanes(), Qt::LeftButton, {}, p); }
  int steps() {
    int n = 0;
    while (!doc().undoName().isEmpty()) doc().undo(), ++n;
    while (!doc().redoName().isEmpty()) doc().redo();
    return n;
  }
};

TEST_F(Gestures, KeysInQuickSuccessionAreOneStepAndAnythingBetweenEndsIt) {
  const int before = steps();
  doc().selection().choose({clip(2).id});
  const auto start = clip(2).start;
  for (int i = 0; i < 5; ++i) doc().clipDesk().nudge(Frames{100});
  EXPECT_EQ(clip(2).start, start + Frames{500});
  EXPECT_EQ(steps(), before + 1);
  doc().selection().choose({clip(2).id});
  doc().clipDesk().toggleMute();
  doc().clipDesk().nudge(Frames{100});
  EXPECT_EQ(steps(), before + 3);
  doc().undo();
  EXPECT_EQ(clip(2).start, start + Frames{500});
}

TEST_F(Gestures, UnlikeEditsOfOneNameWithAnUndoBetweenDoNotMerge) {
  doc().selection().choose({clip(2).id});
  const auto start = clip(2).start;
  doc().clipDesk().nudge(Frames{100});
  doc().undo();
  doc().clipDesk().nudge(Frames{-300});
  EXPECT_EQ(clip(2).start, start - Frames{300});
  doc().undo();
  EXPECT_EQ(clip(2).start, start);
}

TEST_F(Gestures, EscapeDoesNotTakeBackAnEarlierNudge) {
  doc().selection().choose({clip(2).id});
  doc().clipDesk().nudge(Frames{100});
  const auto start = clip(2).start;
  window->lanes().setFocus();
  QTest::keyClick(&window->lanes(), Qt::Key_Escape);
  EXPECT_EQ(clip(2).start, start);
  // A press without a drag, and Escape while it is held.
  press(at(Frames{150'000}));
  QTest::keyClick(&window->lanes(), Qt::Key_Escape);
  release(at(Frames{150'000}));
  EXPECT_EQ(clip(2).start, start);
}

TEST_F(Gestures, EscapeTakesBackTheDragAndNothingBeforeIt) {
  doc().selection().choose({clip(2).id});
  doc().clipDesk().nudge(Frames{100});
  const auto song = doc().song();
  const int before = steps();
  press(at(Frames{250'000}));
  for (int x = 1; x < 40; x += 8) moveTo(at(Frames{250'000}) + QPoint(x, 0));
  ASSERT_FALSE(doc().song() == song);
  QTest::keyClick(&window->lanes(), Qt::Key_Escape);
  release(at(Frames{250'000}));
  EXPECT_EQ(doc().song(), song);
  EXPECT_EQ(steps(), before);
}

TEST_F(Gestures, UndoWhileDraggingDropsTheDragAlone) {
  const auto song = doc().song();
  press(at(Frames{250'000}));
  moveTo(at(Frames{250'000}) + QPoint(20, 0));
  moveTo(at(Frames{250'000}) + QPoint(60, 0));
  ASSERT_FALSE(doc().song() == song);
  EXPECT_TRUE(run("edit.undo"));
  EXPECT_EQ(doc().song(), song);
  moveTo(at(Frames{250'000}) + QPoint(90, 0));
  release(at(Frames{250'000}) + QPoint(90, 0));
  EXPECT_EQ(doc().song(), song) << "the hand holds nothing any more";
}

TEST_F(Gestures, ACommandWhileDraggingIsRefusedInsteadOfLost) {
  press(at(Frames{250'000}));
  moveTo(at(Frames{250'000}) + QPoint(20, 0));
  moveTo(at(Frames{250'000}) + QPoint(60, 0));
  const auto dragged = doc().song();
  EXPECT_FALSE(doc().edit("rename", renameSong(doc().song(), "other")));
  EXPECT_EQ(doc().song(), dragged);
  release(at(Frames{250'000}) + QPoint(60, 0));
  EXPECT_TRUE(doc().edit("rename", renameSong(doc().song(), "other")));
}

TEST_F(Gestures, WhatAJobFinishesWhileSomethingIsDraggedComesAfterIt) {
  doc().takesDesk().importFiles({{(scratch / "Hat.wav"), "late", MicRole::none, false}}, "late", doc().song().rate);
  press(at(Frames{250'000}));
  moveTo(at(Frames{250'000}) + QPoint(20, 0));
  moveTo(at(Frames{250'000}) + QPoint(60, 0));
  const auto before = doc().song().tracks.size();
  ASSERT_TRUE(until([&] { return doc().jobs().resultsHeld() > 0; }));
  EXPECT_EQ(doc().song().tracks.size(), before);
  moveTo(at(Frames{250'000}) + QPoint(70, 0));
  const auto start = clip(2).start;
  release(at(Frames{250'000}) + QPoint(70, 0));
  doc().jobs().finishAll();
  EXPECT_EQ(clip(2).start, start) << "the drag stands";
  EXPECT_EQ(doc().song().tracks.size(), before + 1);
  EXPECT_EQ(doc().undoName(), "Import late");
}

TEST_F(Gestures, ASliderFromPressToReleaseIsOneStep) {
  run("step.4");
  auto s = doc().timingDesk().settings();
  s.on = true;
  doc().timingDesk().setSettings("plan", s);
  const int before = steps();
  auto* slider = window->findChild<LineSlider*>("Strength slider");
  ASSERT_NE(slider, nullptr);
  QTest::mousePress(slider, Qt::LeftButton, {}, {150, 9});
  for (int x = 140; x > 60; x -= 10) {
    QMouseEvent move(QEvent::MouseMove, QPointF(x, 9), slider->mapToGlobal(QPointF(x, 9)), Qt::NoButton, Qt::LeftButton,
                     {});
    QApplication::sendEvent(slider, &move);
  }
  QTest::mouseRelease(slider, Qt::LeftButton, {}, {60, 9});
  EXPECT_LT(doc().timingDesk().settings().strength, 60);
  EXPECT_EQ(steps(), before + 1);
  // The next hold is another step.
  QTest::mousePress(slider, Qt::LeftButton, {}, {100, 9});
  QTest::mouseRelease(slider, Qt::LeftButton, {}, {100, 9});
  EXPECT_EQ(steps(), before + 2);
}

TEST_F(Gestures, CutTakesAwayWhatItCopiedThoughAPointIsChosen) {
  const EnvelopeRef ref{EnvelopeKind::trackGain, doc().song().tracks[0].id, {}};
  doc().edit("envelope", setEnvelope(doc().song(), ref, {{Frames{1000}, -3, 0}, {Frames{9000}, 0, 0}}));
  doc().selection().choose({clip(1).id});
  doc().clipDesk().showEnvelope(EnvelopeKind::trackGain);
  const auto gone = clip(1).id;
  doc().selection().choosePoint(PointRef{ref, Frames{1000}});
  doc().clipDesk().cut();
  EXPECT_EQ(doc().song().find(gone), nullptr);
  EXPECT_EQ(envelopeOf(doc().song(), ref)->size(), 2u) << "the point was not copied, so it stays";
  EXPECT_TRUE(doc().clipDesk().canPaste());
}

TEST_F(Gestures, CutOfNothingTakesNothing) {
  const auto song = doc().song();
  doc().selection().clear();
  doc().selection().setRange({});
  doc().clipDesk().cut();
  EXPECT_EQ(doc().song(), song);
}

TEST_F(Gestures, ATempoTypedInStepOneCarriesEveryPlan) {
  run("step.4");
  auto s = doc().timingDesk().settings();
  s.on = true;
  doc().timingDesk().setSettings("plan", s);
  run("step.1");
  auto* tempo = find<QDoubleSpinBox>("Song tempo");
  tempo->setValue(111);
  doc().jobs().finishAll();
  EXPECT_NEAR(doc().song().tempo.bpmAt(Ticks{0}), 111, 1e-6);
  for (const auto& h : doc().timingDesk().planned().hits)
    for (const auto& c : *doc().song().sets[0].clips)
      if (c.piece && c.piece->hit == h.hit.id) EXPECT_EQ(h.hit.at + c.shift(), h.now);
}

/// A locale with a decimal comma, made here: none need be installed.
struct CommaLocale {
  CommaLocale() {
    folder = std::make_unique<test::Scratch>();
    const auto made = *folder / "comma";
    const int status = std::system(("localedef -i de_DE -f UTF-8 " + made.string() + " >/dev/null 2>&1").c_str());
    if (!std::filesystem::exists(made)) {
      ADD_FAILURE() << "localedef failed: " << status;
      return;
    }
    ::setenv("LOCPATH", folder->path().c_str(), 1);
    const char* set = std::setlocale(LC_ALL, "comma");
    EXPECT_NE(set, nullptr);
    if (set) EXPECT_STREQ(std::localeconv()->decimal_point, ",");
  }
  ~CommaLocale() {
    std::setlocale(LC_ALL, "C");
    ::unsetenv("LOCPATH");
  }
  std::unique_ptr<test::Scratch> folder;
};

TEST_F(Gestures, NumbersAreTheSameInACommaLocale) {
  run("step.4");
  auto s = doc().timingDesk().settings();
  s.on = true;
  s.largestMoveMs = 12.5;
  doc().timingDesk().setSettings("plan", s);
  doc().jobs().finishAll();
  const auto map = doc().song().tempo;
  const auto csv = hitsToCsv(doc().song(), doc().timingDesk().planned());
  const auto shown = entryText(-1.5, Quantity::gain, 48'000);
  ASSERT_TRUE(doc().files().save(scratch / "point.ochron"));
  {
    const CommaLocale comma;
    EXPECT_EQ(hitsToCsv(doc().song(), doc().timingDesk().planned()), csv);
    EXPECT_EQ(entryText(-1.5, Quantity::gain, 48'000), shown);
    EXPECT_EQ(parseEntry("1.5 dB", Quantity::gain, map, {})->value, 1.5);
    EXPECT_EQ(parseEntry("1,5 dB", Quantity::gain, map, {})->value, 1.5);
    ASSERT_TRUE(doc().files().save(scratch / "comma.ochron"));
    ASSERT_TRUE(doc().files().open(scratch / "comma.ochron"));
    doc().jobs().finishAll();
    EXPECT_EQ(doc().timingDesk().settings().largestMoveMs, 12.5);
    doc().timingDesk().takeGroove("mine");
    doc().timingDesk().useGroove(doc().song().grooves.front());
    doc().timingDesk().writeGroove(scratch / "mine.json");
    doc().timingDesk().readGroove(scratch / "mine.json");
    EXPECT_EQ(doc().song().grooves.size(), 1u);
  }
  const auto text = *readWholeFile(scratch.path() / "comma.ochron" / kSongFile, 1 << 24);
  EXPECT_NE(text.find("12.5"), std::string::npos);
}

}  // namespace
}  // namespace ochron
