// Keys tried on a track by mouse and keys: heard without a change, kept as a transposition, given up.

#include <QAbstractButton>
#include <QDoubleSpinBox>
#include <cmath>

#include "analysis/pitch.h"
#include "app/window_fixture.h"
#include "document/key_desk.h"
#include "steps/key_row.h"
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
    doc().setActiveSet(doc().song().sets.front().id);
    run("step.7");
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
  doc().playStop();
  QTest::mouseClick(find<QAbstractButton>("keep key"), Qt::LeftButton);
  doc().jobs().finishAll();
  EXPECT_FALSE(desk().trying());
  EXPECT_NEAR(pitchHeard() - was, 300, 6);
  EXPECT_EQ(*doc().song().sets[1].clips, *before.sets[1].clips);
  doc().undo();
  EXPECT_EQ(doc().song(), before);
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

}  // namespace
}  // namespace ochron
