// Keys tried on a track by mouse and keys: heard without a change, kept as a transposition, given up.

#include <QAbstractButton>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <cmath>

#include "analysis/pitch/pitch.h"
#include "app/window_fixture.h"
#include "document/key_desk.h"
#include "document/selection.h"
#include "document/song_files.h"
#include "document/transport.h"
#include "lanes/lanes_view.h"
#include "steps/pitch/key_row.h"
#include "support/made_voice.h"

namespace ochron {
namespace {

struct TriedKey : test::Driven {
  void SetUp() override {
    QSettings().clear();
    QSettings().setValue("fold/try keys", true);
    MadeVoice voice;
    voice.seconds = 4;
    voice.notes = {{0.4, 1.2, 60}, {1.9, 1.6, 64}};
    test::writeWav(scratch / "Voice.wav", voice.samples());
    voice.notes = {{0.4, 1.2, 62}, {1.9, 1.6, 66}};
    test::writeWav(scratch / "Horn.wav", voice.samples());
    show();
    QStringList names;
    for (const char* name : {"Voice.wav", "Horn.wav"}) names << QString::fromStdString((scratch / name).string());
    window->takeIn(names, false);
    doc().jobs().finishAll();
    auto song = doc().song();
    song.tracks[1].muted = true;
    ASSERT_TRUE(doc().edit("mute", song));
    doc().selection().chooseSet(doc().song().sets.front().id);
    run("step.8");
    QTest::qWait(0);
    doc().jobs().finishAll();
  }
  KeyDesk& desk() { return doc().keyDesk(); }
  KeyRow& keys() { return *window->findChild<KeyRow*>(); }
  /// Of the first note, cents above 1 Hz.
  double pitchHeard() {
    Progress progress;
    const auto track = pitchOf(exported({Frames{}, Frames{4 * 48'000}}), 48'000, {}, progress);
    return centsOf(track->values.at(static_cast<std::size_t>(1.0 / PitchTrack::kHop)).hertz);
  }
};

TEST_F(TriedKey, IsTriedWithoutAChangeAndKeptAsATransposition) {
  const auto before = doc().song();
  const double was = pitchHeard();
  run("transport.play");
  click(&keys(), keys().boxOf(3).center());
  EXPECT_TRUE(desk().trying());
  EXPECT_EQ(desk().semitones(), 3);
  EXPECT_EQ(doc().song(), before);
  EXPECT_TRUE(hear(Frames{9'600})) << "it plays on";
  doc().transport().playStop();
  QTest::mouseClick(find<QAbstractButton>("keep key"), Qt::LeftButton);
  doc().jobs().finishAll();
  EXPECT_FALSE(desk().trying());
  EXPECT_NEAR(pitchHeard() - was, 300, 6);
  EXPECT_EQ(*doc().song().sets[1].clips, *before.sets[1].clips);
  doc().undo();
  EXPECT_EQ(doc().song(), before);
}

TEST_F(TriedKey, AButtonThatHasNothingMoreToDoGivesItsKeysToTheLanes) {
  for (const char* name : {"keep key", "key as recorded"}) {
    desk().tryKey(2, 0);
    auto* button = find<QAbstractButton>(name);
    ASSERT_TRUE(button->isEnabled()) << name;
    button->setFocus();
    ASSERT_TRUE(until([&] { return button->hasFocus(); })) << name;
    QTest::mouseClick(button, Qt::LeftButton);
    EXPECT_FALSE(button->isEnabled()) << name;
    EXPECT_TRUE(until([&] { return window->lanes().hasFocus(); })) << name;
    doc().jobs().finishAll();
  }
}

TEST_F(TriedKey, KeysOfTheComputerOctavesAndCentsAreTried) {
  keys().setFocus();
  QTest::keyClick(&keys(), Qt::Key_V);  // the fifth of twelve from five below
  EXPECT_EQ(desk().semitones(), 0);
  QTest::keyClick(&keys(), Qt::Key_Right);
  QTest::keyClick(&keys(), Qt::Key_Up);
  EXPECT_EQ(desk().semitones(), 13);
  QTest::keyClick(&keys(), Qt::Key_Z);
  EXPECT_EQ(desk().semitones(), 7) << "in the octave that is open";
  find<QDoubleSpinBox>("Cents to try")->setValue(25);
  EXPECT_EQ(desk().cents(), 25);
  for (int i = 0; i < 5; ++i) QTest::keyClick(&keys(), Qt::Key_Up);
  EXPECT_LE(desk().semitones(), 24);
  EXPECT_TRUE(status().contains("Two octaves"));
  QTest::keyClick(&keys(), Qt::Key_0);
  EXPECT_FALSE(desk().trying());
}

TEST_F(TriedKey, TheKeyThatFitsTheOtherTracksStandsOut) {
  ASSERT_TRUE(desk().fits());
  const auto& fits = *desk().fits();
  EXPECT_EQ(std::max_element(fits.begin(), fits.end()) - fits.begin(), 2) << "the horn is a whole tone higher";
}

TEST_F(TriedKey, UnderAPlanAllPiecesAreTransposedAndChosenClipsAlone) {
  desk().tryKey(-4, 0);
  desk().keep();
  doc().jobs().finishAll();
  for (const auto& c : *doc().song().sets[0].clips) {
    ASSERT_FALSE(c.extras->pitch.empty());
    EXPECT_EQ(c.extras->pitch.front().value, -400);
  }
  desk().tryKey(4, 0);
  desk().keep();
  for (const auto& c : *doc().song().sets[0].clips) EXPECT_TRUE(c.extras->pitch.empty());
  run("lock.set");
  desk().tryKey(2, 0);
  const auto before = doc().song();
  desk().keep();
  EXPECT_EQ(doc().song(), before) << "locked";
}

TEST_F(TriedKey, AKeyOfAKeyboardIsTriedAtOnceAndMiddleCIsAsRecorded) {
  auto keyboard = std::make_unique<SimulatedKeyboard>();
  auto* played = keyboard.get();
  desk().useKeyboard(std::move(keyboard));
  run("transport.play");
  ASSERT_TRUE(played->press(64));
  QTRY_VERIFY_WITH_TIMEOUT(desk().trying(), 50);
  EXPECT_EQ(desk().semitones(), 4);
  ASSERT_TRUE(played->press(55));
  ASSERT_TRUE(played->press(58));
  QTRY_VERIFY_WITH_TIMEOUT(desk().semitones() == -2, 50);
  ASSERT_TRUE(played->press(60));
  QTRY_VERIFY_WITH_TIMEOUT(!desk().trying(), 50);
  doc().transport().playStop();
  // Keys far away are tried in the nearest octave that can be heard.
  ASSERT_TRUE(played->press(108));
  QTRY_VERIFY_WITH_TIMEOUT(desk().trying(), 50);
  EXPECT_EQ(desk().semitones(), 24);
}

TEST_F(TriedKey, ALineThatWasListenedForIsTransposedByItsPlanAndItsFormantsStay) {
  const double was = pitchHeard();
  run("pitch.hear");
  doc().jobs().finishAll();
  click(&keys(), keys().boxOf(4).center());
  QTest::mouseClick(find<QAbstractButton>("keep key"), Qt::LeftButton);
  doc().jobs().finishAll();
  const auto& set = *doc().song().find(doc().selection().set());
  EXPECT_EQ(set.pitch->settings.transpose, 400);
  for (const auto& c : *set.clips) EXPECT_TRUE(c.extras->pitch.empty());
  EXPECT_NEAR(pitchHeard() - was, 400, 5);
  run("edit.undo");
  doc().jobs().finishAll();
  EXPECT_NEAR(pitchHeard(), was, 1);
}

TEST_F(TriedKey, AKeyPlayedOnAKeyboardIsKept) {
  const double was = pitchHeard();
  auto keyboard = std::make_unique<SimulatedKeyboard>();
  auto* played = keyboard.get();
  desk().useKeyboard(std::move(keyboard));
  ASSERT_TRUE(played->press(63));
  QTRY_VERIFY(desk().trying());
  QTest::mouseClick(find<QAbstractButton>("keep key"), Qt::LeftButton);
  doc().jobs().finishAll();
  EXPECT_NEAR(pitchHeard() - was, 300, 15);
}

TEST_F(TriedKey, TheComputersKeysPlayTheSimulatedKeyboardOnceItIsChosen) {
  auto* choice = find<QComboBox>("keyboard");
  const int simulated = choice->findData(QString(SimulatedKeyboard::kName));
  ASSERT_GE(simulated, 0);
  QMetaObject::invokeMethod(choice, "activated", Q_ARG(int, simulated));
  ASSERT_TRUE(desk().keyboard());
  keys().setFocus();
  QTest::keyClick(&keys(), Qt::Key_G);  // the seventh: one above middle C
  QTRY_VERIFY_WITH_TIMEOUT(desk().trying(), 50);
  EXPECT_EQ(desk().semitones(), 1);
  QMetaObject::invokeMethod(choice, "activated", Q_ARG(int, 0));
  EXPECT_FALSE(desk().keyboard());
}

TEST_F(TriedKey, AnotherOpenSongTakesNoKeysOfTheOldOne) {
  auto keyboard = std::make_unique<SimulatedKeyboard>();
  auto* played = keyboard.get();
  desk().useKeyboard(std::move(keyboard));
  doc().files().newSong();
  ASSERT_TRUE(played->press(64));
  QTest::qWait(40);
  EXPECT_FALSE(desk().trying()) << "there is no track to try it on";
}

}  // namespace
}  // namespace ochron
