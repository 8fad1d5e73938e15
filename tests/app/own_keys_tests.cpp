// Keys belong to what has the focus, typed values are what was typed, and what would be lost is asked about.

#include <QAbstractButton>
#include <QCheckBox>
#include <QDoubleSpinBox>
#include <QLineEdit>
#include <QPushButton>
#include <QThread>
#include <atomic>
#include <fstream>

#include "app/window_fixture.h"
#include "checks/checks_panel.h"
#include "document/groove_library.h"
#include "document/seam_desk.h"
#include "document/selection.h"
#include "document/tempo_desk.h"
#include "edits/anchor_edits.h"
#include "edits/mark_edits.h"
#include "edits/plan_edits.h"
#include "entry/save_name.h"
#include "lanes/lanes_view.h"

namespace ochron {
namespace {

using test::Window;
namespace fs = std::filesystem;

struct OwnKeys : Window {
  QPushButton* button(Step step, const char* name) {
    doc().setStep(step);
    QApplication::processEvents();
    return find<QPushButton>(name);
  }
};

TEST_F(OwnKeys, SpaceAndReturnPressTheButtonThatHasTheFocusAndElseSpacePlays) {
  import();
  doc().setStep(Step::hits);
  QApplication::processEvents();
  QAbstractButton* box = nullptr;
  for (auto* b : window->findChildren<QCheckBox*>())
    if (b->isVisible() && b->isEnabled()) box = b;
  ASSERT_TRUE(box);
  const bool was = box->isChecked();
  box->setFocus(Qt::TabFocusReason);
  QTest::keyClick(box, Qt::Key_Space);
  EXPECT_NE(box->isChecked(), was);
  EXPECT_FALSE(playing());
  QTest::keyClick(box, Qt::Key_Return);
  EXPECT_EQ(box->isChecked(), was);
  window->lanes().setFocus();
  QTest::keyClick(&window->lanes(), Qt::Key_Space);
  EXPECT_TRUE(until([&] { return playing(); }));
  QTest::keyClick(&window->lanes(), Qt::Key_Space);
}

TEST_F(OwnKeys, AClickOnAButtonLeavesSpaceToTheSong) {
  import();
  window->lanes().setFocus();
  QAbstractButton* any = nullptr;
  for (auto* b : window->findChildren<QAbstractButton*>())
    if (b->isVisible() && b->isEnabled() && b->isCheckable() && b->objectName() != "play") any = b;
  ASSERT_TRUE(any);
  QTest::mouseClick(any, Qt::LeftButton);
  EXPECT_FALSE(any->hasFocus());
}

TEST_F(OwnKeys, ACommaIsADecimalMark) {
  import();
  doc().setStep(Step::takes);
  QApplication::processEvents();
  auto* tempo = find<QDoubleSpinBox>("Song tempo");
  tempo->setFocus();
  tempo->selectAll();
  QTest::keyClicks(tempo, "92,5");
  QTest::keyClick(tempo, Qt::Key_Return);
  EXPECT_DOUBLE_EQ(doc().song().tempo.bpmAt(Ticks{}), 92.5);
}

TEST_F(OwnKeys, EscapeTakesBackWhatWasTypedInEveryField) {
  import();
  doc().setStep(Step::takes);
  QApplication::processEvents();
  const auto before = doc().song();
  auto* meter = find<QLineEdit>("Meter");
  meter->setFocus();
  const auto was = meter->text();
  meter->selectAll();
  QTest::keyClicks(meter, "7/8");
  QTest::keyClick(meter, Qt::Key_Escape);
  QApplication::processEvents();
  EXPECT_EQ(meter->text(), was);
  EXPECT_EQ(doc().song(), before);
}

TEST_F(OwnKeys, ReturnInTheMeterFieldLeavesAnchorsAndATypedTempoDoesNotDropThem) {
  import();
  const auto& map = doc().song().tempo;
  ASSERT_TRUE(doc().edit("tie", setAnchor(doc().song(), map.barStart(3), map.toFrames(map.barStart(3)) + Frames{500})));
  const auto anchored = doc().song();
  doc().setStep(Step::takes);
  QApplication::processEvents();
  auto* meter = find<QLineEdit>("Meter");
  meter->setFocus();
  QTest::keyClick(meter, Qt::Key_Return);
  EXPECT_EQ(doc().song(), anchored);
  auto* tempo = find<QDoubleSpinBox>("Song tempo");
  tempo->setFocus();
  tempo->selectAll();
  QTest::keyClicks(tempo, "99");
  QTest::keyClick(tempo, Qt::Key_Return);
  EXPECT_EQ(doc().song(), anchored);
  EXPECT_TRUE(status().contains("anchor")) << status().toStdString();
}

TEST_F(OwnKeys, TheNextBarIsTheNextBarAtEveryTempo) {
  import();
  for (const double bpm : {104.0, 140.0, 92.5, 117.3, 88.8}) {
    doc().tempoDesk().setMap("tempo", TempoMap::steady(48'000, bpm));
    doc().transport().setCursor(Frames{});
    for (int bar = 1; bar < 8; ++bar) {
      ASSERT_TRUE(run("transport.nextbar"));
      const auto& map = doc().song().tempo;
      ASSERT_EQ(doc().transport().cursor(), map.toFrames(map.barStart(bar))) << bpm;
    }
  }
}

TEST_F(OwnKeys, EscapeTakesBackWhatASliderDragsAndTheDragDoesNotGoOn) {
  import();
  doc().setStep(Step::timing);
  QApplication::processEvents();
  auto* slider = find<QWidget>("Strength slider");
  const auto before = doc().song();
  drag(slider, {slider->width() - 10.0, 9}, {slider->width() / 2.0, 9}, {}, false);
  EXPECT_NE(doc().song(), before);
  QTest::keyClick(window.get(), Qt::Key_Escape);
  EXPECT_EQ(doc().song(), before);
  QMouseEvent move(QEvent::MouseMove, QPointF(30, 9), slider->mapToGlobal(QPointF(30, 9)), Qt::NoButton, Qt::LeftButton,
                   Qt::NoModifier);
  QApplication::sendEvent(slider, &move);
  EXPECT_EQ(doc().song(), before) << "the hand has not let go yet";
  QTest::mouseRelease(slider, Qt::LeftButton);
  EXPECT_EQ(doc().song(), before);
  drag(slider, {slider->width() - 10.0, 9}, {slider->width() / 2.0, 9});
  EXPECT_NE(doc().song(), before);
}

TEST_F(OwnKeys, AnExportOfTracksAsksOnceBeforeItReplacesFiles) {
  import();
  const auto folder = scratch / "stems";
  fs::create_directories(folder);
  std::ofstream(folder / "Hat.wav") << "somebody else's";
  int asked = 0;
  QString text;
  bool yes = false;
  doc().setAsker([&](const QString&, const QString& t, const QString&) { return ++asked, text = t, yes; });
  ExportSettings s;
  s.what = ExportWhat::tracks;
  s.range = {Frames{}, Frames{48'000}};
  doc().printDesk().exportTo(s, folder);
  doc().jobs().finishAll();
  EXPECT_EQ(asked, 1);
  EXPECT_TRUE(text.contains("Hat.wav")) << text.toStdString();
  EXPECT_EQ(fs::file_size(folder / "Hat.wav"), 15U) << "refused: nothing is touched";
  EXPECT_FALSE(fs::exists(folder / "Kick In.wav"));
  yes = true;
  doc().printDesk().exportTo(s, folder);
  doc().jobs().finishAll();
  EXPECT_GT(fs::file_size(folder / "Hat.wav"), 48'000U);
  EXPECT_TRUE(fs::exists(folder / "Kick In.wav"));
  s.range = {};
  doc().printDesk().exportTo(s, scratch / "none");
  doc().jobs().finishAll();
  EXPECT_FALSE(fs::exists(scratch / "none"));
  EXPECT_TRUE(status().contains("range")) << status().toStdString();
}

TEST(SaveName, GetsTheEndingOfTheKindThatWasChosen) {
  const QString kinds = "MIDI (*.mid *.midi);;Table (*.csv);;JSON (*.json)";
  EXPECT_EQ(withEnding("/a/hits", "Table (*.csv)", kinds), "/a/hits.csv");
  EXPECT_EQ(withEnding("/a/hits.json", "Table (*.csv)", kinds), "/a/hits.json");
  EXPECT_EQ(withEnding("/a/hits.v2", "MIDI (*.mid *.midi)", kinds), "/a/hits.v2.mid");
  EXPECT_EQ(withEnding("/a/hits", "All files (*)", "All files (*)"), "/a/hits");
}

TEST_F(OwnKeys, GroovesOfOneFileNameStandBesideEachOther) {
  Groove a;
  a.name = "a/b";
  a.offsetsMs = {1};
  a.loudness = {1};
  Groove b = a;
  b.name = "a?b";
  b.offsetsMs = {2};
  ASSERT_TRUE(GrooveLibrary::keep(a));
  ASSERT_TRUE(GrooveLibrary::keep(b));
  b.offsetsMs = {3};
  ASSERT_TRUE(GrooveLibrary::keep(b));
  int found = 0;
  for (const auto& g : GrooveLibrary::grooves()) {
    if (g.name == "a/b") found += g.offsetsMs == std::vector<double>{1};
    if (g.name == "a?b") found += g.offsetsMs == std::vector<double>{3};
  }
  EXPECT_EQ(found, 2);
  fs::remove_all(GrooveLibrary::folder());
}

TEST_F(OwnKeys, WaitingWorkOfOneSongNeverReachesTheNext) {
  import();
  auto& jobs = doc().jobs();
  std::atomic<bool> go{false};
  int reached = 0;
  for (int i = 0; i < 2; ++i)
    jobs.start(
        "an edit",
        [&](Progress&) -> Jobs::Finish {
          while (!go) QThread::msleep(1);
          return [&] { ++reached; };
        },
        "slot", Jobs::Scope::edits);
  doc().files().newSong();
  go = true;
  jobs.finishAll();
  EXPECT_EQ(reached, 0);
}

TEST_F(OwnKeys, CancellingByHandLeavesWhatNobodyAskedFor) {
  import();
  auto& jobs = doc().jobs();
  std::atomic<bool> go{false};
  QStringList done;
  const auto work = [&](const QString& name) {
    return [&, name](Progress& p) -> Jobs::Finish {
      while (!go && !p.cancelled()) QThread::msleep(1);
      return [&, name] { done << name; };
    };
  };
  jobs.start("asked for", work("task"));
  jobs.start("reading", work("follow"), "f", Jobs::Scope::song, Jobs::Kind::follow);
  jobs.start({}, work("keep"), "k", Jobs::Scope::files, Jobs::Kind::keep);
  EXPECT_TRUE(jobs.hasTasks());
  jobs.cancelTasks();
  go = true;
  jobs.finishAll();
  done.sort();
  EXPECT_EQ(done, QStringList({"follow", "keep"}));
}

TEST_F(OwnKeys, SavingNeverWaitsForLongWork) {
  import();
  auto& jobs = doc().jobs();
  std::atomic<bool> go{false};
  for (int i = 0; i < 40; ++i)  // more than there are threads
    jobs.start("long", [&](Progress& p) -> Jobs::Finish {
      while (!go && !p.cancelled()) QThread::msleep(1);
      return {};
    });
  ASSERT_TRUE(doc().edit("marker", addMarker(doc().song(), Ticks{0}, Ticks{0}, "m")));
  const auto copy = doc().files().keeper().autosaveFolder();
  EXPECT_TRUE(until([&] {
    const auto found = findAutosave(copy);
    return found.song && !found.song->markers.empty();
  })) << "autosaved while every worker is busy";
  ASSERT_TRUE(doc().files().save(scratch / "song.ochron"));
  EXPECT_TRUE(fs::exists(scratch / "song.ochron" / "song.json"));
  go = true;
  jobs.finishAll();
}

TEST_F(OwnKeys, APlanThatIsBegunKeepsThePocketByKeyAndByItsBoxAlike) {
  import();
  TimingPlan none;
  const auto begin = [&] {
    EXPECT_TRUE(doc().edit("no plan", setTimingPlan(doc().song(), doc().selection().set(), none)));
  };
  begin();
  run("timing.toggle");
  const auto byKey = doc().timingDesk().settings();
  EXPECT_TRUE(byKey.on);
  EXPECT_EQ(byKey.keepPocket, 100);
  begin();
  doc().setStep(Step::timing);
  QApplication::processEvents();
  find<QCheckBox>("plan on")->click();
  EXPECT_EQ(doc().timingDesk().settings(), byKey);
}

TEST_F(OwnKeys, ADragOverTheLanesOfAnEmptySongChoosesNothing) {
  doc().setStep(Step::clips);
  QApplication::processEvents();
  auto& lanes = window->lanes();
  drag(&lanes, {200, 20}, {500, 120});
  EXPECT_TRUE(doc().selection().clips().empty());
}

TEST_F(OwnKeys, ASongWithoutTracksThatHasAMarkerIsNotThrownAway) {
  ASSERT_FALSE(doc().files().modified());
  ASSERT_TRUE(doc().edit("marker", addMarker(doc().song(), Ticks{0}, Ticks{0}, "intro")));
  EXPECT_TRUE(doc().files().modified());
  EXPECT_TRUE(window->actions().action("song.save")->isEnabled());
}

}  // namespace
}  // namespace ochron
