// Tempo maps out of MIDI files.
#include <gtest/gtest.h>

#include "store/midi_file.h"
#include "store/midi_in.h"
#include "support/midi_bytes.h"
#include "support/scratch.h"

namespace ochron {
namespace {

using test::MidiBytes;

Result<MidiMap> mapIn(const MidiBytes& m) { return mapFromMidi(m.bytes(), "m.mid", 48'000, Frames{4'800}); }

TEST(MidiMap, HasTheFilesTemposMetersAndMarkers) {
  const auto read =
      mapIn(MidiBytes().tempo(0, 100).tempo(480 * 8, 50).meter(0, 4, 2).meter(480 * 8, 3, 2).marker(480 * 4, "Verse"));
  ASSERT_TRUE(read) << read.error().message;
  EXPECT_EQ(read->map.origin(), Frames{4'800});
  EXPECT_EQ(read->map.toFrames(Ticks{8 * kTicksPerQuarter}), Frames{4'800 + 8 * 28'800});
  EXPECT_EQ(read->map.toFrames(read->map.barStart(3)), Frames{4'800 + 8 * 28'800 + 3 * 57'600});
  EXPECT_EQ(read->map.meterOfBar(2), (Meter{3, 4}));
  ASSERT_EQ(read->markers.size(), 1U);
  EXPECT_EQ(read->markers[0].at, Ticks{4 * kTicksPerQuarter});
  EXPECT_EQ(read->markers[0].name, "Verse");
}

TEST(MidiMap, AMeterThatBeginsInsideABarMakesThatBarShort) {
  const auto read = mapIn(MidiBytes().tempo(0, 120).meter(0, 4, 2).meter(480 * 6, 3, 2));
  ASSERT_TRUE(read);
  const auto& map = read->map;
  EXPECT_EQ(map.barStart(1), Ticks{4 * kTicksPerQuarter});
  EXPECT_EQ(map.barStart(2), Ticks{6 * kTicksPerQuarter}) << "two quarters were left";
  EXPECT_EQ(map.barStart(3), Ticks{9 * kTicksPerQuarter});
}

TEST(MidiMap, TheLastOfTwoTemposAtOnePlaceHolds) {
  const auto read = mapIn(MidiBytes().tempo(0, 90).tempo(0, 110));
  ASSERT_TRUE(read);
  EXPECT_NEAR(read->map.bpmAt(Ticks{}), 110, 1e-3);
}

TEST(MidiMap, NoTempoOrOneOutOfRangeIsRefusedWithASentence) {
  EXPECT_FALSE(mapIn(MidiBytes().note(0, 100, 60, 90)));
  const auto slow = mapIn(MidiBytes().tempo(0, 5));
  ASSERT_FALSE(slow);
  EXPECT_NE(slow.error().message.find("outside 10 to 999"), std::string::npos);
  EXPECT_FALSE(mapFromMidi("RIFF", "m.mid", 48'000, {}));
}

TEST(MidiMap, ComesBackAsItWasWrittenWithinTheFilesResolution) {
  const test::Scratch scratch;
  const auto map = *TempoMap::make(48'000, Frames{},
                                   {{Ticks{}, 93.7, false},
                                    {Ticks{7 * kTicksPerQuarter}, 101.2, false},
                                    {Ticks{26 * kTicksPerQuarter}, 88.8, false}},
                                   {{0, Meter{4, 4}}, {3, Meter{7, 8}}, {5, Meter{6, 8}}});
  Outputs outputs;
  ASSERT_TRUE(writeTempoMidi(map, scratch / "map.mid", outputs));
  ASSERT_TRUE(outputs.commit());
  const auto back = readMapMidi(scratch / "map.mid", 48'000, Frames{});
  ASSERT_TRUE(back) << back.error().message;
  for (int bar = 0; bar < 12; ++bar) {
    EXPECT_EQ(back->map.barStart(bar), map.barStart(bar)) << bar;
    const auto off = back->map.toFrames(map.barStart(bar)) - map.toFrames(map.barStart(bar));
    EXPECT_LE(std::abs(off.value), 5) << bar << ": a tempo is written to a millionth of a second a quarter";
  }
}

}  // namespace
}  // namespace ochron
