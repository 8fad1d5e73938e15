// The pitch step by mouse and keys: a line listened to, brought to a scale, single notes moved, all else untouched.

#include <QAbstractButton>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QMouseEvent>
#include <cmath>
#include <fstream>

#include "app/window_fixture.h"
#include "document/attention.h"
#include "document/clip_desk.h"
#include "document/pitch_desk.h"
#include "document/selection.h"
#include "document/song_files.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "edits/clip_edits.h"
#include "edits/pin_edits.h"
#include "edits/pitch_edits.h"
#include "edits/stretch_edits.h"
#include "head/notice_bar.h"
#include "head/tuner.h"
#include "lanes/lanes_view.h"
#include "steps/pitch/pitch_lens.h"
#include "steps/pitch/pitch_step.h"
#include "support/made_voice.h"
#include "support/process.h"

namespace ochron {
namespace {

double centsOfMidi(double midi) { return centsOf(440) + 100 * (midi - 69); }

struct PitchSteps : test::Driven {
  void SetUp() override {
    QSettings().clear();
    voice.seconds = 5;
    voice.notes = {{0.5, 0.7, 60.25}, {1.4, 0.7, 64.2}, {2.3, 0.7, 66.7}, {3.2, 0.9, 61.6}};
    samples = voice.samples();
    test::writeWav(scratch / "Voice.wav", samples);
    show();
    window->takeIn({QString::fromStdString((scratch / "Voice.wav").string())}, false);
    doc().jobs().finishAll();
    run("step.8");
    QTest::qWait(0);
  }
  PitchDesk& desk() { return doc().pitchDesk(); }
  PitchLens& lens() { return *window->findChild<PitchLens*>(); }
  void press(const char* name) { QTest::mouseClick(find<QAbstractButton>(name), Qt::LeftButton); }
  void listen() {
    press("listen for pitch");
    doc().jobs().finishAll();
    ASSERT_EQ(desk().notes().size(), 4U);
    QTest::qWait(0);
  }
  /// Of the chosen set; all that works in the background has come to its end.
  void transposeAll(double cents) {
    ClipIds all;
    for (const auto& c : *doc().song().find(doc().selection().set())->clips) all.push_back(c.id);
    ASSERT_TRUE(doc().edit("transpose", transposeClips(doc().song(), all, cents)));
    listened = listens();
    doc().jobs().finishAll();
  }
  /// The chosen set's line is being listened for.
  bool listens() {
    const auto& set = *doc().song().find(doc().selection().set());
    return doc().jobs().runs(QStringLiteral("line %1 %2").arg(set.clips->front().take.value).arg(set.id.value));
  }
  /// One more track, of chords, which is chosen.
  void addChord() {
    std::vector<float> x(4 * 48'000);
    for (std::size_t i = 0; i < x.size(); ++i)
      for (const double f : {196.0, 246.94, 293.66, 369.99})
        x[i] += 0.1F * static_cast<float>(std::sin(2 * M_PI * f * static_cast<double>(i) / 48'000));
    test::writeWav(scratch / "Keys.wav", x);
    window->takeIn({QString::fromStdString((scratch / "Keys.wav").string())}, false);
    doc().jobs().finishAll();
    doc().selection().chooseSet(doc().song().sets.back().id);
  }
  QPointF middleOf(std::size_t i) {
    const auto& n = desk().notes()[i];
    return {(window->view().xOf(n.start) + window->view().xOf(n.end)) / 2, lens().yOf(n.tuned.after)};
  }
  void drag(QPointF from, QPointF to, Qt::KeyboardModifiers keys = {}) { Driven::drag(&lens(), from, to, keys); }
  double centreIn(const std::vector<float>& x, double from, double to) {
    Progress progress;
    const auto track = pitchOf(x, 48'000, {}, progress);
    std::vector<double> all;
    for (auto t = static_cast<std::size_t>(from / PitchTrack::kHop);
         t < static_cast<std::size_t>(to / PitchTrack::kHop); ++t)
      all.push_back(centsOf(track->values.at(t).hertz));
    std::nth_element(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(all.size() / 2), all.end());
    return all[all.size() / 2];
  }
  MadeVoice voice;
  std::vector<float> samples;
  bool listened = false;  ///< as soon as it was transposed
};

TEST_F(PitchSteps, ANoteThatWentWithItsClipIsNotMeantAnyMore) {
  listen();
  doc().selection().chooseNotes({desk().notes()[1].name});
  EXPECT_EQ(doc().selection().meant(), Selection::Thing::notes);
  const auto clip = doc().song().find(doc().selection().set())->clips->front().id;
  ASSERT_TRUE(doc().edit("turn", changeClips(doc().song(), {clip}, [](Clip& c) { c.reversed = true; })));
  ASSERT_TRUE(desk().notes().empty());
  EXPECT_NE(doc().selection().meant(), Selection::Thing::notes);
  EXPECT_TRUE(run("help.where"));
  QTest::qWait(300);  // readers of the screen are told
  doc().undo();
  EXPECT_EQ(doc().selection().meant(), Selection::Thing::notes) << "it is there again";
}

TEST_F(PitchSteps, NothingIsChangedByListening) {
  const auto before = exported({Frames{}, Frames{5 * 48'000}});
  listen();
  EXPECT_EQ(exported({Frames{}, Frames{5 * 48'000}}), before);
}

TEST_F(PitchSteps, EveryNoteIsHeardOnTheScaleOnceItIsTuned) {
  listen();
  find<QComboBox>("scale")->setCurrentText("major");
  QMetaObject::invokeMethod(find<QComboBox>("scale"), "activated",
                            Q_ARG(int, find<QComboBox>("scale")->currentIndex()));
  press("tune on");
  doc().jobs().finishAll();
  const auto out = exported({Frames{}, Frames{5 * 48'000}});
  EXPECT_NEAR(centreIn(out, 0.7, 1.1), centsOfMidi(60), 3);
  EXPECT_NEAR(centreIn(out, 1.6, 2.0), centsOfMidi(64), 3);
  EXPECT_NEAR(centreIn(out, 2.5, 2.9), centsOfMidi(67), 3);
  EXPECT_NEAR(centreIn(out, 3.5, 4.0), centsOfMidi(62), 3);
  press("tune on");
  doc().jobs().finishAll();
  EXPECT_NEAR(centreIn(exported({Frames{}, Frames{5 * 48'000}}), 0.7, 1.1), centsOfMidi(60.25), 3);
}

TEST_F(PitchSteps, OneNoteGoesUpByThirtyCentsAndAllElseIsTheRecording) {
  const auto before = exported({Frames{}, Frames{5 * 48'000}});
  listen();
  click(&lens(), middleOf(1));
  ASSERT_EQ(desk().chosen().size(), 1U);
  desk().moveBy(30);
  doc().jobs().finishAll();
  const auto out = exported({Frames{}, Frames{5 * 48'000}});
  EXPECT_NEAR(centreIn(out, 1.6, 2.0), centsOfMidi(64.5), 3);
  ASSERT_EQ(out.size(), before.size());
  for (std::size_t i = 0; i < out.size(); ++i)
    if (const double t = static_cast<double>(i) / 48'000; t < 1.3 || t > 2.2) ASSERT_EQ(out[i], before[i]) << t;
}

TEST_F(PitchSteps, ADraggedNoteGoesByStepsOfTheScaleAndEscapeTakesItBack) {
  listen();
  const auto before = doc().song();
  const double semitone = lens().yOf(0) - lens().yOf(100);
  drag(middleOf(0), middleOf(0) - QPointF(0, 2 * semitone));
  const auto& wish = desk().notes()[0].wish;
  ASSERT_TRUE(wish.target);
  EXPECT_NEAR(*wish.target, centsOfMidi(62), 1e-6);
  EXPECT_EQ(desk().notes()[1].wish, NoteWish{});
  doc().undo();
  EXPECT_EQ(doc().song(), before);
  QTest::mousePress(&lens(), Qt::LeftButton, {}, middleOf(0).toPoint());
  const QPointF to = middleOf(0) - QPointF(0, 3 * semitone);
  QMouseEvent move(QEvent::MouseMove, to, lens().mapToGlobal(to), Qt::NoButton, Qt::LeftButton, Qt::NoModifier);
  QApplication::sendEvent(&lens(), &move);
  EXPECT_NE(doc().song(), before);
  QTest::keyClick(&lens(), Qt::Key_Escape);
  EXPECT_EQ(doc().song(), before);
}

TEST_F(PitchSteps, StepsOfATransposedLineAreThoseOfTheScaleThatIsHeard) {
  listen();
  auto settings = desk().settings();
  settings.on = true;
  settings.scale = *parseScale("C major");
  settings.transpose = 200;
  desk().setSettings("transpose", settings);
  const double semitone = lens().yOf(0) - lens().yOf(100);
  ASSERT_NEAR(desk().notes()[3].tuned.after, centsOfMidi(64), 1e-6);
  drag(middleOf(3), middleOf(3) - QPointF(0, 2 * semitone));
  EXPECT_NEAR(desk().notes()[3].tuned.after, centsOfMidi(66), 1e-6) << "F sharp of D major";
  EXPECT_EQ(desk().heardScale().name, "D major");
}

TEST_F(PitchSteps, TheLineIsChosenFromAList) {
  addChord();
  auto* lines = find<QComboBox>("line");
  ASSERT_EQ(lines->count(), 2);
  EXPECT_EQ(lines->currentText(), "Keys");
  lines->setCurrentText("Voice");
  QMetaObject::invokeMethod(lines, "activated", Q_ARG(int, lines->currentIndex()));
  EXPECT_EQ(doc().selection().set(), doc().song().sets.front().id);
  listen();
}

TEST_F(PitchSteps, TheOtherTracksStayInSightAsSlimLanes) {
  QStringList others;
  for (int i = 0; i < 11; ++i) {
    const auto file = scratch / ("Other " + std::to_string(i) + ".wav");
    test::writeWav(file, std::vector<float>(4'800, 0.1F));
    others << QString::fromStdString(file.string());
  }
  window->takeIn(others, false);
  doc().jobs().finishAll();
  run("step.3");
  QTest::qWait(0);
  const int usual = window->view().laneHeight();
  run("step.8");
  QTest::qWait(0);
  EXPECT_LT(window->view().laneHeight(), usual);
  EXPECT_GE(window->view().laneHeight(), 19);
  EXPECT_LE(12 * window->view().laneHeight(), window->lanes().height()) << "all of them";
  run("step.3");
  QTest::qWait(0);
  EXPECT_EQ(window->view().laneHeight(), usual);
}

TEST_F(PitchSteps, NotesGoToTheMelodyOfAFileAndOneUndoTakesThemBack) {
  listen();
  const auto before = doc().song();
  const auto file = scratch / "melody.csv";
  std::ofstream(file) << "start,end,midi\n0.5,1.2,74\n1.4,2.1,76\n2.3,3.0,79\n";
  desk().followMelody(file);
  EXPECT_NEAR(*desk().notes()[0].wish.target, centsOfMidi(62), 1e-6) << "in the singer's octave";
  EXPECT_NEAR(*desk().notes()[2].wish.target, centsOfMidi(67), 1e-6);
  EXPECT_EQ(desk().notes()[3].wish, NoteWish{});
  doc().undo();
  EXPECT_EQ(doc().song(), before);
  click(&lens(), middleOf(1));
  desk().followMelody(file);
  EXPECT_EQ(desk().notes()[0].wish, NoteWish{}) << "only the chosen one";
  EXPECT_TRUE(desk().notes()[1].wish.target);
  doc().undo();
  for (const char* text : {"start,end,midi\n60,61,60\n", "no melody at all"}) {
    std::ofstream(file) << text;
    desk().followMelody(file);
    EXPECT_EQ(doc().song(), before);
  }
}

TEST_F(PitchSteps, ThePanelKeepsItsWidthWhateverIsChosen) {
  auto* page = window->findChild<PitchStep*>();
  ASSERT_TRUE(page);
  const auto width = [&] {
    QTest::qWait(0);
    return page->minimumSizeHint().width();
  };
  const int before = width();
  listen();
  EXPECT_EQ(width(), before);
  auto settings = desk().settings();
  settings.scale = *parseScale("Eb minor");
  settings.transpose = 237;
  desk().setSettings("transpose", settings);
  click(&lens(), middleOf(1));
  EXPECT_EQ(width(), before);
  EXPECT_TRUE(find<QLabel>("chosen notes")->text().contains(QStringLiteral("G4 \u22124")))
      << "64.2 and 2.37 semitones are 66.57";
  run("this.all");
  EXPECT_EQ(width(), before);
}

TEST_F(PitchSteps, TwentyNotesAreCorrectedTogetherAndKeepTheirVibrato) {
  MadeVoice many;
  many.seconds = 19;  // after the first voice
  many.bend = [](double t) { return 35 * std::sin(2 * M_PI * 5.5 * t); };
  for (int i = 0; i < 20; ++i) many.notes.push_back({6.3 + 0.6 * i, 0.5, 60 + i % 5 + (i % 2 ? 0.3 : -0.25)});
  const auto x = many.samples();
  test::writeWav(scratch / "Many.wav", x);
  window->takeIn({QString::fromStdString((scratch / "Many.wav").string())}, false);
  doc().jobs().finishAll();
  doc().selection().chooseSet(doc().song().sets.back().id);
  press("listen for pitch");
  doc().jobs().finishAll();
  ASSERT_EQ(desk().notes().size(), 20U);
  run("this.all");
  ASSERT_EQ(desk().chosen().size(), 20U);
  press("tune on");
  doc().jobs().finishAll();
  const auto out = exported({Frames{}, Frames{19 * 48'000}});
  Progress progress;
  const auto track = pitchOf(out, 48'000, {}, progress);
  ASSERT_TRUE(track);
  for (int i = 0; i < 20; ++i) {
    std::vector<double> cents;
    double most = 0;
    const double begins = 6.3 + 0.6 * i;
    for (auto t = PitchTrack::valueAt(begins + 0.1); t < PitchTrack::valueAt(begins + 0.4636); ++t)  // two vibratos
      cents.push_back(centsOf(track->values[t].hertz));
    double mean = 0;
    for (const double c : cents) mean += c / static_cast<double>(cents.size());
    for (const double c : cents) most = std::max(most, std::abs(c - mean));
    EXPECT_NEAR(mean, centsOfMidi(60 + i % 5), 6) << i;
    EXPECT_NEAR(most, 35, 5) << i;
  }
}

TEST_F(PitchSteps, NotesChosenByABandMoveTogetherByKeys) {
  listen();
  drag({window->view().xOf(desk().notes()[0].start) - 8, 30},
       {window->view().xOf(desk().notes()[2].end) + 4, lens().height() - 50.0});
  ASSERT_EQ(desk().chosen().size(), 3U);
  QTest::keyClick(&lens(), Qt::Key_Up, Qt::ControlModifier | Qt::AltModifier);
  EXPECT_NEAR(*desk().notes()[0].wish.target, centsOfMidi(61), 1e-6);
  EXPECT_NEAR(*desk().notes()[2].wish.target, centsOfMidi(68), 1e-6);
  EXPECT_FALSE(desk().notes()[3].wish.target);
  press("give notes back");
  for (const auto& n : desk().notes()) EXPECT_EQ(n.wish, NoteWish{});
}

TEST_F(PitchSteps, WhatWasDecidedByHandHoldsWhenTheScaleChanges) {
  listen();
  press("tune on");
  click(&lens(), middleOf(3));
  press("as sung");
  find<QComboBox>("scale")->setCurrentText("minor pentatonic");
  QMetaObject::invokeMethod(find<QComboBox>("scale"), "activated",
                            Q_ARG(int, find<QComboBox>("scale")->currentIndex()));
  EXPECT_EQ(desk().settings().scale.name, "C minor pentatonic");
  EXPECT_EQ(desk().notes()[3].tuned.after, desk().notes()[3].tuned.parts.centre);
  EXPECT_NEAR(desk().notes()[1].tuned.after, centsOfMidi(65), 1e-6);
}

TEST_F(PitchSteps, TheSongIsSavedWithItsLineAndPlan) {
  listen();
  press("tune on");
  click(&lens(), middleOf(1));
  desk().moveBy(70);
  const auto song = doc().song();
  ASSERT_TRUE(doc().files().save(scratch / "song.ochron"));
  ASSERT_TRUE(doc().files().open(scratch / "song.ochron"));
  doc().jobs().finishAll();
  EXPECT_EQ(*doc().song().sets[0].pitch, *song.sets[0].pitch);
  EXPECT_EQ(*doc().song().lineOf(song.takes[0].id, song.sets[0].id), *song.lineOf(song.takes[0].id, song.sets[0].id));
  EXPECT_EQ(desk().notes().size(), 4U);
}

TEST_F(PitchSteps, TheCommandLineRendersTheSavedSongAsItIsHeardHere) {
  listen();
  press("tune on");
  doc().jobs().finishAll();
  const auto here = exported({Frames{}, Frames{5 * 48'000}});
  ASSERT_TRUE(doc().files().save(scratch / "song.ochron"));
  const auto file = scratch / "rendered.wav";
  const auto r = test::run({OCHRON_CLI, "render", (scratch / "song.ochron").string(), "--out", file.string()});
  ASSERT_EQ(r.status, 0) << r.err;
  auto reader = AudioFileReader::open(file);
  ASSERT_TRUE(reader);
  const auto wide = static_cast<std::size_t>(reader->info().channels);
  std::vector<float> all(static_cast<std::size_t>(reader->info().length.value) * wide);
  ASSERT_TRUE(reader->read(all));
  ASSERT_EQ(all.size() / wide, here.size());
  for (std::size_t i = 0; i < here.size(); ++i) ASSERT_EQ(all[i * wide], here[i]) << i;
}

TEST_F(PitchSteps, ChordsAreRefusedWithASentence) {
  addChord();
  press("listen for pitch");
  doc().jobs().finishAll();
  EXPECT_TRUE(desk().notes().empty());
  bool said = false;
  for (auto* l : window->findChild<NoticeBar*>()->findChildren<QLabel*>())
    said = said || l->text().contains("no single line");
  EXPECT_TRUE(said);
}

TEST_F(PitchSteps, AVoiceTransposedBeforeAnybodyListenedSoundsAsOneThatWasListenedFor) {
  const auto before = doc().song();
  ASSERT_FALSE(desk().heard());
  transposeAll(300);
  EXPECT_TRUE(listened);
  EXPECT_TRUE(desk().heard());
  EXPECT_EQ(desk().notes().size(), 4U);
  const auto unasked = exported({Frames{}, Frames{5 * 48'000}});
  EXPECT_NEAR(centreIn(unasked, 0.7, 1.1), centsOfMidi(63.25), 5);
  // One step: what was learned meanwhile is none.
  doc().undo();
  doc().jobs().finishAll();
  EXPECT_EQ(doc().song(), before);
  // What is known is not listened for again.
  doc().redo();
  EXPECT_FALSE(listens());
  EXPECT_TRUE(desk().heard());
  doc().jobs().finishAll();
  EXPECT_EQ(exported({Frames{}, Frames{5 * 48'000}}), unasked);
  doc().undo();
  doc().jobs().finishAll();
  listen();
  transposeAll(300);
  EXPECT_EQ(exported({Frames{}, Frames{5 * 48'000}}), unasked);
}

TEST_F(PitchSteps, ASavedSongStaysSavedWhenItsLineIsLearned) {
  const auto clip = doc().song().sets[0].clips->front().id;
  ASSERT_TRUE(doc().edit("transpose", transposeClips(doc().song(), {clip}, 100)));
  ASSERT_TRUE(doc().files().save(scratch / "v.ochron"));
  doc().jobs().finishAll();
  EXPECT_TRUE(desk().heard());
  EXPECT_FALSE(doc().files().modified()) << "a fact that can be found again";
}

TEST_F(PitchSteps, AVoiceThatIsOnlyStretchedIsLeftToTheUser) {
  const auto clip = doc().song().sets[0].clips->front().id;
  ASSERT_TRUE(doc().edit("pins", addPins(doc().song(), clip, {Frames{20'000}, Frames{90'000}, Frames{150'000}})));
  ASSERT_TRUE(
      doc().edit("stretch", movePins(doc().song(), clip, {Frames{90'000}}, Frames{6'000}, PinReach::neighbours)));
  doc().jobs().finishAll();
  EXPECT_FALSE(desk().heard()) << "notes would hold the pins beside them";
}

TEST_F(PitchSteps, WhatIsNoLineOrHasAMannerOfItsOwnIsNotListenedTo) {
  auto song = setStretchMethod(doc().song(), doc().song().sets[0].id, StretchMethod::chords);
  ASSERT_TRUE(doc().edit("chords", song));
  transposeAll(200);
  EXPECT_FALSE(listened) << "it is to be made as chords";
  EXPECT_FALSE(desk().heard());
  addChord();
  int warnings = 0;
  QObject::connect(&doc(), &Document::warned, window.get(), [&] { ++warnings; });
  transposeAll(200);
  EXPECT_TRUE(listened);
  EXPECT_FALSE(desk().heard());
  EXPECT_EQ(warnings, 0) << "nothing went wrong";
  const auto before = doc().song();
  run("edit.undo");
  run("edit.redo");
  EXPECT_FALSE(listens()) << "it is known to be none";
  EXPECT_EQ(doc().song(), before);
}

TEST_F(PitchSteps, NotesBecomeHitsOnceAndOneUndoTakesThemBack) {
  listen();
  const auto before = doc().song();
  press("notes to hits");
  const auto& set = doc().song().sets[0];
  const auto hits = activeHits(*doc().song().hitsOf(doc().song().takes[0].id, set.id), set.hits, 48'000);
  for (const auto& n : desk().notes())
    EXPECT_TRUE(
        std::any_of(hits.begin(), hits.end(), [&](const Hit& h) { return std::abs((h.at - n.start).value) < 1'500; }));
  const auto after = doc().song();
  press("notes to hits");
  EXPECT_EQ(doc().song(), after);
  doc().undo();
  EXPECT_EQ(doc().song(), before);
}

TEST_F(PitchSteps, ALockedSetKeepsItsPitch) {
  listen();
  doc().timingDesk().lockSet(true);
  const auto before = doc().song();
  press("tune on");
  EXPECT_EQ(doc().song(), before);
}

TEST_F(PitchSteps, ANoteDraggedSidewaysMovesInTimeAndItsNeighboursHold) {
  listen();
  const auto before = desk().notes();
  const auto from = middleOf(1);
  drag(from, from + QPointF(12, 2), Qt::ShiftModifier);
  const auto moved = Frames{std::llround(12 * window->view().framesPerPixel())};
  const auto after = desk().notes();
  ASSERT_EQ(after.size(), 4U);
  EXPECT_NEAR(static_cast<double>((after[1].start - before[1].start - moved).value), 0, 200);
  EXPECT_NEAR(static_cast<double>((after[1].end - before[1].end - moved).value), 0, 200);
  for (const std::size_t i : {0U, 2U, 3U}) {
    EXPECT_EQ(after[i].start, before[i].start) << i;
    EXPECT_EQ(after[i].end, before[i].end) << i;
  }
  EXPECT_EQ(after[1].tuned.after, before[1].tuned.after) << "not in pitch";
  run("edit.undo");
  EXPECT_EQ(desk().notes()[1].start, before[1].start);
}

TEST_F(PitchSteps, ANotesEndIsDraggedToAnotherLength) {
  listen();
  const auto before = desk().notes();
  const QPointF end(window->view().xOf(before[1].end) - 1, middleOf(1).y());
  drag(end, end + QPointF(-24, 1), Qt::ShiftModifier);
  const auto after = desk().notes();
  EXPECT_EQ(after[1].start, before[1].start);
  EXPECT_LT(after[1].end, before[1].end - Frames{1'000});
  EXPECT_EQ(after[2].start, before[2].start);
}

TEST_F(PitchSteps, NotesAreNudgedInTimeByKeys) {
  listen();
  click(&lens(), middleOf(2));
  const auto before = desk().notes();
  const auto nudge = framesFromMs(doc().clipDesk().settings().nudgeMs, 48'000);
  run("this.mslater");
  EXPECT_EQ(desk().notes()[2].start, before[2].start + nudge);
  EXPECT_EQ(desk().notes()[2].end, before[2].end + nudge);
  run("pitch.shorter");
  EXPECT_EQ(desk().notes()[2].start, before[2].start + nudge);
  EXPECT_EQ(desk().notes()[2].end, before[2].end);
}

TEST_F(PitchSteps, ANoteIsSplitAtThePlayLineJoinedAgainAndSilenced) {
  listen();
  const auto note = desk().notes()[1];
  doc().transport().setCursor(note.start + (note.end - note.start) / 2);
  run("pitch.split");
  ASSERT_EQ(desk().notes().size(), 5U);
  doc().selection().chooseNotes({desk().notes()[1].name, desk().notes()[2].name});
  run("pitch.join");
  ASSERT_EQ(desk().notes().size(), 4U);
  ASSERT_EQ(desk().chosen().size(), 1U);
  EXPECT_EQ(desk().notes()[1].start, note.start);
  EXPECT_EQ(desk().notes()[1].end, note.end);
  run("pitch.silence");
  doc().jobs().finishAll();
  const auto silent = exported({note.start + Frames{2'400}, note.end - Frames{2'400}});
  for (const float x : silent) ASSERT_EQ(x, 0.0F);
  run("pitch.silence");
  doc().jobs().finishAll();
  const auto back = exported({note.start, note.end});
  EXPECT_TRUE(std::any_of(back.begin(), back.end(), [](float x) { return std::abs(x) > 0.01F; }));
}

TEST_F(PitchSteps, TheControlsCanBeMeantForTheChosenNotesAlone) {
  listen();
  press("tune on");
  click(&lens(), middleOf(1));
  press("own values");
  desk().setOwn(0, 100.0);
  EXPECT_NEAR(desk().notes()[1].tuned.after, desk().notes()[1].tuned.parts.centre, 0.01) << "its centre is kept";
  EXPECT_NEAR(desk().notes()[0].tuned.after, centsOfMidi(60), 1);
  EXPECT_EQ(desk().settings().keepCentre, 0);
  run("pitch.giveback");
  EXPECT_NEAR(desk().notes()[1].tuned.after, centsOfMidi(64), 1);
}

TEST_F(PitchSteps, TheReferenceIsMeasuredFromTheNotes) {
  voice.notes = {{0.5, 0.7, 60.3}, {1.4, 0.7, 64.3}, {2.3, 0.7, 67.3}, {3.2, 0.9, 62.3}};
  test::writeWav(scratch / "Sharp.wav", voice.samples());
  window->takeIn({QString::fromStdString((scratch / "Sharp.wav").string())}, false);
  doc().jobs().finishAll();
  doc().selection().chooseSet(doc().song().sets.back().id);
  listen();
  press("measure reference");
  EXPECT_NEAR(desk().settings().scale.reference, 440 * std::exp2(0.3 / 12), 1.0);
  for (const auto& n : desk().notes()) EXPECT_NEAR(desk().off(n.tuned.parts.centre), 0, 6);
}

TEST_F(PitchSteps, ADoubtfulNoteIsListedSteppedToAndLeftAsSung) {
  listen();
  press("tune on");
  // The third note was sung between two pitches of C major's pentatonic; the whole is looked at against it.
  auto s = desk().settings();
  s.scale = *parseScale("C# major pentatonic");
  desk().setSettings("scale", s);
  doc().jobs().finishAll();
  const auto& checks = doc().attention().checks();
  const auto found = std::find_if(checks.begin(), checks.end(), [](const Check& c) { return c.note.has_value(); });
  ASSERT_NE(found, checks.end());
  const auto note = *found->note;
  for (std::size_t i = 0; i <= checks.size() && (desk().chosen().empty() || desk().chosen()[0].name != note); ++i)
    run("checks.next");
  ASSERT_EQ(desk().chosen().size(), 1U);
  EXPECT_EQ(desk().chosen()[0].name, note);
  run("checks.fix");
  for (const auto& n : desk().notes())
    if (n.name == note) EXPECT_TRUE(n.wish.asSung);
  for (const auto& c : doc().attention().checks()) EXPECT_NE(c.note, note);
}

TEST_F(PitchSteps, ANoteIsChosenInTheStripOfDeviationsAndNotMovedThere) {
  listen();
  const auto before = doc().song();
  const QPointF at(middleOf(1).x(), lens().height() - 20);
  drag(at, at + QPointF(0, 14));
  ASSERT_EQ(desk().chosen().size(), 1U);
  EXPECT_EQ(desk().chosen().front().name, desk().notes()[1].name);
  EXPECT_EQ(doc().song(), before);
}

TEST_F(PitchSteps, TheTunerNamesTheNoteThatPlays) {
  auto* tuner = window->findChild<Tuner*>();
  ASSERT_TRUE(tuner);
  tuner->listen(Frames{static_cast<std::int64_t>(1.8 * 48'000)});
  doc().jobs().finishAll();
  ASSERT_TRUE(tuner->heard());
  EXPECT_NEAR(*tuner->heard(), centsOfMidi(64.2), 6);
}

}  // namespace
}  // namespace ochron
