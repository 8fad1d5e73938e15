// "This": what Delete, nudges, the menu key and the question where one is mean, in every step.

#include <QMenu>

#include "actions/this_menu.h"
#include "app/window_fixture.h"
#include "document/clip_desk.h"
#include "document/pin_desk.h"
#include "document/seam_desk.h"
#include "document/this_desk.h"
#include "edits/mark_edits.h"
#include "lanes/lanes_view.h"

namespace ochron {
namespace {

using Thing = Selection::Thing;

struct This : test::SlicedWindow {
  Selection& selection() { return doc().selection(); }
  const ClipList& clips() { return *doc().song().find(selection().set())->clips; }
  const PlannedHit& planned(std::size_t i) { return doc().timingDesk().planned().hits[i]; }
  void chooseHit(std::size_t i) { selection().chooseHit(HitRef{planned(i).take, planned(i).hit.id}); }
  MarkerId addMarker() {
    EXPECT_TRUE(doc().edit("marker", ochron::addMarker(doc().song(), Ticks{kTicksPerQuarter * 4}, Ticks{0}, "verse")));
    return doc().song().markers.back().id;
  }
  Frames frames(double ms) { return framesFromMs(ms, doc().song().rate); }
};

TEST_F(This, AHitIsMeantUntilSomethingElseIsChosenAndARangeLast) {
  EXPECT_FALSE(selection().meant());
  selection().setRange({Frames{0}, Frames{48'000}});
  EXPECT_EQ(selection().meant(), Thing::range);
  chooseHit(5);
  EXPECT_EQ(selection().meant(), Thing::hit);
  selection().choose({clips()[2].id});
  EXPECT_EQ(selection().meant(), Thing::clips);
  EXPECT_EQ(selection().meant(Thing::hit | Thing::range), Thing::hit) << "what else a command can mean";
  selection().chooseMarker(addMarker());
  EXPECT_EQ(selection().meant(), Thing::marker);
  ASSERT_TRUE(run("edit.norange"));
  EXPECT_FALSE(selection().meant());
}

TEST_F(This, ASeamIsMeantOnlyWhereSeamsAreWorkedOn) {
  selection().chooseSeam(clips()[8].id);
  doc().setStep(Step::timing);
  EXPECT_EQ(selection().meant(), Thing::hit) << "the one its piece begins with";
  doc().setStep(Step::seams);
  EXPECT_EQ(selection().meant(), Thing::seam);
}

TEST_F(This, NudgingInTheHitsStepMovesTheOnset) {
  doc().setStep(Step::hits);
  chooseHit(5);
  const auto was = planned(5).hit.at;
  ASSERT_TRUE(run("this.mslater"));
  EXPECT_EQ(selection().plannedHit()->hit.at, was + frames(doc().clipDesk().settings().nudgeMs));
  doc().undo();
  EXPECT_EQ(planned(5).hit.at, was);
}

TEST_F(This, NudgingInTheTimingStepMovesWhereTheHitGoesAndLeavesItsOnset) {
  doc().setStep(Step::timing);
  chooseHit(5);
  const auto at = planned(5).hit.at;
  const auto now = planned(5).now;
  ASSERT_TRUE(run("this.msearlier"));
  EXPECT_EQ(selection().plannedHit()->hit.at, at);
  EXPECT_NEAR(static_cast<double>((selection().plannedHit()->now - now).value),
              static_cast<double>(-frames(doc().clipDesk().settings().nudgeMs).value), 2);
}

TEST_F(This, NudgingASeamKeepsItWithinItsRoomAndDeleteGivesItBack) {
  doc().setStep(Step::seams);
  selection().chooseSeam(clips()[8].id);
  const auto was = selection().seamClip()->start;
  ASSERT_TRUE(run("this.finelater"));
  EXPECT_EQ(selection().seamClip()->start, was + Frames{1});
  doc().thisDesk().nudge(frames(10'000));
  const auto room = seamRoom(doc().song(), selection().set(), selection().seamClip()->id);
  EXPECT_LE(selection().seamClip()->start, room.end);
  ASSERT_TRUE(run("edit.delete"));
  EXPECT_EQ(selection().seamClip()->start, was);
}

TEST_F(This, MarkersSpansAndPointsAreNudgedByTheGrid) {
  const auto marker = addMarker();
  selection().chooseMarker(marker);
  const auto was = doc().song().find(marker)->at;
  ASSERT_TRUE(run("this.gridlater"));
  EXPECT_EQ(doc().song().find(marker)->at, was + doc().timingDesk().settings().grid.step());
  const auto& tracks = doc().song().tracks;
  const auto line = doc().song().tempo.toFrames(Ticks{kTicksPerQuarter * 8});
  ASSERT_TRUE(doc().edit("span", addSpan(doc().song(), {tracks[0].id}, {line, line + frames(100)}, "")));
  const auto span = doc().song().spans.back().id;
  selection().chooseSpan(span);
  ASSERT_TRUE(run("this.gridearlier"));
  EXPECT_EQ(doc().song().find(span)->range.start,
            doc().song().tempo.toFrames(Ticks{kTicksPerQuarter * 8} - doc().timingDesk().settings().grid.step()));
  EXPECT_EQ(doc().song().find(span)->range.length(), frames(100));
  const EnvelopeRef gain{EnvelopeKind::songGain, {}, {}};
  ASSERT_TRUE(doc().edit("gain", setEnvelope(doc().song(), gain, {{line, -3, 0}, {line + Frames{50}, 0, 0}})));
  selection().choosePoint(PointRef{gain, line});
  ASSERT_TRUE(run("this.gridlater"));
  EXPECT_EQ(selection().point()->at, line + Frames{49}) << "a point does not pass its neighbour";
}

TEST_F(This, DeleteTakesWhatIsMeantAndUndoBringsItBack) {
  const auto marker = addMarker();
  selection().chooseMarker(marker);
  const auto before = doc().song();
  ASSERT_TRUE(run("edit.delete"));
  EXPECT_EQ(doc().song().find(marker), nullptr);
  EXPECT_FALSE(run("edit.delete")) << "nothing is chosen any more";
  doc().undo();
  EXPECT_EQ(doc().song(), before);
  selection().setRange({Frames{0}, frames(500)});
  doc().setStep(Step::timing);
  EXPECT_FALSE(run("edit.delete")) << "a range is cut out in the Clips step only";
}

TEST_F(This, IsSaidInWords) {
  EXPECT_TRUE(doc().thisDesk().words().startsWith("Play line at bar"));
  chooseHit(5);
  ASSERT_TRUE(run("help.where"));
  EXPECT_TRUE(
      status().contains(QStringLiteral("bar %1 beat").arg(doc().song().tempo.position(planned(5).home).bar + 1)))
      << status().toStdString();
  doc().setStep(Step::seams);
  selection().chooseSeam(clips()[8].id);
  ASSERT_TRUE(until([&] { return doc().seamDesk().known(); }));
  EXPECT_TRUE(doc().thisDesk().words().startsWith("seam, bar"));
  EXPECT_TRUE(doc().thisDesk().words().contains("level")) << doc().thisDesk().words().toStdString();
  selection().choose({clips()[2].id, clips()[3].id});
  EXPECT_TRUE(doc().thisDesk().words().contains("clip 3, bar"));
  EXPECT_TRUE(doc().thisDesk().words().endsWith("and 1 more"));
}

TEST_F(This, StepsThroughWhatTheOpenStepIsAboutByTheSameKeys) {
  doc().transport().setCursor(Frames{0});
  doc().setStep(Step::clips);
  QTest::keyClick(&window->lanes(), Qt::Key_Period);
  ASSERT_EQ(selection().clips(), ClipIds{clips()[0].id});
  QTest::keyClick(&window->lanes(), Qt::Key_Period);
  EXPECT_EQ(selection().clips(), ClipIds{clips()[1].id});
  EXPECT_EQ(doc().transport().cursor(), clips()[1].start);
  ASSERT_TRUE(run("this.andnext"));
  EXPECT_EQ(selection().clips(), (ClipIds{clips()[1].id, clips()[2].id})) << "it is chosen, too";
  ASSERT_TRUE(run("this.last"));
  EXPECT_EQ(selection().clips(), ClipIds{clips().back().id});
  ASSERT_TRUE(run("this.next"));
  EXPECT_EQ(status(), "There is nothing further in this direction.");
  doc().setStep(Step::hits);
  selection().chooseNothing();
  ASSERT_TRUE(run("this.first"));
  ASSERT_TRUE(selection().hit());
  EXPECT_EQ(selection().hit()->hit, planned(0).hit.id);
  doc().setStep(Step::seams);
  ASSERT_TRUE(run("this.next"));
  EXPECT_EQ(selection().meant(), Thing::seam);
  const auto seam = *selection().seam();
  ASSERT_TRUE(run("this.next"));
  ASSERT_TRUE(run("this.previous"));
  EXPECT_EQ(selection().seam(), seam);
}

TEST_F(This, OfMarkersAndPointsTheNextIsOneOfItsKind) {
  const auto first = addMarker();
  ASSERT_TRUE(doc().edit("marker", ochron::addMarker(doc().song(), Ticks{kTicksPerQuarter * 12}, Ticks{0}, "chorus")));
  const auto second = doc().song().markers.back().id;
  doc().setStep(Step::clips);
  selection().chooseMarker(first);
  ASSERT_TRUE(run("this.next"));
  EXPECT_EQ(selection().marker(), second);
  const EnvelopeRef gain{EnvelopeKind::songGain, {}, {}};
  ASSERT_TRUE(doc().edit("gain", setEnvelope(doc().song(), gain, {{Frames{100}, -6, 0}, {Frames{90'000}, 0, 0}})));
  selection().choosePoint(PointRef{gain, Frames{100}});
  const double was = envelopeOf(doc().song(), gain)->front().value;
  ASSERT_TRUE(run("this.up"));
  EXPECT_GT(envelopeOf(doc().song(), gain)->front().value, was);
  ASSERT_TRUE(run("this.next"));
  EXPECT_EQ(selection().point()->at, Frames{90'000});
}

TEST_F(This, ClipsAreMadeLouderAndGoToAnotherSetByKey) {
  auto s = doc().timingDesk().settings();
  s.on = false;
  doc().timingDesk().setSettings("off", s);
  window->takeIn({files[1]}, false);
  doc().jobs().finishAll();
  ASSERT_EQ(doc().song().sets.size(), 2U);
  doc().setStep(Step::clips);
  const auto lone = doc().song().sets[1];
  const auto id = lone.clips->front().id;
  selection().choose({id});
  ASSERT_TRUE(run("this.up"));
  ASSERT_TRUE(run("this.up"));
  EXPECT_DOUBLE_EQ(doc().song().find(id)->gainDb, 1.0);
  ASSERT_TRUE(run("this.setbelow") || run("this.setabove"));
  EXPECT_EQ(doc().song().setOf(id)->id, lone.id) << "a take of one mic has no place on a set of four";
  EXPECT_TRUE(find<QLabel>("status")->styleSheet().contains("color")) << "what was refused is marked";
  ASSERT_TRUE(run("help.where"));
  EXPECT_TRUE(find<QLabel>("status")->styleSheet().isEmpty());
  window->takeIn({files[2]}, false);
  doc().jobs().finishAll();
  ASSERT_EQ(doc().song().sets.size(), 3U);
  const auto third = doc().song().sets[2];
  const auto last = third.clips->front().id;
  selection().choose({last});
  ASSERT_TRUE(run("this.setabove"));
  EXPECT_EQ(doc().song().setOf(last)->id, lone.id) << "from one set of a mic to the other";
  ASSERT_TRUE(run("this.setbelow"));
  EXPECT_EQ(doc().song().setOf(last)->id, third.id);
}

TEST_F(This, HasAMenuOfCommandsThatThereAreByPointerAndByKey) {
  for (unsigned bit = 1; bit <= unsigned(Thing::range); bit <<= 1)
    for (const std::string_view id : menuOf(static_cast<Thing>(bit)))
      EXPECT_TRUE(id == "-" || window->actions().action(QString::fromUtf8(id.data()))) << id;
  QStringList shown;
  const auto note = [&shown](QMenu* menu) {
    for (auto* a : menu->actions()) shown << a->text();
    menu->close();
  };
  const auto ask = [&](QContextMenuEvent::Reason reason, QPointF at) {
    shown.clear();
    QTimer::singleShot(50, window.get(), [note] {
      if (auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget())) note(menu);
    });
    auto& lanes = window->lanes();
    QContextMenuEvent event(reason, at.toPoint(), lanes.mapToGlobal(at.toPoint()));
    QApplication::sendEvent(&lanes, &event);
    return shown;
  };
  doc().setStep(Step::hits);
  chooseHit(5);
  EXPECT_TRUE(ask(QContextMenuEvent::Keyboard, {}).contains("Remove hit"));
  doc().setStep(Step::clips);
  window->view().show(0, 60);
  const auto& clip = clips()[2];
  const QPointF middle(window->view().xOf(clip.start + clip.length / 2),
                       window->lanes().layout().laneBox(0).center().y());
  EXPECT_TRUE(ask(QContextMenuEvent::Mouse, middle).contains("Bundle"));
  EXPECT_TRUE(selection().isChosen(clip.id)) << "what is asked about is chosen";
}

}  // namespace
}  // namespace ochron
