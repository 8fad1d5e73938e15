// Notes from other programs: read as they were written, and brought to a line.
#include "store/melody_file.h"

#include <gtest/gtest.h>

#include <cmath>
#include <fstream>
#include <random>

#include "files/outputs.h"
#include "reports/line_table.h"
#include "store/midi_file.h"
#include "support/scratch.h"
#include "tune/melody.h"

namespace ochron {
namespace {

double hertzOf(double midi) { return 440 * std::exp2((midi - 69) / 12); }
double centsApart(double a, double b) { return std::abs(1200 * std::log2(a / b)); }

/// Notes of any pitch and length, apart or touching.
SungLine anyLine(unsigned seed) {
  std::mt19937 dice(seed);
  std::uniform_real_distribution<double> any(0, 1);
  SungLine line;
  double at = 0.2;
  for (int i = 0; i < 40; ++i) {
    if (any(dice) < 0.5) at += 0.5 * any(dice);
    const double end = at + 0.06 + any(dice);
    line.notes.push_back({at, end, hertzOf(36 + 50 * any(dice))});
    at = end;
  }
  line.track.values.resize(static_cast<std::size_t>(at / PitchTrack::kHop) + 10);
  for (const auto& n : line.notes)
    for (auto t = PitchTrack::valueAt(n.start) + 1; t < PitchTrack::valueAt(n.end); ++t)
      line.track.values[t] = {n.hertz, 0.9};
  return line;
}

void expectSame(const std::vector<SungNote>& read, const std::vector<SungNote>& written, double cents, double seconds) {
  ASSERT_EQ(read.size(), written.size());
  for (std::size_t i = 0; i < read.size(); ++i) {
    EXPECT_NEAR(read[i].start, written[i].start, seconds) << i;
    EXPECT_NEAR(read[i].end, written[i].end, seconds) << i;
    EXPECT_LT(centsApart(read[i].hertz, written[i].hertz), cents) << i;
  }
}

class AnyLine : public ::testing::TestWithParam<unsigned> {};
INSTANTIATE_TEST_SUITE_P(Seeds, AnyLine, ::testing::Range(1u, 9u));

TEST_P(AnyLine, ComesBackFromCsv) {
  const auto line = anyLine(GetParam());
  const auto read = melodyFromText(notesToCsv(line), "x.csv");
  ASSERT_TRUE(read) << read.error().message;
  expectSame(*read, line.notes, 0.1, 1e-6);
}

TEST_P(AnyLine, ComesBackFromJams) {
  const auto line = anyLine(GetParam());
  const auto read = melodyFromText(lineToJams(line, "x", 60), "x.jams");
  ASSERT_TRUE(read) << read.error().message;
  expectSame(*read, line.notes, 0.1, 1e-6);
}

TEST_P(AnyLine, ComesBackFromMidiToItsCentsWithBendsAndToItsKeysWithout) {
  const test::Scratch scratch;
  const auto line = anyLine(GetParam());
  for (const bool bends : {true, false}) {
    const auto file = scratch / (bends ? "bent.mid" : "keys.mid");
    {
      Outputs outputs;
      ASSERT_TRUE(writeLineMidi(line, "x", bends, file, outputs));
      ASSERT_TRUE(outputs.commit());
    }
    const auto read = loadMelody(file);
    ASSERT_TRUE(read) << read.error().message;
    expectSame(*read, line.notes, bends ? 0.1 : 50.001, 0.001);
  }
}

TEST(Melody, ATableMayNameItsColumnsInAnyOrderOrNone) {
  const auto named = melodyFromText("cents,midi,end,start\n10,60,1,0\n-5,62,3,2\n", "x.csv");
  ASSERT_TRUE(named) << named.error().message;
  EXPECT_LT(centsApart((*named)[0].hertz, hertzOf(60.1)), 1e-6);
  EXPECT_LT(centsApart((*named)[1].hertz, hertzOf(61.95)), 1e-6);
  const auto marked = melodyFromText("\xef\xbb\xbfstart;end;hertz\n0;1;440\n", "x.csv");
  ASSERT_TRUE(marked) << marked.error().message;
  EXPECT_EQ(marked->size(), 1u) << "a byte order mark before the heading";
  const auto bare = melodyFromText("2;3;220\r\n0;2.5;110\r\n", "x.csv");
  ASSERT_TRUE(bare);
  EXPECT_EQ((*bare)[0].hertz, 110);
  EXPECT_EQ((*bare)[0].end, 2) << "it ends where the next begins";
}

TEST(Melody, WhatIsNoneIsRefusedWithASentence) {
  const auto line = anyLine(3);
  auto cut = lineToJams(line, "x", 60);
  cut.resize(cut.size() / 2);
  for (const auto& [text, why] : std::vector<std::pair<std::string, std::string>>{
           {"", "no note"},
           {"start,end,hertz\n", "no note"},
           {"start,end,hertz\n0,1,440\nhello\n", "line 3"},
           {"0,1,440\n0.005,1,550\n", "together"},
           {"1,0.5,440\n", "later"},
           {"0,1,nan\n", "line 1"},
           {"0,1,-3\n", "pitch"},
           {"0,1e300,440\n", "360000"},
           {cut, "JSON"},
           {"{\"annotations\": 3}", "annotations"},
           {"{\"annotations\": [{\"namespace\": \"beat\", \"data\": []}]}", "note_midi"},
           {"{\"annotations\": [{\"namespace\": \"note_midi\", \"data\": [{\"time\": 0}]}]}", "duration"},
           {"{\"notes\": [{\"start\": \"0\"}]}", "hz"},
           {"MThd and no more", "cannot be read"}}) {
    const auto read = melodyFromText(text, "tune.csv");
    ASSERT_FALSE(read) << text;
    EXPECT_NE(read.error().message.find("tune.csv"), std::string::npos);
    EXPECT_NE(read.error().message.find(why), std::string::npos) << read.error().message;
  }
  EXPECT_FALSE(loadMelody("/nowhere/at/all.mid"));
}

TEST(Melody, ALineTakesThePitchThatItSoundsTogetherWithInItsOwnOctave) {
  const std::vector<SungNote> melody{
      {0, 1, hertzOf(72)}, {1, 2, hertzOf(74)}, {2, 2.2, hertzOf(76)}, {5, 6, hertzOf(77)}};
  const std::vector<SungNote> line{
      {0.05, 0.9, hertzOf(60.3)}, {0.95, 1.9, hertzOf(62.4)}, {1.9, 2.25, hertzOf(64.1)}, {3, 4, hertzOf(65)}};
  const auto got = pitchesOf(melody, line);
  ASSERT_EQ(got.size(), 4u);
  EXPECT_NEAR(*got[0], centsOf(hertzOf(60)), 1e-6);
  EXPECT_NEAR(*got[1], centsOf(hertzOf(62)), 1e-6) << "it begins early";
  EXPECT_NEAR(*got[2], centsOf(hertzOf(64)), 1e-6) << "it begins before and ends after";
  EXPECT_FALSE(got[3]) << "nothing sounds there";
  EXPECT_TRUE(pitchesOf(melody, {}).empty());
  EXPECT_FALSE(pitchesOf({}, line)[0]);
}

}  // namespace
}  // namespace ochron
