// The tempo step by mouse and keys: what was heard used and anchored, bar lines dragged onto attacks, recordings
// fitted.

#include <QAbstractButton>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QMouseEvent>
#include <QPushButton>
#include <QTableWidget>
#include <cmath>

#include "app/window_fixture.h"
#include "checks/fix.h"
#include "document/attention.h"
#include "document/print_desk.h"
#include "document/selection.h"
#include "document/song_files.h"
#include "document/tempo_desk.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "head/notice_bar.h"
#include "lanes/lanes_view.h"

namespace ochron {
namespace {

struct TempoSteps : test::Window {
  void SetUp() override {
    Window::SetUp();
    window->takeIn(files, false);
    doc().jobs().finishAll();
    run("step.2");
    QTest::qWait(0);
  }
  TempoDesk& desk() { return doc().tempoDesk(); }
  const Song& song() { return doc().song(); }
  Frames line(int bar) { return song().tempo.toFrames(song().tempo.barStart(bar)); }
  void press(const char* name) { QTest::mouseClick(find<QAbstractButton>(name), Qt::LeftButton); }
  double xOf(Frames f) { return window->view().xOf(f); }
  void drag(QPointF from, QPointF to, Qt::KeyboardModifiers keys = {}) {
    Driven::drag(&window->lanes(), from, to, keys);
  }
  /// Song time of the attack that the performance has on a downbeat.
  Frames downbeat(int bar) { return performance.map.toFrames(performance.map.barStart(bar)); }
};

TEST_F(TempoSteps, FromUnknownMicsToTheGridInFiveActionsWithoutANumberTyped) {
  // Dropped (1), the offer taken (2): a tempo. Bars that follow the player (3), the timing step (4), locked (5).
  ASSERT_TRUE(desk().heard());
  ASSERT_TRUE(run("take.usetempo"));
  EXPECT_NEAR(song().tempo.bpmAt(Ticks{}) / performance.map.bpmAt(Ticks{}), 1, 0.002);
  press("anchor downbeats");
  run("step.4");
  press("plan on");
  doc().jobs().finishAll();
  std::size_t onGrid = 0;
  for (const auto& h : doc().timingDesk().planned().hits)
    if (h.line && std::abs(h.afterMs) < 12) ++onGrid;
  EXPECT_GT(onGrid, doc().timingDesk().planned().hits.size() * 9 / 10);
}

TEST_F(TempoSteps, ABarLineDraggedNearAnAttackIsTiedToItToTheFrame) {
  ASSERT_TRUE(run("take.usetempo"));
  doc().jobs().finishAll();
  run("view.all");
  const auto before = song();
  const auto was = line(3);
  drag({xOf(was), 40}, {xOf(was) + 40, 40}, Qt::ShiftModifier);
  ASSERT_EQ(song().anchors->size(), 2U);
  EXPECT_GT(line(3).value - was.value, 0);
  const auto attack = desk().attackNear(was, Frames{9'600});
  ASSERT_TRUE(attack);
  drag({xOf(line(3)), 40}, {xOf(*attack) + 3, 40});
  EXPECT_EQ(line(3), *attack);
  EXPECT_EQ(line(0), before.tempo.toFrames(before.tempo.barStart(0))) << "bar 1 stays";
  doc().undo();
  doc().undo();
  EXPECT_EQ(song(), before);
}

TEST_F(TempoSteps, WithAltAllBarsMoveAndNoneIsTied) {
  const auto was = line(2);
  drag({xOf(was), 40}, {xOf(was) + 30, 40}, Qt::AltModifier | Qt::ShiftModifier);
  EXPECT_TRUE(song().anchors->empty());
  EXPECT_GT(line(2).value, was.value);
  EXPECT_EQ((line(4) - line(2)).value, 2 * 96'000) << "the tempo is the same";
}

TEST_F(TempoSteps, EscapeTakesADragBack) {
  const auto before = song();
  const QPointF from(xOf(line(2)), 40);
  auto* lanes = &window->lanes();
  QTest::mousePress(lanes, Qt::LeftButton, {}, from.toPoint());
  const QPointF to = from + QPointF(25, 0);
  QMouseEvent move(QEvent::MouseMove, to, lanes->mapToGlobal(to), Qt::NoButton, Qt::LeftButton, Qt::ShiftModifier);
  QApplication::sendEvent(lanes, &move);
  EXPECT_NE(song(), before);
  QTest::keyClick(lanes, Qt::Key_Escape);
  EXPECT_EQ(song(), before);
  QTest::mouseRelease(lanes, Qt::LeftButton, {}, to.toPoint());
  EXPECT_EQ(song(), before);
}

TEST_F(TempoSteps, SevenBarsAreTiedByOneKeyAlone) {
  ASSERT_TRUE(run("take.usetempo"));
  doc().jobs().finishAll();
  window->lanes().setFocus();
  QTest::keyClick(&window->lanes(), Qt::Key_Home);
  for (int i = 0; i < 7; ++i) QTest::keyClick(&window->lanes(), Qt::Key_Q);
  ASSERT_EQ(song().anchors->size(), 7U);
  for (const auto& a : *song().anchors) {
    EXPECT_EQ(song().tempo.toFrames(a.at), a.frame);
    const auto attack = desk().attackNear(a.frame, Frames{1});
    EXPECT_TRUE(attack) << "every anchor stands on an attack";
  }
  QTest::keyClick(&window->lanes(), Qt::Key_I, Qt::ShiftModifier);
  EXPECT_EQ(desk().bar(), 6);
  EXPECT_TRUE(run("tempo.remove"));
  EXPECT_EQ(song().anchors->size(), 6U);
  press("remove anchors");
  EXPECT_TRUE(song().anchors->empty());
}

TEST_F(TempoSteps, TheDownbeatsFoundAreAnchoredAndTheirMapMadeOfFewerTempos) {
  press("anchor downbeats");
  const auto anchors = song().anchors->size();
  ASSERT_GE(anchors, 7U);
  const auto tempos = song().tempo.tempos().size();
  auto* within = find<QDoubleSpinBox>("Held within");
  within->setValue(8);
  EXPECT_LT(song().tempo.tempos().size(), tempos);
  EXPECT_LE(anchorsOffMs(song()), 8.1);
  EXPECT_EQ(song().anchors->size(), anchors);
}

TEST_F(TempoSteps, MadeSteadyTheMapIsOneTempoAndTheRecordingFollows) {
  press("anchor downbeats");
  press("make steady");
  doc().jobs().finishAll();
  EXPECT_EQ(song().tempo.tempos().size(), 1U);
  EXPECT_FALSE(song().sets[0].clips->front().map.identity());
  EXPECT_TRUE(brokenRules(song()).empty());
}

TEST_F(TempoSteps, AnotherTempoIsMetByStretchingTheTake) {
  doc().tempoDesk().setMap("other", TempoMap::steady(48'000, 100));
  run("step.2");
  press("recording follows");
  find<QDoubleSpinBox>("Its tempo")->setValue(performance.map.bpmAt(Ticks{}));
  find<QDoubleSpinBox>("First downbeat")->setValue(static_cast<double>(downbeat(0).value) / 48'000);
  press("fit take");
  doc().jobs().finishAll();
  const auto& clip = song().sets[0].clips->front();
  const auto placed = clip.toSong(downbeat(0));
  const auto on = song().tempo.position(song().tempo.toTicks(placed));
  EXPECT_EQ(on.beat, 0);
  EXPECT_EQ(song().tempo.toFrames(song().tempo.barStart(on.bar)), placed);
  EXPECT_EQ(clip.toSong(downbeat(4)), song().tempo.toFrames(song().tempo.barStart(on.bar + 4)));
}

TEST_F(TempoSteps, ATakeIsFittedToARangeToTheFrame) {
  doc().selection().setRange({Frames{48'000}, Frames{48'000 + 700'001}});
  press("recording follows");
  press("fit to range");
  EXPECT_EQ(song().sets[0].clips->front().range(), doc().selection().range());
}

TEST_F(TempoSteps, ARangeThatMakesNoSenseIsSaid) {
  find<QDoubleSpinBox>("Slowest tempo")->setValue(190);
  find<QDoubleSpinBox>("Fastest tempo")->setValue(100);
  const auto before = song();
  press("listen for tempo");
  doc().jobs().finishAll();
  EXPECT_EQ(song(), before);
  bool said = false;
  for (auto* l : window->findChild<NoticeBar*>()->findChildren<QLabel*>())
    said = said || l->text().contains("slowest tempo must be below");
  EXPECT_TRUE(said);
}

TEST_F(TempoSteps, EveryTakeIsListenedToAndAllAreFittedAsOneStep) {
  press("recording follows");
  press("listen to all");
  doc().jobs().finishAll();
  auto* table = find<QTableWidget>("take tempos");
  ASSERT_TRUE(table->isVisible());
  ASSERT_EQ(table->rowCount(), static_cast<int>(song().sets.size()));
  EXPECT_TRUE(table->item(0, 1)->text().contains("BPM")) << table->item(0, 1)->text().toStdString();
  // Settled by hand: 100 BPM from its beginning, in a song of 120.
  desk().setSource(doc().selection().set(), {100, Frames{24'000}});
  EXPECT_EQ(find<QDoubleSpinBox>("Its tempo")->value(), 100);
  const auto before = song();
  press("fit all");
  doc().jobs().finishAll();
  const auto& clip = song().sets.front().clips->front();
  EXPECT_FALSE(clip.map.identity());
  const double beat =
      static_cast<double>((clip.toSong(Frames{24'000 + 28'800 * 4}) - clip.toSong(Frames{24'000})).value);
  EXPECT_NEAR(beat, 4 * 24'000, 2);
  doc().undo();
  EXPECT_EQ(song(), before);
}

TEST_F(TempoSteps, ATakeIsFittedByDraggingItsEndOrAHit) {
  press("recording follows");
  run("view.all");
  const auto before = song();
  const auto end = before.sets.front().clips->front().end();
  // The clip's end to the bar line beyond it, to the frame.
  const int bar = song().tempo.barAt(song().tempo.toTicks(end)) + 1;
  drag({xOf(end), 40}, {xOf(line(bar)) + 2, 40});
  EXPECT_EQ(song().sets.front().clips->front().end(), line(bar));
  EXPECT_EQ(song().sets.front().clips->front().start, before.sets.front().clips->front().start);
  doc().undo();
  EXPECT_EQ(song(), before);
  // A hit dragged freely: everything before it gives way in proportion.
  ASSERT_GT(doc().timingDesk().planned().hits.size(), 20U);
  const auto hit = doc().timingDesk().planned().hits[20];
  const QPointF mark(xOf(hit.home), window->lanes().layout().laneBox(0).top() + 4.5);
  drag(mark, mark + QPointF(12, 0), Qt::ShiftModifier);
  const auto& clip = song().sets.front().clips->front();
  EXPECT_GT(clip.toSong(hit.hit.at), hit.home);
  EXPECT_GT(clip.length, before.sets.front().clips->front().length);
}

TEST_F(TempoSteps, AFitBySlicesOrAsATapeIsChosenBesideTheButton) {
  ASSERT_TRUE(run("take.usetempo"));
  doc().tempoDesk().setMap("faster", TempoMap::steady(48'000, song().tempo.bpmAt(Ticks{}) * 1.1));
  doc().jobs().finishAll();
  press("recording follows");
  auto* manner = find<QComboBox>("fit manner");
  const auto before = song();
  manner->setCurrentIndex(2);
  press("fit take");
  doc().jobs().finishAll();
  const auto& slices = *song().sets.front().clips;
  EXPECT_GT(slices.size(), 4U);
  for (const auto& c : slices) EXPECT_TRUE(c.map.identity());
  run("edit.undo");
  manner->setCurrentIndex(1);
  press("fit take");
  doc().jobs().finishAll();
  const auto& tape = song().sets.front().clips->front();
  EXPECT_EQ(song().methodOf(song().sets.front(), tape), StretchMethod::tape);
  run("edit.undo");
  EXPECT_EQ(song().sets, before.sets);
}

TEST_F(TempoSteps, ATempoTakenOverInDoubtIsListedAndItsOtherReadingIsOnePress) {
  // Even strokes: nothing tells where a bar begins.
  std::vector<float> clicks(48'000 * 24, 0.0F);
  for (std::size_t b = 0; b < 44; ++b)
    for (std::size_t i = 0; i < 2'000; ++i)
      clicks[33'600 + b * 24'000 + i] = (i % 7 < 3 ? 0.5F : -0.5F) * std::exp(-static_cast<float>(i) / 300);
  const auto file = scratch / "clicks.wav";
  test::writeWav(file, clicks);
  doc().files().newSong();
  window->takeIn(QStringList{QString::fromStdString(file.string())}, false);
  doc().jobs().finishAll();
  ASSERT_TRUE(run("take.usetempo"));
  const auto listed = [&] {
    std::vector<Check> out;
    for (const auto& c : doc().attention().checks())
      if (groupOf(c.kind) == CheckGroup::tempo) out.push_back(c);
    return out;
  };
  const auto found = listed();
  const auto bars = std::find_if(found.begin(), found.end(), [](auto& c) { return c.kind == CheckKind::unsureBars; });
  ASSERT_NE(bars, found.end());
  const auto was = song().tempo.origin();
  ASSERT_TRUE(doc().edit("other", fixCheck(song(), bars->set, *bars, doc().pool())));
  EXPECT_NE(song().tempo.origin(), was);
  EXPECT_TRUE(listed().empty());
  run("edit.undo");
  for (auto left = found.size(); left > 0; --left) doc().attention().accept(listed().at(0));
  EXPECT_TRUE(listed().empty());
  EXPECT_EQ(song().tempo.origin(), was);
}

// The free performance of the demo folder
// ------------------------------------------------------------------------------

TEST_F(TempoSteps, APieceWithoutAClickGetsItsBarsInThreeActions) {
  doc().files().newSong();
  const auto folder = QStringLiteral(OCHRON_SOURCE_DIR "/demo/free/");
  window->takeIn({folder + "Piano.flac", folder + "Bass.flac"}, false);
  doc().jobs().finishAll();
  ASSERT_TRUE(desk().heard());
  EXPECT_FALSE(desk().heard()->tempo.steady);
  EXPECT_EQ(desk().heard()->tempo.meter, (Meter{3, 4}));
  EXPECT_TRUE(find<QLabel>("bars heard")->text().startsWith("Bars of 3/4,"));
  ASSERT_TRUE(run("take.usetempo"));
  press("anchor downbeats");
  EXPECT_GE(song().anchors->size(), 24U);
  EXPECT_EQ(song().tempo.meterOfBar(4), (Meter{3, 4}));
  // The piece breathes: the fastest bar is a good deal faster than the slowest, but for the last ones.
  double slowest = 1e9;
  double fastest = 0;
  for (int bar = 1; bar < 22; ++bar) {
    const auto length = static_cast<double>((line(bar + 1) - line(bar)).value);
    slowest = std::min(slowest, 60.0 * 48'000 * 3 / length);
    fastest = std::max(fastest, 60.0 * 48'000 * 3 / length);
  }
  EXPECT_GT(fastest / slowest, 1.06);
  EXPECT_LT(fastest / slowest, 1.25);
}

// Meter and song speed ------------------------------------------------------------------------------------------------

struct MetersAndSpeed : TempoSteps {
  void SetUp() override {
    QSettings().clear();
    TempoSteps::SetUp();
    for (const char* name : {"fold/meter", "fold/song speed"}) QSettings().setValue(name, true);
    ASSERT_TRUE(run("take.usetempo"));
    doc().jobs().finishAll();
  }
};

TEST_F(MetersAndSpeed, AMeterIsSetForABarOrFromItOnAndNothingMoves) {
  const auto clips = song().sets.front().clips;
  doc().transport().setCursor(line(2));
  auto* meter = find<QComboBox>("meter");
  meter->setCurrentText("7/8");
  find<QAbstractButton>("meter of bar")->click();
  EXPECT_EQ(song().tempo.meterOfBar(2), (Meter{7, 8}));
  EXPECT_EQ(song().tempo.meterOfBar(3), (Meter{4, 4}));
  meter->setCurrentText("3/4");
  find<QAbstractButton>("meter from here")->click();
  EXPECT_EQ(song().tempo.meterOfBar(5), (Meter{3, 4}));
  meter->setCurrentText("3 of 4");
  const auto before = song();
  find<QAbstractButton>("meter from here")->click();
  EXPECT_EQ(song(), before);
  EXPECT_TRUE(status().contains("7/8")) << "it says how a meter is written";
  EXPECT_EQ(song().sets.front().clips, clips);
  run("edit.undo");
  run("edit.undo");
  EXPECT_EQ(song().tempo.meters().size(), 1U);
}

TEST_F(MetersAndSpeed, ASpeedIsTypedInAnyUnitHeardAndExportedOnceOrNotAtAll) {
  const FrameRange range{Frames{}, Frames{4 * 48'000}};
  const auto plain = exported(range).size();
  auto* unit = find<QComboBox>("speed unit");
  auto* value = find<QDoubleSpinBox>("song speed");
  const auto type = [&](int index, double v) {
    unit->setCurrentIndex(index);
    QMetaObject::invokeMethod(unit, "activated", Q_ARG(int, index));
    value->setValue(v);
    doc().jobs().finishAll();
  };
  type(0, 80);
  EXPECT_NEAR(static_cast<double>(exported(range).size()), static_cast<double>(plain) / 0.8, 2);
  type(2, 12);
  EXPECT_NEAR(song().speedEnvelope->front().value, 200, 1e-6);
  type(4, 432);
  EXPECT_NEAR(song().speedEnvelope->front().value, 100 * 432.0 / 440, 1e-6);
  type(0, 80);
  auto* pitch = find<QComboBox>("speed pitch");
  QMetaObject::invokeMethod(pitch, "activated", Q_ARG(int, 1));
  EXPECT_TRUE(song().speedManner.keepsPitch);
  EXPECT_EQ(exported(range).size(), static_cast<std::size_t>(std::llround(static_cast<double>(plain) / 0.8)));
  run("transport.play");
  EXPECT_TRUE(hear(Frames{9'600}));
  doc().transport().playStop();
  find<QAbstractButton>("speed exported")->click();
  EXPECT_EQ(exported(range).size(), plain) << "only heard";
  // A chosen range alone.
  doc().selection().setRange({Frames{48'000}, Frames{2 * 48'000}});
  type(0, 100);
  EXPECT_GT(song().speedEnvelope->size(), 2U);
  EXPECT_NEAR(valueAt(*song().speedEnvelope, Frames{72'000}, 100), 100, 1e-9);
  EXPECT_NEAR(valueAt(*song().speedEnvelope, Frames{120'000}, 100), 80, 1e-9);
}

TEST_F(MetersAndSpeed, AnExportHasItsClickAndItsMidiFileBesideIt) {
  ExportSettings s;
  s.range = {Frames{}, Frames{4 * 48'000}};
  s.click = true;
  s.midi = true;
  doc().printDesk().exportTo(s, scratch / "song.wav");
  doc().jobs().finishAll();
  const auto click = AudioFileReader::open(scratch / "song click.wav");
  ASSERT_TRUE(click);
  EXPECT_EQ(click->info().length, s.range.length());
  EXPECT_GT(std::filesystem::file_size(scratch / "song map.mid"), 100U);
}

}  // namespace
}  // namespace ochron
