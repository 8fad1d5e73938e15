// Locking a kit by hand and ear in the real window: hits, targets, seams, locks, grooves, checks, the hit table.

#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QFile>
#include <QMenu>
#include <QPushButton>
#include <QStackedWidget>
#include <QTableView>
#include <QTimer>
#include <QToolButton>
#include <algorithm>
#include <cmath>
#include <fstream>

#include "app/window_fixture.h"
#include "checks/checks_panel.h"
#include "document/attention.h"
#include "document/groove_library.h"
#include "document/hit_desk.h"
#include "document/seam_desk.h"
#include "document/selection.h"
#include "document/song_files.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "edits/hit_edits.h"
#include "lanes/lanes_view.h"
#include "loupe/loupe_view.h"
#include "panel/controls.h"
#include "seams/seam_edits.h"
#include "steps/hits/hit_table_view.h"
#include "steps/timing/timing_graph.h"
#include "store/project.h"

namespace ochron {
namespace {

struct Locking : test::Window {
  void SetUp() override {
    test::Window::SetUp();
    import();
  }
  /// The window shows two bars from bar 3 on.
  void zoomIn() {
    const auto& map = doc().song().tempo;
    const auto from = map.toFrames(map.barStart(2));
    window->view().show(static_cast<double>(from.value),
                        static_cast<double>((map.toFrames(map.barStart(4)) - from).value) / window->view().width());
  }
  const ClipList& clips() { return *doc().song().find(doc().selection().set())->clips; }
  /// A point on the lanes where a clip's seam can be taken hold of, in the middle of the second lane.
  QPoint seamPoint(const Clip& c) {
    return {static_cast<int>(std::lround(window->view().xOf(c.start))),
            static_cast<int>(window->lanes().layout().laneBox(1).center().y())};
  }
  const Clip& visibleSeam(std::size_t skip = 1) {
    const auto seen = window->view().visible();
    for (std::size_t i = 1; i < clips().size(); ++i)
      if (isSeam(clips(), i) && clips()[i].piece->hit && seen.contains(clips()[i].start) && skip-- == 0)
        return clips()[i];
    ADD_FAILURE() << "no seam in sight";
    return clips().front();
  }
  const Clip& clip(ClipId id) {
    return *std::find_if(clips().begin(), clips().end(), [&](const Clip& c) { return c.id == id; });
  }
};

TEST_F(Locking, ASeamIsClickedSteppedThroughAndHeardInALoop) {
  zoomIn();
  run("step.5");
  const auto id = visibleSeam().id;
  click(&window->lanes(), seamPoint(clip(id)));
  EXPECT_EQ(doc().selection().seam(), id);
  ASSERT_TRUE(run("seams.next"));
  EXPECT_NE(doc().selection().seam(), id);
  EXPECT_GT(clip(*doc().selection().seam()).start, clip(id).start);
  run("seams.previous");
  EXPECT_EQ(doc().selection().seam(), id);
  QTest::keyClick(window.get(), Qt::Key_H);
  ASSERT_TRUE(until([&] { return playing(); }));
  Frames latest{INT64_MIN};
  int returns = 0;
  ASSERT_TRUE(until([&] {
    returns += heardAt() < latest ? 1 : 0;
    latest = heardAt();
    return returns == 2;  // the first may be the jump to the piece
  })) << "it goes on in a loop";
  EXPECT_TRUE(playing());
  const auto at = heardAt();
  EXPECT_LT(std::abs((at - clip(id).start).value), 48'000 * 0.5);
  QTest::keyClick(window.get(), Qt::Key_H);
  EXPECT_TRUE(until([&] { return !playing(); }));
}

TEST_F(Locking, DraggingASeamMovesItAndSurvivesOtherSettings) {
  zoomIn();
  run("step.5");
  const auto before = visibleSeam();
  const auto point = seamPoint(before);
  drag(&window->lanes(), point, point - QPoint(14, 0));
  const auto moved = clip(before.id);
  EXPECT_LT(moved.start, before.start);
  EXPECT_EQ(moved.shift(), before.shift());
  EXPECT_EQ(doc().undoName(), "Move seam");
  auto s = doc().timingDesk().settings();
  s.strength = 80;
  doc().timingDesk().setSettings("strength", s);
  const auto& hits = *doc().song().hitsOf(moved.take, doc().selection().set());
  const auto hit = std::find_if(hits.begin(), hits.end(), [&](auto& h) { return h.id == moved.piece->hit; });
  EXPECT_EQ(hit->at - clip(before.id).source, hit->at - moved.source);
  doc().undo();
  doc().undo();
  EXPECT_EQ(clip(before.id), before);
}

TEST_F(Locking, EscapeTakesASeamDragBack) {
  zoomIn();
  run("step.5");
  const auto before = doc().song();
  const auto point = seamPoint(visibleSeam());
  drag(&window->lanes(), point, point - QPoint(12, 0), {}, false);
  EXPECT_NE(doc().song(), before);
  EXPECT_TRUE(status().contains("Seam moved"));
  QTest::keyClick(&window->lanes(), Qt::Key_Escape);
  EXPECT_EQ(doc().song(), before);
  QTest::mouseRelease(&window->lanes(), Qt::LeftButton, {}, point);
  EXPECT_EQ(doc().song(), before);
}

TEST_F(Locking, ACrossfadesEdgeAndBiasAreDraggedToo) {
  zoomIn();
  run("step.5");
  const auto before = visibleSeam();
  // Close enough for the crossfade to have edges that can be taken hold of.
  window->view().zoomAt(window->view().xOf(before.start), 0.02);
  const auto edge =
      QPoint(static_cast<int>(window->view().xOf(before.start + before.seam.after)), seamPoint(before).y());
  ASSERT_GT(edge.x() - seamPoint(before).x(), 7);
  drag(&window->lanes(), edge, edge - QPoint(8, 0));
  const auto shorter = clip(before.id);
  EXPECT_LT((shorter.seam.before + shorter.seam.after).value, (before.seam.before + before.seam.after).value);
  EXPECT_EQ(doc().undoName(), "Change a seam's length");
  drag(&window->lanes(), seamPoint(shorter), seamPoint(shorter) + QPoint(30, 0), Qt::AltModifier);
  EXPECT_NEAR(clip(before.id).seam.bias, 0.25, 0.02);
}

TEST_F(Locking, SeamControlsActOnTheChosenSeamTheRangeOrAll) {
  zoomIn();
  run("step.5");
  const auto id = visibleSeam().id;
  click(&window->lanes(), seamPoint(clip(id)));
  auto* scope = find<QComboBox>("seam scope");
  EXPECT_EQ(scope->currentIndex(), 1);
  auto* law = find<QComboBox>("law");
  law->setCurrentIndex(2);
  emit law->activated(2);
  const auto equalPower = [&] {
    return std::count_if(clips().begin(), clips().end(),
                         [](const Clip& c) { return c.seam.law == CrossfadeLaw::equalPower; });
  };
  EXPECT_EQ(equalPower(), 1);
  doc().selection().setRange(window->view().visible());
  const auto inRange = static_cast<std::ptrdiff_t>(doc().seamDesk().chosen().size());
  ASSERT_GT(inRange, 3);
  law->setCurrentIndex(2);
  emit law->activated(2);
  EXPECT_EQ(equalPower(), inRange);
  click(find<QPushButton>("release seam"), {20, 10});
  EXPECT_EQ(equalPower(), 0);
  doc().selection().setRange({});
  run("edit.norange");
  scope->setCurrentIndex(0);
  law->setCurrentIndex(2);
  emit law->activated(2);
  EXPECT_GT(equalPower(), inRange);
}

TEST_F(Locking, ALockedRangeLooksLockedAndRefusesWithASentence) {
  zoomIn();
  const auto& map = doc().song().tempo;
  doc().selection().setRange({map.toFrames(map.barStart(2)), map.toFrames(map.barStart(3))});
  const auto plain = window->lanes().grab().toImage();
  ASSERT_TRUE(run("lock.range"));
  EXPECT_NE(window->lanes().grab().toImage(), plain);
  const auto inside = doc().timingDesk().planned().hits;
  const auto hit = std::find_if(inside.begin(), inside.end(), [](auto& h) { return h.locked; });
  ASSERT_NE(hit, inside.end());
  doc().selection().chooseHit(HitRef{hit->take, hit->hit.id});
  const auto before = doc().song();
  run("timing.freeze");
  EXPECT_EQ(doc().song(), before);
  EXPECT_TRUE(status().contains("locked")) << status().toStdString();
  run("hits.later");
  EXPECT_EQ(doc().song(), before);
  ASSERT_TRUE(run("lock.unlockrange"));
  run("timing.freeze");
  EXPECT_NE(doc().song(), before);
  run("lock.set");
  const auto locked = doc().song();
  run("hits.later");
  run("timing.toggle");
  EXPECT_EQ(doc().song(), locked);
  run("lock.set");
  run("timing.toggle");
  EXPECT_FALSE(doc().timingDesk().settings().on);
}

TEST_F(Locking, ARangeIsTakenOutOfThePlanAndPutBackByOneKeyEach) {
  const auto& map = doc().song().tempo;
  const FrameRange range{map.toFrames(map.barStart(2)), map.toFrames(map.barStart(4))};
  const auto before = doc().song();
  doc().selection().setRange(range);
  QTest::keyClick(window.get(), Qt::Key_X);
  for (const auto& h : doc().timingDesk().planned().hits)
    if (range.contains(h.home)) EXPECT_EQ(h.now, h.home);
  QTest::keyClick(window.get(), Qt::Key_X, Qt::ShiftModifier);
  EXPECT_TRUE(doc().song().sets[0].plan->gaps.empty());
  doc().undo();
  doc().undo();
  EXPECT_EQ(doc().song(), before);
}

TEST_F(Locking, ATargetIsDraggedInTheGraphToThePlaceUnderThePointer) {
  zoomIn();
  auto* graph = window->findChild<TimingGraph*>();
  const auto& hits = doc().timingDesk().planned().hits;
  const auto seen = window->view().visible();
  std::size_t i = 0;
  while (!(seen.contains(hits[i].now) && hits[i].leader == i && hits[i].line)) ++i;
  const auto id = hits[i].hit.id;
  const QPoint at(static_cast<int>(window->view().xOf(hits[i].line->frame)), (24 + graph->height() - 8) / 2);
  drag(graph, at, at - QPoint(0, 20));
  const auto& after = doc().timingDesk().planned().hits[i];
  ASSERT_EQ(after.hit.id, id);
  EXPECT_TRUE(after.byHand);
  EXPECT_GT(after.afterMs, 1) << "dragged up is late";
  EXPECT_EQ(doc().undoName(), "Move target");
  const auto late = after.now;
  auto s = doc().timingDesk().settings();
  s.keepDrift = 50;
  doc().timingDesk().setSettings("drift", s);
  EXPECT_EQ(doc().timingDesk().planned().hits[i].now, late);
  doc().undo();
  doc().undo();
  EXPECT_FALSE(doc().timingDesk().planned().hits[i].byHand);
}

TEST_F(Locking, HitsAreJoinedAndSeparatedByKey) {
  const auto& hits = doc().timingDesk().planned().hits;
  std::size_t i = 4;
  while (hits[i].leader != i || hits[i - 1].leader == i) ++i;
  doc().selection().chooseHit(HitRef{hits[i].take, hits[i].hit.id});
  QTest::keyClick(window.get(), Qt::Key_J);
  EXPECT_EQ(doc().timingDesk().planned().hits[i].leader, doc().timingDesk().planned().hits[i - 1].leader);
  EXPECT_EQ(doc().timingDesk().planned().hits[i].move, doc().timingDesk().planned().hits[i - 1].move);
  QTest::keyClick(window.get(), Qt::Key_J, Qt::ShiftModifier);
  EXPECT_NE(doc().timingDesk().planned().hits[i].leader, doc().timingDesk().planned().hits[i - 1].leader);
}

TEST_F(Locking, AnOnsetGoesBackToWhereItWasFoundOrToWhereAnotherMicHearsIt) {
  const auto h = doc().timingDesk().planned().hits[5];
  doc().selection().chooseHit(HitRef{h.take, h.hit.id});
  for (int i = 0; i < 40; ++i) run("hits.later");
  EXPECT_EQ(doc().selection().plannedHit()->hit.at, h.hit.at + Frames{40});
  EXPECT_EQ(doc().selection().plannedHit()->hit.origin, HitOrigin::user);
  QTest::keyClick(window.get(), Qt::Key_B);
  EXPECT_EQ(doc().selection().plannedHit()->hit.at, h.hit.at);
  EXPECT_EQ(doc().selection().plannedHit()->hit.origin, HitOrigin::detected);
  // The last mic of the kit is the overhead: it hears everything a little later.
  auto* loupe = window->findChild<LoupeView*>();
  QTest::mouseDClick(loupe, Qt::LeftButton, {}, QPoint(loupe->width() / 2, loupe->height() - 40));
  const auto by = (doc().selection().plannedHit()->hit.at - h.hit.at).value;
  EXPECT_NE(by, 0);
  EXPECT_LT(std::abs(by), 48'000 / 100);
}

TEST_F(Locking, SteppingPlaysEachHitWhenAsked) {
  run("step.3");
  click(find<QCheckBox>("hear while stepping"), {8, 8});
  ASSERT_TRUE(doc().transport().hearing().whileStepping);
  run("hits.next");
  EXPECT_TRUE(until([&] { return playing(); }));
  EXPECT_TRUE(until([&] { return !playing(); })) << "a hit is heard once";
}

TEST_F(Locking, TheThresholdIsDrawnWhileTheSensitivityIsHeld) {
  run("step.3");
  auto* slider = find<LineSlider>("Sensitivity slider");
  const auto plain = window->lanes().grab().toImage();
  QTest::mousePress(slider, Qt::LeftButton, {}, QPoint(slider->width() / 2, slider->height() / 2));
  EXPECT_TRUE(doc().hitDesk().shownThreshold());
  EXPECT_NE(window->lanes().grab().toImage(), plain);
  QTest::mouseRelease(slider, Qt::LeftButton, {}, QPoint(slider->width() / 2, slider->height() / 2));
  EXPECT_FALSE(doc().hitDesk().shownThreshold());
}

TEST_F(Locking, StrokesComingAndGoingAreCountedWhileTheSensitivityIsHeld) {
  run("step.3");
  auto* slider = find<LineSlider>("Sensitivity slider");
  auto* counts = find<QLabel>("stroke counts");
  const QPoint middle(slider->width() / 2, slider->height() / 2);
  QTest::mousePress(slider, Qt::LeftButton, {}, middle);
  EXPECT_FALSE(counts->text().contains('(')) << "nothing has changed yet";
  for (int x = middle.x(); x > 12; x -= 6) QTest::mouseMove(slider, QPoint(x, middle.y()));
  EXPECT_TRUE(counts->text().contains(QStringLiteral("(\u2212"))) << counts->text().toStdString();
  QTest::mouseRelease(slider, Qt::LeftButton, {}, QPoint(12, middle.y()));
  EXPECT_FALSE(counts->text().contains('('));
}

TEST_F(Locking, ADrumNamedByHandNamesAllThatSoundLikeItAndUndoIsOneStep) {
  const auto named = [&](DrumClass drum) {
    const auto& hits = doc().timingDesk().planned().hits;
    return std::count_if(hits.begin(), hits.end(), [&](auto& h) { return h.hit.drum == drum; });
  };
  const auto kicks = named(DrumClass::kick), snares = named(DrumClass::snare);
  ASSERT_GT(kicks, 8);
  ASSERT_GT(snares, 4);
  const auto& hits = doc().timingDesk().planned().hits;
  const auto kick = std::find_if(hits.begin(), hits.end(), [](auto& h) { return h.hit.drum == DrumClass::kick; });
  doc().selection().chooseHit(HitRef{kick->take, kick->hit.id});
  ASSERT_TRUE(doc().edit(
      "name", setHitClass(doc().song(), kick->take, doc().selection().set(), {kick->hit.id}, DrumClass::tom)));
  const auto one = doc().song();
  QTest::keyClick(window.get(), Qt::Key_N, Qt::AltModifier);
  doc().jobs().finishAll();
  EXPECT_GT(named(DrumClass::tom), kicks / 2);
  EXPECT_EQ(named(DrumClass::snare), snares) << "what sounds otherwise keeps its name";
  doc().undo();
  EXPECT_EQ(doc().song(), one);
}

TEST_F(Locking, AGuidesWeightFieldDecidesAboutItsHits) {
  run("step.3");
  auto* weight = find<QDoubleSpinBox>("Weight of Snare Top");
  const auto all = doc().timingDesk().planned().hits.size();
  weight->setValue(0);
  const auto kicks = doc().timingDesk().planned().hits.size();
  EXPECT_LT(kicks, all);
  EXPECT_GT(kicks, 5u);
  doc().undo();
  EXPECT_EQ(doc().timingDesk().planned().hits.size(), all);
}

TEST_F(Locking, TheHitTableSortsFiltersSelectsAndChangesClasses) {
  run("view.table");
  auto* table = find<QTableView>("hit table");
  ASSERT_TRUE(table->isVisible());
  const int all = table->model()->rowCount();
  EXPECT_EQ(all, static_cast<int>(doc().timingDesk().planned().hits.size()));
  find<QComboBox>("table class")->setCurrentText("snare");
  const int snares = table->model()->rowCount();
  EXPECT_GT(snares, 3);
  EXPECT_LT(snares, all);
  table->sortByColumn(HitTableModel::before, Qt::DescendingOrder);
  const auto msOf = [&](int row) {
    return std::abs(
        table->model()->index(row, HitTableModel::before).data().toString().replace(QChar(0x2212), '-').toDouble());
  };
  for (int r = 1; r < snares; ++r) EXPECT_GE(msOf(r - 1), msOf(r));
  QTest::mouseClick(table->viewport(), Qt::LeftButton, {}, table->visualRect(table->model()->index(1, 0)).center());
  ASSERT_TRUE(doc().selection().hit());
  EXPECT_EQ(doc().selection().plannedHit()->hit.drum, DrumClass::snare);
  const auto chosen = *doc().selection().hit();
  auto* become = find<QComboBox>("table become");
  become->setCurrentIndex(3);
  emit become->activated(3);
  EXPECT_EQ(table->model()->rowCount(), snares - 1);
  for (const auto& h : doc().timingDesk().planned().hits)
    if (h.hit.id == chosen.hit) EXPECT_EQ(h.hit.drum, DrumClass::tom);
}

TEST_F(Locking, HitsAreWrittenAsTableAndNotes) {
  doc().hitDesk().write(scratch / "hits.csv");
  EXPECT_TRUE(status().contains("hits written"));
  doc().hitDesk().write(scratch / "hits.json");
  doc().hitDesk().write(scratch / "hits.mid");
  for (const char* name : {"hits.csv", "hits.json", "hits.mid"}) EXPECT_TRUE(std::filesystem::exists(scratch / name));
  std::ofstream(scratch / "no") << "a file, not a folder";
  doc().hitDesk().write(scratch / "no" / "hits.csv");
  EXPECT_FALSE(status().contains("hits written"));
  doc().hitDesk().write(scratch / "Kick In.wav");
  EXPECT_TRUE(find<QLabel>("notice")->text().contains("Kick In.wav")) << "never over a recording of the song";
  EXPECT_TRUE(AudioFileReader::open(scratch / "Kick In.wav"));
}

TEST_F(Locking, AGrooveIsTakenKeptInTheLibraryAndUsedInAnotherSong) {
  doc().timingDesk().takeGroove("mine");
  ASSERT_EQ(doc().song().grooves.size(), 1u);
  run("step.4");
  auto* which = find<QComboBox>("groove");
  ASSERT_EQ(which->count(), 2);
  which->setCurrentIndex(1);
  emit which->activated(1);
  ASSERT_TRUE(doc().timingDesk().settings().groove);
  EXPECT_GT(doc().timingDesk().planned().statsOf(DrumClass::snare).meanAfterMs, 4) << "the snare is late in the groove";
  doc().timingDesk().writeGroove(scratch / "mine.mid");
  doc().timingDesk().writeGroove(scratch / "mine.json");
  ASSERT_TRUE(run("groove.library"));
  EXPECT_TRUE(std::filesystem::exists(GrooveLibrary::folder() / "mine.groove.json"));
  doc().timingDesk().useGroove({});
  doc().timingDesk().readGroove(scratch / "mine.mid");
  ASSERT_TRUE(doc().timingDesk().settings().groove);
  EXPECT_GT(doc().timingDesk().planned().statsOf(DrumClass::snare).meanAfterMs, 4);
  doc().files().newSong();
  window->takeIn(files, false);
  doc().jobs().finishAll();
  ASSERT_EQ(which->count(), 2);
  EXPECT_TRUE(which->itemText(1).contains("library"));
  std::filesystem::remove_all(GrooveLibrary::folder());
}

TEST_F(Locking, AnotherGridForOneDrumIsAddedAndRemoved) {
  run("step.4");
  onSheet<QDialog>("grid rule sheet", [&](QDialog* sheet) {
    sheet->findChild<QComboBox*>("rule drum")->setCurrentText("snare");
    sheet->findChild<QComboBox*>("rule grid")->setCurrentText("1/4");
    sheet->accept();
  });
  click(find<QPushButton>("add grid rule"), {20, 8});
  ASSERT_EQ(doc().timingDesk().settings().gridRules.size(), 1u);
  const auto& map = doc().song().tempo;
  for (const auto& h : doc().timingDesk().planned().hits)
    if (h.hit.drum == DrumClass::snare && h.line &&
        h.leader == static_cast<std::size_t>(&h - doc().timingDesk().planned().hits.data()))
      EXPECT_EQ((h.line->at - map.barStart(h.line->bar)).value % kTicksPerQuarter, 0);
  click(find<QToolButton>("remove grid rule 0"), {6, 6});
  EXPECT_TRUE(doc().timingDesk().settings().gridRules.empty());
}

TEST_F(Locking, OnlyTheTickedDrumsAreMoved) {
  run("step.4");
  auto* button = find<QToolButton>("classes");
  EXPECT_EQ(button->text(), "Moves every drum");
  for (auto* tick : button->menu()->actions())
    if (tick->text() != "snare") tick->trigger();
  EXPECT_EQ(button->text(), "Moves snare");
  int snares = 0;
  for (const auto& h : doc().timingDesk().planned().hits) {
    if (h.hit.drum == DrumClass::snare && h.opensSlice) {
      ++snares;
      EXPECT_NEAR(h.afterMs, 0, 0.03);
    }
    if (h.hit.drum == DrumClass::kick) EXPECT_FALSE(h.opensSlice);
  }
  EXPECT_GT(snares, 5);
  for (auto* tick : button->menu()->actions())
    if (tick->text() != "snare") tick->trigger();
  EXPECT_TRUE(doc().timingDesk().settings().classes.empty());
}

TEST_F(Locking, ChecksAreAcceptedAndFixedOneAfterTheOther) {
  auto s = doc().timingDesk().settings();
  s.crossfadeMs = 0.5;  // every seam is very short
  doc().timingDesk().setSettings("short", s);
  doc().jobs().finishAll();
  auto* panel = window->findChild<ChecksPanel*>();
  const int all = panel->count();
  ASSERT_GT(all, 3);
  QTest::keyClick(window.get(), Qt::Key_N);
  QTest::keyClick(window.get(), Qt::Key_Y);
  doc().jobs().finishAll();
  EXPECT_LT(panel->count(), all);
  EXPECT_EQ(doc().song().sets[0].plan->accepted.size(), 1u);
  const auto before = doc().attention().checks();
  ASSERT_EQ(before.front().kind, CheckKind::shortSeam);
  QTest::keyClick(window.get(), Qt::Key_N);
  const auto hit = doc().selection().hit()->hit;
  QTest::keyClick(window.get(), Qt::Key_Y, Qt::ShiftModifier);
  const auto fixed =
      std::find_if(clips().begin(), clips().end(), [&](auto& c) { return c.piece && c.piece->hit == hit; });
  EXPECT_GT((fixed->seam.before + fixed->seam.after).value, 48);
  EXPECT_TRUE(status().contains("Done"));
}

}  // namespace
}  // namespace ochron
