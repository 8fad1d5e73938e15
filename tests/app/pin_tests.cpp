// Stretching by hand in the window: hits and pins dragged, typed, nudged and taken away; neighbours hold.

#include <QAbstractButton>
#include <QLineEdit>
#include <atomic>
#include <cmath>
#include <set>

#include "app/window_fixture.h"
#include "document/attention.h"
#include "document/clip_desk.h"
#include "document/pin_desk.h"
#include "document/round_desk.h"
#include "document/seam_desk.h"
#include "document/selection.h"
#include "document/sounding.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "edits/arrange.h"
#include "edits/clip_edits.h"
#include "edits/stretch_edits.h"
#include "lanes/lanes_view.h"
#include "render/render.h"

namespace ochron {
namespace {

struct Pins : test::Window {
  void SetUp() override {
    Window::SetUp();
    import();
    setPlan(false);
    doc().setStep(Step::timing);
    window->view().show(20'000, 60);
    doc().jobs().finishAll();
  }
  void setPlan(bool on, TimingMethod method = TimingMethod::slices) {
    auto s = doc().timingDesk().settings();
    s.on = on;
    s.method = method;
    doc().timingDesk().setSettings("plan", s);
    doc().jobs().finishAll();
  }
  PinDesk& desk() { return doc().pinDesk(); }
  const ClipList& clips() { return *doc().song().find(doc().selection().set())->clips; }
  HitList hits() {
    const auto& set = *doc().song().find(doc().selection().set());
    return activeHits(*doc().song().hitsOf(clips().front().take, set.id), set.hits, doc().song().rate);
  }
  std::optional<Frames> at(Frames take) {
    for (const auto& c : clips())
      if (c.played().contains(take)) return c.toSong(take);
    return {};
  }
  double xOf(Frames f) { return window->view().xOf(f); }
  QPointF markOf(Frames song) { return {xOf(song), window->lanes().layout().laneBox(0).top() + 4.5}; }
  QPointF pinOf(Frames song) { return {xOf(song), window->lanes().layout().laneBox(0).center().y()}; }
};

TEST_F(Pins, OneLateNoteIsDraggedAndItsNeighboursStayToTheFrame) {
  const auto was = hits();
  const auto before = exported({Frames{}, Frames{17 * 48'000}});
  const auto note = was[4].at;
  const auto from = markOf(*at(note));
  const auto to = from + QPointF(-20, 0);
  drag(&window->lanes(), from, to, Qt::ShiftModifier, false);
  EXPECT_TRUE(status().contains("neighbours hold")) << status().toStdString();
  QTest::mouseRelease(&window->lanes(), Qt::LeftButton, Qt::ShiftModifier, to.toPoint());
  doc().jobs().finishAll();
  const auto moved = *at(note) - note;
  EXPECT_NEAR(static_cast<double>(moved.value), -20 * 60, 61);
  for (const auto& h : was)
    if (h.at != note) EXPECT_EQ(at(h.at), h.at);
  const auto after = exported({Frames{}, Frames{17 * 48'000}});
  ASSERT_EQ(after.size(), before.size());
  for (std::size_t i = 0; i < after.size(); ++i) {
    const Frames f{static_cast<std::int64_t>(i)};
    if (f > was[3].at && f < was[5].at) continue;
    ASSERT_EQ(after[i], before[i]) << i;
  }
  doc().undo();
  EXPECT_EQ(at(note), note);
}

TEST_F(Pins, TheJointOfStretchedPiecesIsMeasuredOnceItsSoundIsMade) {
  const auto set = doc().selection().set();
  ASSERT_TRUE(doc().edit("Stretch", stretchAtHits(doc().song(), clips().front().id, 1.2)));
  const auto middle = clips().front().start + Frames{3 * 48'000};
  ASSERT_TRUE(doc().edit("Cut", splitAt(doc().song(), set, {middle}, Frames{480})));
  const auto later = std::find_if(clips().begin(), clips().end(), [&](const Clip& c) { return c.start == middle; })->id;
  doc().jobs().finishAll();
  ASSERT_TRUE(doc().seamDesk().measures().contains(later));
  EXPECT_EQ(doc().seamDesk().measures().at(later).levelDb, 0) << "a cut that was left alone";
  ASSERT_TRUE(doc().edit("Slip", slipClips(doc().song(), {later}, Frames{1'111})));
  doc().jobs().finishAll();
  ASSERT_TRUE(doc().seamDesk().measures().contains(later));
  EXPECT_NE(doc().seamDesk().measures().at(later).levelDb, 0) << "other sound meets there";
  EXPECT_EQ(worstOf(doc().seamDesk().micsAt(later)), doc().seamDesk().measures().at(later))
      << "the loupe says the same";
  ASSERT_TRUE(doc().edit("Slip", slipClips(doc().song(), {later}, Frames{2'000})));
  EXPECT_NE(worstOf(doc().seamDesk().micsAt(later)), doc().seamDesk().measures().at(later))
      << "at once, not when all is";
  doc().jobs().finishAll();
  EXPECT_EQ(worstOf(doc().seamDesk().micsAt(later)), doc().seamDesk().measures().at(later));
}

TEST_F(Pins, WithKeysWhatFollowsComesAlongOrAllGivesWay) {
  const auto was = hits();
  const auto from = markOf(was[4].at);
  drag(&window->lanes(), from, from + QPointF(20, 0), Qt::ShiftModifier | Qt::AltModifier);
  const auto by = *at(was[4].at) - was[4].at;
  EXPECT_GT(by.value, 1000);
  EXPECT_EQ(*at(was[9].at), was[9].at + by);
  EXPECT_EQ(*at(was[2].at), was[2].at);
  doc().undo();
  const auto again = markOf(was[4].at);
  drag(&window->lanes(), again, again + QPointF(20, 0), Qt::ShiftModifier | Qt::ControlModifier);
  EXPECT_GT(at(was[2].at)->value, was[2].at.value) << status().toStdString();
  EXPECT_LT(at(was[2].at)->value, was[2].at.value + by.value);
  EXPECT_EQ(clips().back().end(), clips().front().start + clips().front().length);
}

TEST_F(Pins, EscapeTakesADragBack) {
  const auto before = doc().song();
  const auto from = markOf(hits()[4].at);
  drag(&window->lanes(), from, from + QPointF(30, 0), Qt::ShiftModifier, false);
  EXPECT_NE(doc().song(), before);
  QTest::keyClick(&window->lanes(), Qt::Key_Escape);
  EXPECT_EQ(doc().song(), before);
  EXPECT_TRUE(doc().selection().pins().empty()) << "what is no pin any more is not chosen";
}

TEST_F(Pins, ANoteIsMadeLongerByAPinInItThatIsDraggedTypedAndTakenAway) {
  const auto was = hits();
  const Frames middle{(was[4].at.value + was[5].at.value) / 2};
  QTest::mouseDClick(&window->lanes(), Qt::LeftButton, {}, QPoint(static_cast<int>(xOf(middle)), 40));
  ASSERT_EQ(doc().selection().pins().size(), 1U);
  const auto take = doc().selection().pins().front().take;
  EXPECT_NEAR(static_cast<double>(take.value), static_cast<double>(middle.value), 61);
  EXPECT_EQ(at(take), take);
  drag(&window->lanes(), pinOf(take), pinOf(take) + QPointF(15, 0), Qt::ShiftModifier);
  EXPECT_NEAR(static_cast<double>((*at(take) - take).value), 15 * 60, 61);
  for (const auto& h : was) EXPECT_EQ(at(h.at), h.at);
  // Typed: 10 ms further.
  const auto there = *at(take);
  auto* field = find<QLineEdit>("pin place");
  ASSERT_TRUE(field->isVisible());
  field->setFocus();
  field->selectAll();
  QTest::keyClicks(field, "+10 ms");
  QTest::keyClick(field, Qt::Key_Return);
  EXPECT_EQ(*at(take), there + Frames{480});
  window->lanes().setFocus();
  ASSERT_TRUE(run("this.fineearlier"));
  EXPECT_EQ(*at(take), there + Frames{479});
  // All its pins away: the recording as it was.
  ASSERT_TRUE(run("pins.removeall"));
  EXPECT_EQ(at(take), take);
  EXPECT_TRUE(doc().selection().pins().empty());
  EXPECT_TRUE(clips().front().map.identity());
}

TEST_F(Pins, TheLimitIsWarnedOfBeforeTheMouseIsReleasedAndThenListed) {
  const auto was = hits();
  const auto gap = was[5].at - was[4].at;
  const auto from = markOf(was[4].at);
  const double most = static_cast<double>(gap.value) / 60 * 0.7;
  drag(&window->lanes(), from, from + QPointF(most, 0), Qt::ShiftModifier, false);
  EXPECT_TRUE(status().contains("beyond the limit")) << status().toStdString();
  QTest::mouseRelease(&window->lanes(), Qt::LeftButton, Qt::ShiftModifier, (from + QPointF(most, 0)).toPoint());
  doc().jobs().finishAll();
  const auto& checks = doc().attention().checks();
  EXPECT_TRUE(std::any_of(checks.begin(), checks.end(), [](const Check& c) {
    return c.kind == CheckKind::tooMuchStretch ||
           std::find(c.also.begin(), c.also.end(), CheckKind::tooMuchStretch) != c.also.end();
  }));
}

TEST_F(Pins, StayTheUsersThroughThePlansChanges) {
  for (const auto method : {TimingMethod::slices, TimingMethod::stretch}) {
    setPlan(true, method);
    const auto was = hits();
    const Frames middle{(was[4].at.value + was[5].at.value) / 2};
    const auto planned = *at(middle);
    doc().transport().setCursor(planned);
    ASSERT_TRUE(run("pins.add"));
    ASSERT_EQ(doc().selection().pins().size(), 1U);
    const auto take = doc().selection().pins().front().take;
    const auto from = pinOf(*at(take));
    drag(&window->lanes(), from, from + QPointF(10, 0), Qt::ShiftModifier);
    const auto put = *at(take);
    EXPECT_GT((put - planned).value, 400);
    auto s = doc().timingDesk().settings();
    s.strength = 30;
    doc().timingDesk().setSettings("less", s);
    EXPECT_GE(handPins(*doc().song().find(doc().selection().pins().front().clip)).size(), 2U);
    s.strength = 100;
    doc().timingDesk().setSettings("all", s);
    EXPECT_EQ(*at(take), put);
    for (const auto& h : doc().timingDesk().planned().hits)
      if (h.line && !h.limited) EXPECT_EQ(h.to(), h.line->frame);
    ASSERT_TRUE(run("pins.removeall"));
    EXPECT_EQ(at(middle), planned);
  }
}

TEST_F(Pins, SeveralAreChosenAndMovedTogetherByKeys) {
  const auto was = hits();
  for (const int i : {3, 6}) {
    doc().transport().setCursor(was[static_cast<std::size_t>(i)].at);
    ASSERT_TRUE(run("pins.add"));
  }
  click(&window->lanes(), pinOf(was[3].at));
  ASSERT_EQ(doc().selection().pins().size(), 1U);
  QTest::mouseClick(&window->lanes(), Qt::LeftButton, Qt::ControlModifier, pinOf(was[6].at).toPoint());
  ASSERT_EQ(doc().selection().pins().size(), 2U);
  auto hand = doc().clipDesk().settings();
  hand.nudgeMs = 1;
  doc().clipDesk().setSettings(hand);
  for (int i = 0; i < 5; ++i) ASSERT_TRUE(run("this.mslater"));
  EXPECT_EQ(*at(was[3].at), was[3].at + Frames{240});
  EXPECT_EQ(*at(was[6].at), was[6].at + Frames{240});
  EXPECT_EQ(*at(was[5].at), was[5].at);
  ASSERT_TRUE(run("edit.delete"));
  EXPECT_EQ(*at(was[3].at), was[3].at);
  EXPECT_EQ(*at(was[6].at), was[6].at);
}

TEST_F(Pins, WhileTheSongPlaysADragIsHeardBeforeItIsLetGo) {
  const auto hit = hits().at(2).at;
  const auto before = doc().sounding().playPlan();
  run("transport.play");
  ASSERT_TRUE(until([&] { return playing(); }));
  const auto from = markOf(*at(hit));
  drag(&window->lanes(), from, from + QPointF(12, 0), Qt::ShiftModifier, false);
  const auto dragged = *at(hit);
  ASSERT_GT(dragged, hit);
  const auto shown = doc().song().find(doc().selection().set())->clips;
  ASSERT_TRUE(until([&] { return doc().sounding().playPlan()->edited.tracks.front().clips == shown; }));
  const auto heard = doc().sounding().playPlan();
  EXPECT_EQ(heard->original.tracks.front().clips, before->original.tracks.front().clips);
  QTest::keyClick(&window->lanes(), Qt::Key_Escape);
  doc().jobs().finishAll();
  EXPECT_EQ(doc().sounding().playPlan()->edited.tracks.front().clips, before->edited.tracks.front().clips);
  doc().transport().playStop();
}

TEST_F(Pins, WhileNothingPlaysADragCompilesNothing) {
  const auto hit = hits().at(2).at;
  const auto before = doc().sounding().playPlan();
  const auto from = markOf(*at(hit));
  drag(&window->lanes(), from, from + QPointF(12, 0), Qt::ShiftModifier, false);
  doc().jobs().finishAll();
  EXPECT_EQ(doc().sounding().playPlan(), before);
  QTest::keyClick(&window->lanes(), Qt::Key_Escape);
}

// Going round the ways of stretching ----------------------------------------------------------------------------------

struct Round : Pins {
  void SetUp() override {
    Pins::SetUp();
    const auto second = hits().at(2).at;
    const auto next = movePins(doc().song(), clips().front().id, {second}, Frames{1'500}, PinReach::neighbours);
    ASSERT_TRUE(doc().edit("pin", next));
    doc().selection().setRange({*at(second) - Frames{24'000}, *at(second) + Frames{48'000}});
    doc().jobs().finishAll();
  }
  RoundDesk& round() { return doc().roundDesk(); }
  /// What plays now.
  std::vector<float> heardPlan() {
    std::vector<float> left(48'000);
    std::vector<float> right(left.size());
    std::vector<float> room(left.size());
    const auto plan = played();
    addMix(plan->edited, doc().selection().range().start, left, right, room, {});
    return left;
  }
  std::shared_ptr<const PlayPlan> played() {
    return doc().sounding().heardInstead() ? doc().sounding().heardInstead() : doc().sounding().playPlan();
  }
};

TEST_F(Round, EachWayIsHeardInTurnAndNothingIsChanged) {
  const auto before = doc().song();
  const auto whole = heardPlan();
  std::set<std::vector<float>> heard;
  std::set<StretchMethod> ways;
  for (std::size_t i = 0; i < kStretchMethodNames.size(); ++i) {
    run("stretch.round");
    doc().jobs().finishAll();
    QTest::qWait(0);
    ASSERT_TRUE(round().going());
    ASSERT_FALSE(round().waits());
    ways.insert(round().method());
    heard.insert(heardPlan());
  }
  EXPECT_EQ(ways.size(), 4U);
  EXPECT_GE(heard.size(), 3U) << "each sounds its own way; on a kit single notes and chords are one";
  EXPECT_EQ(doc().song(), before);
  EXPECT_TRUE(hear(Frames{4'800})) << "it plays";
  run("edit.norange");
  EXPECT_FALSE(round().going());
  EXPECT_EQ(heardPlan(), whole);
  EXPECT_EQ(doc().song(), before);
  doc().transport().playStop();
}

TEST_F(Round, WhatIsKeptIsTheSetsWayFromThenOn) {
  run("stretch.round");
  run("stretch.round");
  doc().jobs().finishAll();
  QTest::qWait(0);
  const auto way = round().method();
  QTest::mouseClick(find<QAbstractButton>("keep round"), Qt::LeftButton);
  doc().jobs().finishAll();
  EXPECT_FALSE(round().going());
  EXPECT_EQ(doc().song().find(doc().selection().set())->method, way);
  run("edit.undo");
  EXPECT_FALSE(doc().song().find(doc().selection().set())->method);
  doc().transport().playStop();
}

TEST_F(Round, CancelledWhileItIsMadeEndsAndTheSongIsHeard) {
  // All workers are busy: nothing of it is made before it is cancelled.
  std::atomic<bool> go{false};
  for (int i = 0; i < 64; ++i)
    doc().jobs().start("busy", [&](Progress&) -> Jobs::Finish {
      while (!go) QThread::msleep(1);
      return {};
    });
  run("stretch.round");
  ASSERT_TRUE(round().waits());
  doc().jobs().cancelTasks();
  go = true;
  doc().jobs().finishAll();
  EXPECT_TRUE(until([&] { return !round().going(); }));
  EXPECT_FALSE(doc().sounding().heardInstead());
}

TEST_F(Round, AnEditEndsItAndWhatIsHeardIsTheSong) {
  run("stretch.round");
  doc().jobs().finishAll();
  run("edit.undo");
  EXPECT_FALSE(round().going());
  EXPECT_FALSE(doc().sounding().heardInstead());
  run("stretch.round");
  EXPECT_FALSE(round().going()) << "nothing is stretched any more";
  doc().transport().playStop();
}

}  // namespace
}  // namespace ochron
