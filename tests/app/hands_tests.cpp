// Edits by hand in the real window: by mouse on the lanes, by key, by number.

#include <gtest/gtest.h>

#include <QCheckBox>
#include <QComboBox>
#include <QFile>
#include <QKeySequenceEdit>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QTimer>
#include <QToolButton>
#include <cmath>

#include "app/window_fixture.h"
#include "document/clip_desk.h"
#include "document/fade_library.h"
#include "document/hit_desk.h"
#include "document/selection.h"
#include "document/song_files.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "edits/clip_edits.h"
#include "edits/mark_edits.h"
#include "edits/take_edits.h"
#include "edits/tempo_edits.h"
#include "keys/key_sheet.h"
#include "lanes/lanes_view.h"
#include "lanes/ruler.h"
#include "lanes/song_row.h"
#include "panel/controls.h"
#include "time/grid.h"

namespace ochron {
namespace {

/// Two performances on the song: a kit of four mics and, beside it, two single tracks.
struct Hands : test::Window {
  void SetUp() override {
    Window::SetUp();
    window->takeIn(files, false);
    doc().jobs().finishAll();
    window->takeIn({files[0], files[1]}, false);
    doc().jobs().finishAll();
    doc().edit("tempo", setTempoMap(doc().song(), performance.map));
    doc().edit("apart", dissolveMicSet(doc().song(), doc().song().sets.back().id));
    doc().selection().chooseSet(doc().song().sets[0].id);
    run("step.6");
    auto s = doc().clipDesk().settings();
    s.snap.on = false;
    doc().clipDesk().setSettings(s);
    window->view().show(0, 600);
    doc().jobs().finishAll();
  }
  ClipDesk& desk() { return doc().clipDesk(); }
  Selection& chosen() { return doc().selection(); }
  LanesView& lanes() { return window->lanes(); }
  const MicSet& set(std::size_t i) { return doc().song().sets[i]; }
  const Clip& clip(std::size_t setIndex, std::size_t i) { return (*set(setIndex).clips)[i]; }
  /// A place on a set's first lane; `up` as part of the lane's height from its top.
  QPointF at(std::size_t setIndex, Frames f, double up = 0.5) {
    const auto box = lanes().layout().laneBox(lanes().layout().laneOf(set(setIndex).tracks.front()));
    return {window->view().xOf(f), box.top() + box.height() * up};
  }
  Frames px(double pixels) { return Frames{std::llround(pixels * window->view().framesPerPixel())}; }
  void type(const char* field, const QString& text) {
    auto* line = find<QLineEdit>(field);
    line->setFocus();
    line->selectAll();
    QTest::keyClicks(line, text);
    QTest::keyClick(line, Qt::Key_Return);
  }
  void splitAt(std::size_t setIndex, Frames f) {
    doc().edit("split", ochron::splitAt(doc().song(), set(setIndex).id, {f}, Frames{0}));
  }
};

TEST_F(Hands, DSplitsAtThePlayLineAndUndoBringsItBack) {
  const auto before = doc().song();
  click(&lanes(), at(0, Frames{100'000}));
  QTest::keyClick(&lanes(), Qt::Key_D);
  ASSERT_EQ(set(0).clips->size(), 2u);
  EXPECT_NEAR(static_cast<double>(clip(0, 1).start.value), 100'000, 700);
  run("edit.undo");
  EXPECT_EQ(doc().song(), before);
}

TEST_F(Hands, ADraggedClipMovesAllMicsByTheSameFramesAndIsOneStep) {
  splitAt(0, Frames{100'000});
  const auto before = doc().song();
  drag(&lanes(), at(0, Frames{200'000}), at(0, Frames{200'000}) + QPointF(60, 0));
  EXPECT_EQ(clip(0, 1).start, Frames{100'000} + px(60));
  EXPECT_EQ(clip(0, 1).shift(), px(60));
  run("edit.undo");
  EXPECT_EQ(doc().song(), before);
}

TEST_F(Hands, EscapeTakesADragBackAndTheStatusLineSaysWhatMoves) {
  const auto before = doc().song();
  drag(&lanes(), at(1, Frames{200'000}), at(1, Frames{200'000}) + QPointF(80, 0), {}, false);
  EXPECT_NE(doc().song(), before);
  EXPECT_TRUE(status().contains("1 clip") && status().contains("Escape")) << status().toStdString();
  QTest::keyClick(&lanes(), Qt::Key_Escape);
  EXPECT_EQ(doc().song(), before);
  QTest::mouseRelease(&lanes(), Qt::LeftButton, {}, at(1, Frames{200'000}).toPoint());
  EXPECT_EQ(doc().song(), before);
}

TEST_F(Hands, AClipGoesToAnotherTrackAndARefusalSaysWhy) {
  const auto id = clip(1, 0).id;
  drag(&lanes(), at(1, Frames{200'000}), at(2, Frames{200'000}));
  EXPECT_EQ(doc().song().setOf(id)->id, set(2).id);
  run("edit.undo");
  QStringList told;
  QObject::connect(&doc(), &Document::told, [&](const QString& s) { told << s; });
  drag(&lanes(), at(1, Frames{200'000}), at(0, Frames{200'000}), {}, false);
  EXPECT_TRUE(status().contains("as many tracks as its own")) << status().toStdString();
  QTest::keyClick(&lanes(), Qt::Key_Escape);
}

TEST_F(Hands, CtrlDragCopiesAndAltDragSlips) {
  splitAt(1, Frames{60'000});
  const auto source = clip(1, 0);
  drag(&lanes(), at(1, Frames{30'000}), at(1, Frames{330'000}), Qt::ControlModifier);
  ASSERT_EQ(chosen().clips().size(), 1u);
  const auto* copy = doc().song().find(chosen().clips().front());
  EXPECT_EQ(copy->length, source.length);
  EXPECT_EQ(copy->source, source.source);
  EXPECT_NE(copy->id, source.id);
  run("edit.undo");
  const auto second = clip(1, 1);
  drag(&lanes(), at(1, Frames{200'000}), at(1, Frames{200'000}) + QPointF(40, 0), Qt::AltModifier);
  EXPECT_EQ(clip(1, 1).range(), second.range());
  EXPECT_EQ(clip(1, 1).source, second.source - px(40));
}

TEST_F(Hands, CtrlDraggingAnEndRepeatsUpToThePointer) {
  splitAt(1, Frames{60'000});
  doc().edit("rest away", deleteClips(doc().song(), {clip(1, 1).id}));
  const auto end = at(1, Frames{60'000}, 0.7) - QPointF(2, 0);
  drag(&lanes(), end, end + QPointF(150, 0), Qt::ControlModifier);
  ASSERT_EQ(set(1).clips->size(), 3u);
  EXPECT_EQ(clip(1, 1).range(), (FrameRange{Frames{60'000}, Frames{120'000}}));
  EXPECT_EQ(clip(1, 2).end(), Frames{60'000} + px(150));
}

TEST_F(Hands, TheCornerOfABundleFadesItAsOne) {
  chosen().choose({clip(1, 0).id, clip(2, 0).id});
  run("clips.bundle");
  const auto corner = at(1, clip(1, 0).start, 0) + QPointF(4, 6);
  drag(&lanes(), corner, corner + QPointF(50, 0));
  EXPECT_EQ(doc().song().bundles.front().fadeIn.length, px(50));
  EXPECT_EQ(clip(1, 0).fadeIn, Fade{});
}

TEST_F(Hands, CrossfadesOfTheSelectionAreSetByNumber) {
  splitAt(1, Frames{60'000});
  splitAt(1, Frames{120'000});
  chosen().choose({clip(1, 1).id, clip(1, 2).id});
  type("Crossfade", "20 ms");
  EXPECT_EQ(clip(1, 1).seam.before + clip(1, 1).seam.after, Frames{960});
  EXPECT_EQ(clip(1, 2).seam.before + clip(1, 2).seam.after, Frames{960});
  type("Cross bias", "40");
  EXPECT_DOUBLE_EQ(clip(1, 2).seam.bias, 0.4);
}

TEST_F(Hands, SlidingMovesAClipBetweenItsNeighbours) {
  splitAt(1, Frames{60'000});
  splitAt(1, Frames{160'000});
  drag(&lanes(), at(1, Frames{110'000}), at(1, Frames{110'000}) + QPointF(30, 0), Qt::AltModifier | Qt::ShiftModifier);
  EXPECT_EQ(clip(1, 0).end(), Frames{60'000} + px(30));
  EXPECT_EQ(clip(1, 2).start, Frames{160'000} + px(30));
}

TEST_F(Hands, EdgesTrimAndComeBackOut) {
  const auto whole = clip(1, 0);
  drag(&lanes(), at(1, whole.start, 0.7) + QPointF(2, 0), at(1, whole.start, 0.7) + QPointF(102, 0));
  EXPECT_EQ(clip(1, 0).start, whole.start + px(100));
  EXPECT_EQ(clip(1, 0).source, px(100));
  drag(&lanes(), at(1, clip(1, 0).start, 0.7) + QPointF(2, 0), at(1, clip(1, 0).start, 0.7) - QPointF(300, 0));
  EXPECT_EQ(clip(1, 0), whole);
}

TEST_F(Hands, FadeHandlesSetTheFadesOfAllChosenClips) {
  splitAt(1, Frames{150'000});
  doc().edit("apart", moveClips(doc().song(), {clip(1, 1).id}, Frames{30'000}));
  chosen().choose({clip(1, 0).id, clip(1, 1).id});
  const auto corner = at(1, clip(1, 0).start, 0) + QPointF(4, 6);
  drag(&lanes(), corner, corner + QPointF(50, 0));
  EXPECT_EQ(clip(1, 0).fadeIn.length, px(50));
  EXPECT_EQ(clip(1, 1).fadeIn.length, px(50));
  // Its middle bends it.
  const auto middle = QPointF(window->view().xOf(clip(1, 0).start) + 25,
                              at(1, Frames{}, 0).y() + 2 + (lanes().layout().laneBox(4).height() - 5) * 0.5);
  drag(&lanes(), middle, middle - QPointF(0, 30));
  EXPECT_NEAR(clip(1, 0).fadeIn.bend, 0.5, 0.05);
  EXPECT_NEAR(clip(1, 1).fadeIn.bend, 0.5, 0.05);
  run("clips.nofades");
  EXPECT_EQ(clip(1, 0).fadeIn, Fade{});
}

TEST_F(Hands, ACrossfadeIsDrawnOutOfAJointToEitherSide) {
  splitAt(1, Frames{150'000});
  const auto joint = at(1, Frames{150'000}, 0) + QPointF(0, 5);
  drag(&lanes(), joint, joint - QPointF(30, 0));
  EXPECT_EQ(clip(1, 1).seam.before, px(30));
  EXPECT_EQ(clip(1, 1).seam.after, Frames{0});
  drag(&lanes(), joint + QPointF(3, 0), joint + QPointF(20, 0), {}, false);
  EXPECT_TRUE(status().contains("room")) << status().toStdString();
  QTest::mouseRelease(&lanes(), Qt::LeftButton, {}, (joint + QPointF(20, 0)).toPoint());
  EXPECT_EQ(clip(1, 1).seam.after, px(20));
}

TEST_F(Hands, OverlappingTwoClipsCrossfadesThem) {
  splitAt(1, Frames{150'000});
  drag(&lanes(), at(1, Frames{200'000}), at(1, Frames{200'000}) - QPointF(40, 0));
  EXPECT_EQ(clip(1, 1).seam.before + clip(1, 1).seam.after, px(40));
  EXPECT_EQ(clip(1, 0).end(), clip(1, 1).start);
}

TEST_F(Hands, ClicksChooseAddAndExtend) {
  for (const std::int64_t f : {60'000, 120'000, 180'000}) splitAt(1, Frames{f});
  click(&lanes(), at(1, Frames{30'000}));
  EXPECT_EQ(chosen().clips().size(), 1u);
  QTest::mouseClick(&lanes(), Qt::LeftButton, Qt::ControlModifier, at(1, Frames{90'000}).toPoint());
  EXPECT_EQ(chosen().clips().size(), 2u);
  QTest::mouseClick(&lanes(), Qt::LeftButton, Qt::ControlModifier, at(1, Frames{90'000}).toPoint());
  EXPECT_EQ(chosen().clips().size(), 1u);
  QTest::mouseClick(&lanes(), Qt::LeftButton, Qt::ShiftModifier, at(1, Frames{150'000}).toPoint());
  EXPECT_EQ(chosen().clips().size(), 3u);
  run("clips.after");
  EXPECT_EQ(chosen().clips().size(), 4u);
  run("this.all");
  EXPECT_EQ(chosen().clips().size(), 6u);
  QTest::keyClick(window.get(), Qt::Key_Escape);
  EXPECT_TRUE(chosen().clips().empty());
}

TEST_F(Hands, ShiftDragChoosesARangeOverTracksAndDeleteTakesItOut) {
  drag(&lanes(), at(1, Frames{60'000}), at(2, Frames{120'000}), Qt::ShiftModifier);
  EXPECT_EQ(chosen().rangeSets().size(), 2u);
  ASSERT_FALSE(doc().selection().range().empty());
  QTest::keyClick(&lanes(), Qt::Key_Delete);
  EXPECT_EQ(set(1).clips->size(), 2u);
  EXPECT_EQ(set(2).clips->size(), 2u);
  EXPECT_EQ(set(0).clips->size(), 1u);
  EXPECT_EQ(clip(1, 0).end(), doc().selection().range().start);
}

TEST_F(Hands, CopiedClipsArePastedAtThePlayLine) {
  splitAt(1, Frames{60'000});
  chosen().choose({clip(1, 0).id});
  QTest::keyClick(&lanes(), Qt::Key_C, Qt::ControlModifier);
  doc().transport().setCursor(Frames{300'000});
  QTest::keyClick(&lanes(), Qt::Key_V, Qt::ControlModifier);
  ASSERT_EQ(chosen().clips().size(), 1u);
  EXPECT_EQ(doc().song().find(chosen().clips().front())->start, Frames{300'000});
  QTest::keyClick(&lanes(), Qt::Key_D, Qt::ControlModifier);
  EXPECT_EQ(doc().song().find(chosen().clips().front())->start, Frames{360'000});
}

TEST_F(Hands, TypedValuesGoToTheWholeSelectionAndUnderstandUnits) {
  splitAt(1, Frames{96'000});
  doc().edit("apart", moveClips(doc().song(), {clip(1, 1).id}, Frames{48'000}));
  chosen().choose({clip(1, 0).id, clip(1, 1).id});
  EXPECT_TRUE(find<QLineEdit>("Start")->text().isEmpty());  // mixed
  EXPECT_EQ(find<QLineEdit>("Start")->placeholderText(), "mixed");
  type("Gain", "-6 dB");
  type("Gain", "+1.5");
  EXPECT_DOUBLE_EQ(clip(1, 0).gainDb, -4.5);
  EXPECT_DOUBLE_EQ(clip(1, 1).gainDb, -4.5);
  const auto start = clip(1, 1).start;
  const auto extras = [&] { return *clip(1, 0).extras; };
  type("Pitch", "3 st");
  type("Pitch", "+=20");
  ASSERT_EQ(extras().pitch.size(), 1U);
  EXPECT_EQ(extras().pitch[0].value, 320);
  type("Formants", "-150");
  EXPECT_EQ(extras().formants, (Formants{false, -150}));
  type("Formants", "along");
  EXPECT_EQ(extras().formants, (Formants{true, 0}));
  type("Formants", "sideways");
  EXPECT_EQ(extras().formants, (Formants{true, 0})) << "not understood";
  type("Formants", "auto");
  EXPECT_FALSE(extras().formants);
  type("Pitch", "0");
  EXPECT_FALSE(extras().retuned());
  type("Start", "+100 ms");
  EXPECT_EQ(clip(1, 1).start, start + Frames{4800});
  type("Start", "-=50 samples");
  EXPECT_EQ(clip(1, 1).start, start + Frames{4750});
  const auto length = clip(1, 0).length;
  type("Length", "*0.5");
  EXPECT_EQ(clip(1, 0).length.value, length.value / 2);
  type("Fade in", "20");
  EXPECT_EQ(clip(1, 0).fadeIn.length, Frames{960});
  type("Gain", "loud");
  EXPECT_TRUE(status().contains("is no number")) << status().toStdString();
  EXPECT_DOUBLE_EQ(clip(1, 0).gainDb, -4.5);
  type("Gain", "99");
  EXPECT_TRUE(status().contains("-60 to 24")) << status().toStdString();
}

TEST_F(Hands, TheWheelOverAFieldScrollsAndChangesNothing) {
  chosen().choose({clip(1, 0).id});
  auto* kind = find<QComboBox>("Out runs");
  const auto before = doc().song();
  const QPoint middle(10, 8);
  QWheelEvent wheel(middle, kind->mapToGlobal(middle), {}, {0, -120}, Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase,
                    false);
  QApplication::sendEvent(kind, &wheel);
  EXPECT_EQ(doc().song(), before);
  EXPECT_EQ(kind->currentIndex(), 0);
}

TEST_F(Hands, ArrowKeysGoThroughAFocusedListAndElseFromEdgeToEdge) {
  chosen().choose({clip(1, 0).id});
  auto* kind = find<QComboBox>("Out runs");
  kind->setFocus();
  const auto cursor = doc().transport().cursor();
  QTest::keyClick(kind, Qt::Key_Down);
  EXPECT_EQ(kind->currentIndex(), 1);
  EXPECT_EQ(doc().transport().cursor(), cursor);
  lanes().setFocus();
  doc().transport().setCursor(Frames{10});
  QTest::keyClick(&lanes(), Qt::Key_Down);
  EXPECT_EQ(doc().transport().cursor(), clip(1, 0).end());
}

TEST_F(Hands, TapeFadesAreAKindOfFade) {
  chosen().choose({clip(1, 0).id});
  type("Fade out", "1 s");
  auto* kind = find<QComboBox>("Out runs");
  kind->setCurrentIndex(2);
  emit kind->activated(2);
  EXPECT_EQ(clip(1, 0).fadeOut.kind, FadeKind::tape);
  EXPECT_EQ(clip(1, 0).fadeOut.length, Frames{48'000});
  EXPECT_FALSE(window->grab().isNull());
}

TEST_F(Hands, AKeptFadeIsPutOnBothEndsOfAllChosenClips) {
  const Fade kept{Frames{2400}, FadeShape::sCurve, 0.3, FadeKind::gain};
  ASSERT_TRUE(FadeLibrary::keep({"gentle", kept}));
  chosen().choose({clip(1, 0).id, clip(2, 0).id});
  auto* library = find<QComboBox>("fade library");
  const int index = library->findText("gentle");
  ASSERT_GT(index, 0);
  library->setCurrentIndex(index);
  emit library->activated(index);
  for (const std::size_t s : {1u, 2u}) {
    EXPECT_EQ(clip(s, 0).fadeIn, kept);
    EXPECT_EQ(clip(s, 0).fadeOut, kept);
  }
  ASSERT_TRUE(FadeLibrary::drop("gentle"));
  EXPECT_TRUE(FadeLibrary::fades().empty());
}

TEST_F(Hands, ASilentSpanIsDrawnMovedCopiedResizedAndLabelled) {
  doc().selection().setRange({Frames{100'000}, Frames{150'000}});
  chosen().setRangeSets({set(1).id});
  QTest::keyClick(&lanes(), Qt::Key_M, Qt::ShiftModifier);
  ASSERT_EQ(doc().song().spans.size(), 1u);
  EXPECT_EQ(doc().song().spans[0].tracks, set(1).tracks);
  type("Label", "cough");
  EXPECT_EQ(doc().song().spans[0].label, "cough");
  drag(&lanes(), at(1, Frames{125'000}), at(1, Frames{125'000}) + QPointF(50, 0));
  EXPECT_EQ(doc().song().spans[0].range.start, Frames{100'000} + px(50));
  drag(&lanes(), at(1, doc().song().spans[0].range.end) - QPointF(2, 0),
       at(1, doc().song().spans[0].range.end) + QPointF(18, 0));
  EXPECT_EQ(doc().song().spans[0].range.length(), Frames{50'000} + px(20));
  drag(&lanes(), at(1, doc().song().spans[0].range.start + Frames{20'000}), at(1, Frames{300'000}),
       Qt::ControlModifier);
  EXPECT_EQ(doc().song().spans.size(), 2u);
  QTest::keyClick(&lanes(), Qt::Key_Delete);
  EXPECT_EQ(doc().song().spans.size(), 1u);
}

TEST_F(Hands, SilenceIsFoundLiveAndRemoved) {
  chosen().choose({clip(0, 0).id});
  find<QToolButton>("fold silence")->setChecked(true);
  EXPECT_TRUE(desk().silenceShown());
  auto s = desk().settings();
  s.silence = {-50, 30, 5};
  desk().setSettings(s);
  const auto many = desk().silence().size();
  s.silence.levelDb = -85;
  desk().setSettings(s);
  EXPECT_LE(desk().silence().size(), many);
  s.silence.levelDb = -30;
  desk().setSettings(s);
  ASSERT_GT(desk().silence().size(), 0u);
  const auto gaps = desk().silence().size();
  EXPECT_TRUE(find<QLabel>("silence found")->text().contains(QString::number(gaps)));
  run("clips.removesilence");
  EXPECT_GE(set(0).clips->size(), gaps - 1);
}

TEST_F(Hands, EnvelopePointsAreAddedDraggedBentAndDeletedOnTheLanes) {
  desk().showEnvelope(EnvelopeKind::trackGain);
  const auto lane = lanes().layout().laneOf(set(1).tracks.front());
  const auto box = lanes().layout().laneBox(lane).adjusted(0, 6, 0, -7);
  const auto track = [&] { return *doc().song().tracks[static_cast<std::size_t>(lane)].gainEnvelope; };
  const auto y = [&](double db) { return box.bottom() - box.height() * std::pow((db + 60) / 72, 2); };
  QTest::mouseDClick(&lanes(), Qt::LeftButton, {}, QPointF(400, y(0)).toPoint());
  QTest::mouseDClick(&lanes(), Qt::LeftButton, {}, QPointF(500, y(0)).toPoint());
  ASSERT_EQ(track().size(), 2u);
  EXPECT_NEAR(track()[0].value, 0, 1e-9);
  drag(&lanes(), {500, y(0)}, {560, y(-40)});
  EXPECT_NEAR(track()[1].value, -40, 4);
  EXPECT_NEAR(static_cast<double>((track()[1].at - window->view().frameAt(560)).value), 0, 1200);
  type("At", "2 s");
  type("Value", "-=3");
  EXPECT_EQ(track()[0].at, Frames{96'000}) << "the second point came to stand before the first";
  lanes().setFocus();
  QTest::keyClick(&lanes(), Qt::Key_Delete);
  EXPECT_EQ(track().size(), 1u);
  run("edit.undo");
  EXPECT_EQ(track().size(), 2u);
  // Fades can still be taken hold of.
  const auto corner = at(1, clip(1, 0).start, 0) + QPointF(4, 6);
  drag(&lanes(), corner, corner + QPointF(50, 0));
  EXPECT_EQ(clip(1, 0).fadeIn.length, px(50));
}

TEST_F(Hands, TheSongsOwnEnvelopesHaveARowAndFadesAreOneCommand) {
  desk().showEnvelope(EnvelopeKind::songGain);
  auto* row = window->findChild<SongRow*>();
  ASSERT_TRUE(row->isVisible());
  ASSERT_TRUE(run("song.fadeboth"));
  EXPECT_EQ(doc().song().gainEnvelope->size(), 4u);
  EXPECT_EQ(doc().undoName(), "Fade the song in and out");
  desk().showEnvelope(EnvelopeKind::songSpeed);
  QTest::mouseDClick(row, Qt::LeftButton, {}, QPoint(400, 20));
  ASSERT_EQ(doc().song().speedEnvelope->size(), 1u);
  EXPECT_GT(doc().song().speedEnvelope->front().value, 100);
  desk().showEnvelope({});
  EXPECT_FALSE(row->isVisible());
}

TEST_F(Hands, APieceOfAnEnvelopeIsCopiedElsewhere) {
  desk().showEnvelope(EnvelopeKind::songGain);
  doc().edit("e", setEnvelope(doc().song(), {EnvelopeKind::songGain, {}, {}},
                              {{Frames{0}, 0, 0}, {Frames{48'000}, -12, 0}, {Frames{96'000}, 0, 0}}));
  doc().selection().setRange({Frames{24'000}, Frames{72'000}});
  ASSERT_TRUE(run("envelope.copy"));
  doc().transport().setCursor(Frames{200'000});
  ASSERT_TRUE(run("envelope.paste"));
  EXPECT_NEAR(valueAt(*doc().song().gainEnvelope, Frames{224'000}, 0), -12, 1e-6);
  EXPECT_NEAR(valueAt(*doc().song().gainEnvelope, Frames{150'000}, 0), 0, 1e-6);
}

TEST_F(Hands, BundlesAreChosenWholeOpenedAndTakenApart) {
  splitAt(1, Frames{100'000});
  chosen().choose({clip(1, 0).id, clip(2, 0).id});
  QTest::keyClick(&lanes(), Qt::Key_B, Qt::ControlModifier);
  ASSERT_EQ(doc().song().bundles.size(), 1u);
  click(&lanes(), at(1, Frames{50'000}));
  EXPECT_EQ(chosen().clips().size(), 2u);
  const auto start = clip(2, 0).start;
  drag(&lanes(), at(1, Frames{50'000}), at(1, Frames{50'000}) + QPointF(20, 0));
  EXPECT_EQ(clip(2, 0).start, start + px(20));
  QTest::keyClick(&lanes(), Qt::Key_B, Qt::ShiftModifier);
  click(&lanes(), at(1, Frames{60'000}));
  EXPECT_EQ(chosen().clips().size(), 1u);
  QTest::keyClick(window.get(), Qt::Key_Escape);
  EXPECT_FALSE(chosen().openBundle());
  click(&lanes(), at(1, Frames{60'000}));
  QTest::keyClick(&lanes(), Qt::Key_B, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_TRUE(doc().song().bundles.empty());
}

TEST_F(Hands, DragsSnapToWhatIsNearAndShiftSuspendsIt) {
  auto s = desk().settings();
  s.snap.on = true;
  s.snap.grid = s.snap.hits = s.snap.edges = s.snap.markers = false;
  s.snap.reachPixels = 12;
  desk().setSettings(s);
  splitAt(1, Frames{100'000});
  doc().transport().setCursor(Frames{100'000} + px(50));
  const auto from = at(1, Frames{200'000});
  chosen().choose({clip(1, 1).id});
  QTest::mousePress(&lanes(), Qt::LeftButton, {}, from.toPoint());
  doc().transport().setCursor(Frames{100'000} +
                              px(50));  // a press puts the play line; it is put back where this test wants it
  const auto to = (from + QPointF(45, 0)).toPoint();
  QMouseEvent move(QEvent::MouseMove, to, lanes().mapToGlobal(to), Qt::NoButton, Qt::LeftButton, Qt::NoModifier);
  QApplication::sendEvent(&lanes(), &move);
  EXPECT_EQ(clip(1, 1).start, Frames{100'000} + px(50));
  QMouseEvent free(QEvent::MouseMove, to, lanes().mapToGlobal(to), Qt::NoButton, Qt::LeftButton, Qt::ShiftModifier);
  QApplication::sendEvent(&lanes(), &free);
  EXPECT_EQ(clip(1, 1).start, Frames{100'000} + px(45));
  QTest::mouseRelease(&lanes(), Qt::LeftButton, {}, to);
}

TEST_F(Hands, MarkersAndSectionsStandOnTheRulerAndAreJumpedTo) {
  doc().transport().setCursor(Frames{96'000});
  QTest::keyClick(&lanes(), Qt::Key_W);
  doc().selection().setRange({Frames{144'000}, Frames{240'000}});
  QTest::keyClick(&lanes(), Qt::Key_W, Qt::ShiftModifier);
  ASSERT_EQ(doc().song().markers.size(), 2u);
  type("Name", "Chorus");
  EXPECT_EQ(doc().song().markers[1].name, "Chorus");
  lanes().setFocus();
  doc().transport().setCursor(Frames{0});
  QTest::keyClick(&lanes(), Qt::Key_Down, Qt::ControlModifier);
  EXPECT_EQ(doc().transport().cursor(), Frames{96'000});
  QTest::keyClick(&lanes(), Qt::Key_Down, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_EQ(doc().selection().range(), (FrameRange{Frames{96'000}, Frames{144'000}}));
  auto* ruler = window->findChild<Ruler*>();
  const double x = window->view().xOf(Frames{96'000});
  drag(ruler, {x + 2, 33}, {x + 62, 33}, Qt::ShiftModifier);
  EXPECT_EQ(doc().song().tempo.toFrames(doc().song().markers[0].at), Frames{96'000} + px(60));
}

TEST_F(Hands, NudgesByGridMillisecondsAndSamples) {
  splitAt(1, Frames{100'000});
  chosen().choose({clip(1, 1).id});
  QTest::keyClick(&lanes(), Qt::Key_Right, Qt::ShiftModifier | Qt::AltModifier);
  EXPECT_EQ(clip(1, 1).start, Frames{100'480});
  run("this.fineearlier");
  EXPECT_EQ(clip(1, 1).start, Frames{100'479});
  const auto step =
      doc().song().tempo.toFrames(doc().timingDesk().settings().grid.step()) - doc().song().tempo.toFrames(Ticks{0});
  run("this.gridlater");
  EXPECT_NEAR(static_cast<double>((clip(1, 1).start - Frames{100'479} - step).value), 0, 1);
}

TEST_F(Hands, SplitsAtGridLinesHitsAndRangeEnds) {
  doc().hitDesk().find(set(0).id);
  doc().jobs().finishAll();
  chosen().choose({clip(0, 0).id});
  run("clips.splithits");
  EXPECT_NEAR(static_cast<double>(set(0).clips->size()), static_cast<double>(doc().timingDesk().planned().hits.size()),
              2);
  run("edit.undo");
  doc().selection().setRange({Frames{48'000}, Frames{96'000}});
  chosen().setRangeSets({set(1).id, set(2).id});
  run("clips.splitrange");
  EXPECT_EQ(set(1).clips->size(), 3u);
  EXPECT_EQ(set(2).clips->size(), 3u);
  EXPECT_EQ(set(0).clips->size(), 1u);
  run("edit.undo");
  run("clips.splitgrid");
  EXPECT_GT(set(1).clips->size(), 3u);
}

TEST_F(Hands, KeysCanBeChangedAndConflictsAreSaid) {
  KeySheet sheet(window->actions(), window.get());
  sheet.show();
  auto* table = sheet.findChild<QTableWidget*>();
  for (int r = 0; r < table->rowCount(); ++r)
    if (table->item(r, 0)->data(Qt::UserRole).toString() == "clips.swap") table->selectRow(r);
  auto* edit = sheet.findChild<QKeySequenceEdit*>("new key");
  edit->setKeySequence(QKeySequence("D"));
  EXPECT_TRUE(sheet.findChild<QLabel*>("key conflict")->text().contains("Split at the play line"));
  QTest::mouseClick(sheet.findChild<QPushButton*>("use key"), Qt::LeftButton);
  EXPECT_EQ(window->actions().action("clips.swap")->shortcut(), QKeySequence("D"));
  EXPECT_TRUE(window->actions().action("clips.split")->shortcut().isEmpty());
  // Kept for the next start.
  MainWindow again;
  EXPECT_EQ(again.actions().action("clips.swap")->shortcut(), QKeySequence("D"));
  for (int r = 0; r < table->rowCount(); ++r)
    if (table->item(r, 0)->data(Qt::UserRole).toString() == "clips.swap") table->selectRow(r);
  QTest::mouseClick(sheet.findChild<QPushButton*>("shipped key"), Qt::LeftButton);
  EXPECT_TRUE(window->actions().action("clips.swap")->shortcut().isEmpty());
}

TEST_F(Hands, NoTwoCommandsShareAShippedKey) {
  QHash<QString, QString> held;
  for (const auto& id : window->actions().ids())
    for (const auto& key : window->actions().action(id)->shortcuts()) {
      EXPECT_FALSE(held.contains(key.toString()))
          << id.toStdString() << " and " << held[key.toString()].toStdString() << ": " << key.toString().toStdString();
      held[key.toString()] = id;
    }
}

TEST_F(Hands, AnyCommandIsFoundByItsWords) {
  onSheet<CommandFinder>({}, [&](CommandFinder* finder) {
    auto* line = finder->findChild<QLineEdit*>("find");
    QTest::keyClicks(line, "grid split");
    QTest::keyClick(line, Qt::Key_Return);
  });
  chosen().choose({clip(1, 0).id});
  run("help.find");
  EXPECT_GT(set(1).clips->size(), 2u);
}

TEST_F(Hands, EveryEditSurvivesSavingAndOpening) {
  splitAt(1, Frames{100'000});
  chosen().choose({clip(1, 0).id, clip(2, 0).id});
  run("clips.bundle");
  run("clips.reverse");
  doc().selection().setRange({Frames{10'000}, Frames{20'000}});
  run("spans.add");
  run("song.fadeboth");
  run("markers.section");
  const auto before = doc().song();
  ASSERT_TRUE(doc().files().save(scratch / "hands.ochron"));
  auto named = before;
  named.name = "hands";
  ASSERT_TRUE(doc().files().open(scratch / "hands.ochron"));
  doc().jobs().finishAll();
  EXPECT_EQ(doc().song(), named);
}

TEST_F(Hands, TrimsAndFadesGoToThePlayLineByKey) {
  chosen().choose({clip(1, 0).id});
  doc().transport().setCursor(Frames{20'000});
  QTest::keyClick(&lanes(), Qt::Key_BracketLeft);
  EXPECT_EQ(clip(1, 0).start, Frames{20'000});
  doc().transport().setCursor(Frames{200'000});
  QTest::keyClick(&lanes(), Qt::Key_BracketRight);
  EXPECT_EQ(clip(1, 0).end(), Frames{200'000});
  doc().transport().setCursor(Frames{30'000});
  run("clips.fadein");
  EXPECT_EQ(clip(1, 0).fadeIn.length, Frames{10'000});
  doc().transport().setCursor(Frames{170'000});
  run("clips.fadeout");
  EXPECT_EQ(clip(1, 0).fadeOut.length, Frames{30'000});
  run("clips.tapestop");
  EXPECT_EQ(clip(1, 0).fadeOut.kind, FadeKind::tape);
}

TEST_F(Hands, ASyncPointIsBroughtToTheGridAndToThePlayLine) {
  splitAt(1, Frames{100'000});
  chosen().choose({clip(1, 1).id});
  doc().transport().setCursor(Frames{103'000});
  ASSERT_TRUE(run("clips.sync"));
  QTest::keyClick(&lanes(), Qt::Key_E);
  const auto& map = doc().song().tempo;
  const auto line = nearestLine(map, doc().timingDesk().settings().grid, map.toTicks(Frames{103'000})).frame;
  EXPECT_EQ(anchorOf(doc().song(), set(1), *doc().song().find(chosen().clips().front())), line);
  doc().transport().setCursor(Frames{150'000});
  QTest::keyClick(&lanes(), Qt::Key_E, Qt::ShiftModifier);
  EXPECT_EQ(anchorOf(doc().song(), set(1), *doc().song().find(chosen().clips().front())), Frames{150'000});
}

TEST_F(Hands, ClipsAreSwappedMutedRepeatedAndGapsClosed) {
  splitAt(1, Frames{60'000});
  splitAt(1, Frames{90'000});
  const auto first = clip(1, 0).id;
  const auto second = clip(1, 1).id;
  chosen().choose({first, second});
  ASSERT_TRUE(run("clips.swap"));
  EXPECT_EQ(clip(1, 0).id, second);
  QTest::keyClick(&lanes(), Qt::Key_M);
  EXPECT_TRUE(clip(1, 0).muted && clip(1, 1).muted);
  chosen().choose({second});
  QTest::keyClick(&lanes(), Qt::Key_V);
  ASSERT_TRUE(desk().settings().closeGaps);
  QTest::keyClick(&lanes(), Qt::Key_Delete);
  EXPECT_EQ(clip(1, 0).id, first);
  EXPECT_EQ(clip(1, 0).start, Frames{0});
  QTest::keyClick(&lanes(), Qt::Key_V);
  chosen().choose({first});
  doc().selection().setRange({Frames{0}, Frames{100'000}});
  QTest::keyClick(&lanes(), Qt::Key_R, Qt::ControlModifier);
  EXPECT_EQ(clip(1, 1).range(), (FrameRange{Frames{60'000}, Frames{100'000}}));
}

TEST_F(Hands, ClipsAreChosenByNameAndColour) {
  for (const std::int64_t f : {60'000, 120'000}) splitAt(1, Frames{f});
  chosen().choose({clip(1, 0).id, clip(1, 2).id});
  type("Name", "verse");
  auto* colour = find<QComboBox>("Colour");
  colour->setCurrentIndex(3);
  emit colour->activated(3);
  for (const char* command : {"clips.likename", "clips.likecolour"}) {
    chosen().choose({clip(1, 0).id});
    ASSERT_TRUE(run(command));
    EXPECT_TRUE(chosen().isChosen(clip(1, 2).id)) << command;
    EXPECT_FALSE(chosen().isChosen(clip(1, 1).id)) << command;
  }
  chosen().choose({clip(1, 1).id});
  ASSERT_TRUE(run("clips.ontrack"));
  EXPECT_EQ(chosen().clips().size(), 3u);
}

TEST_F(Hands, LockedTracksSayThatTheyAreLocked) {
  doc().selection().chooseSet(set(1).id);
  doc().timingDesk().lockSet(true);
  const auto before = doc().song();
  drag(&lanes(), at(1, Frames{200'000}), at(1, Frames{200'000}) + QPointF(60, 0));
  EXPECT_EQ(doc().song(), before);
  EXPECT_TRUE(status().contains("is locked")) << status().toStdString();
}

}  // namespace
}  // namespace ochron
