// Performances that are notes: read from MIDI files, made heard, known to be notes ever after.
#include <gtest/gtest.h>

#include <cmath>

#include "media/decoded.h"
#include "media/midi_notes.h"
#include "support/midi_bytes.h"
#include "support/scratch.h"

namespace ochron {
namespace {

using test::MidiBytes;

MidiBytes tune() {
  MidiBytes m;
  m.tempo(0, 120).tempo(960, 60);
  m.note(0, 240, 60, 100).note(480, 700, 64, 40).note(960, 1440, 67, 127).note(1440, 1500, 36, 90, 9);
  return m;
}

TEST(MidiNotes, LieWhereTheFilesTemposPutThem) {
  const auto file = readMidi(tune().bytes(), "t.mid");
  ASSERT_TRUE(file) << file.error().message;
  const auto notes = playedNotes(*file, 48'000, "t.mid");
  ASSERT_TRUE(notes);
  ASSERT_EQ(notes->size(), 4U);
  EXPECT_EQ((*notes)[0].at, Frames{0});
  EXPECT_EQ((*notes)[0].end, Frames{12'000});
  EXPECT_EQ((*notes)[1].at, Frames{24'000});
  EXPECT_EQ((*notes)[2].at, Frames{48'000});
  EXPECT_EQ((*notes)[2].end, Frames{96'000}) << "a quarter at 60";
  EXPECT_EQ((*notes)[2].key, 67);
  EXPECT_FALSE((*notes)[2].drum);
  EXPECT_TRUE((*notes)[3].drum);
}

TEST(MidiNotes, OnesNeverLetGoOfEndWithTheTrackAndStruckAgainEndThere) {
  MidiBytes m;
  m.put(0, {'\x90', 60, 90}).put(480, {'\x90', 60, 80}).put(960, {'\xff', 1, 0});
  const auto file = readMidi(m.bytes(), "t.mid");
  ASSERT_TRUE(file);
  ASSERT_EQ(file->notes.size(), 2U);
  EXPECT_EQ(file->notes[0].end, 480);
  EXPECT_EQ(file->notes[1].end, 960);
}

TEST(MidiNotes, WithoutANoteOrTooLongAreRefusedWithASentence) {
  const auto empty = readMidi(MidiBytes().tempo(0, 100).bytes(), "e.mid");
  ASSERT_TRUE(empty);
  EXPECT_FALSE(playedNotes(*empty, 48'000, "e.mid"));
  MidiBytes slow;
  slow.tempo(0, 4).note(0, 100, 60, 90).note(480 * 2'000, 480 * 2'001, 60, 90);
  const auto file = readMidi(slow.bytes(), "s.mid");
  ASSERT_TRUE(file);
  const auto notes = playedNotes(*file, 48'000, "s.mid");
  ASSERT_FALSE(notes);
  EXPECT_NE(notes.error().message.find("three hours"), std::string::npos);
}

TEST(MidiNotes, ThousandsOfTemposCostNoMoreThanTheyAre) {
  MidiBytes many;
  for (int i = 0; i < 20'000; ++i) many.tempo(i * 8, i % 2 == 0 ? 100 : 200).note(i * 8, i * 8 + 4, 60, 90);
  const auto file = readMidi(many.bytes(), "m.mid");
  ASSERT_TRUE(file);
  const auto notes = playedNotes(*file, 48'000, "m.mid");
  ASSERT_TRUE(notes);
  // Half of the pulses at 100, half at 200.
  const double seconds = 8.0 * 10'000 / MidiBytes::kDivision * (60.0 / 100 + 60.0 / 200);
  EXPECT_NEAR(static_cast<double>(notes->back().at.value) / 48'000, seconds - 8.0 / MidiBytes::kDivision * 60 / 200,
              1e-3);
}

TEST(MidiNotes, AnyPartOfAFileIsReadOrRefused) {
  const auto whole = tune().bytes();
  for (std::size_t n = 0; n < whole.size(); ++n) (void)readMidi(std::string_view(whole).substr(0, n), "cut.mid");
  for (std::size_t n = 14; n < whole.size(); ++n) {
    auto bad = whole;
    bad[n] = static_cast<char>(bad[n] ^ 0x55);
    if (const auto read = readMidi(bad, "bad.mid"))
      for (const auto& note : read->notes) ASSERT_GE(note.end, note.at);
  }
}

std::vector<float> heard(const PlayedNotes& notes, std::size_t block) {
  PlainTones tones(notes);
  std::vector<float> out;
  std::vector<float> room(block);
  while (const auto got = tones.read(room)) out.insert(out.end(), room.begin(), room.begin() + got);
  return out;
}

TEST(PlainTones, EachNoteBeginsOnItsFrameAndBlocksDoNotMatter) {
  const PlayedNotes notes{{Frames{1'000}, Frames{9'000}, 60, 100, false},
                          {Frames{150'001}, Frames{160'000}, 72, 30, false},
                          {Frames{300'000}, Frames{300'100}, 38, 110, true}};
  const auto out = heard(notes, 4'096);
  EXPECT_EQ(out, heard(notes, 777));
  for (const auto& n : notes) {
    const auto at = static_cast<std::size_t>(n.at.value);
    double before = 0;
    double after = 0;
    for (std::size_t i = 0; i < 480; ++i) {
      before = std::max(before, std::abs(static_cast<double>(out[at - 1 - i])));
      after = std::max(after, std::abs(static_cast<double>(out[at + i])));
    }
    EXPECT_LT(before, 1e-4) << at;
    EXPECT_GT(after, 0.01) << at;
  }
}

TEST(PlainTones, AHarderNoteIsLouder) {
  const auto peak = [](int velocity) {
    double most = 0;
    for (const float x : heard({{Frames{0}, Frames{9'000}, 60, velocity, false}}, 4'096))
      most = std::max(most, std::abs(static_cast<double>(x)));
    return most;
  };
  EXPECT_GT(peak(127), 2 * peak(60));
  EXPECT_LT(peak(127), 0.5);
}

TEST(MidiRecording, IsReadAsSoundAndKnowsItsNotesAlsoFromTheCache) {
  const test::Scratch scratch;
  const auto file = tune().write(scratch / "take.mid");
  auto reader = AudioFileReader::open(file);
  ASSERT_TRUE(reader) << reader.error().message;
  EXPECT_EQ(reader->info().channels, 1);
  EXPECT_FALSE(reader->info().bpm) << "it changes";
  Progress progress;
  const DecodeSettings settings{scratch / "cache", 44'100, Damaged::refuse};
  for (int i = 0; i < 2; ++i) {
    const auto media = decodeMedia(file, "content", settings, progress);
    ASSERT_TRUE(media) << media.error().message;
    ASSERT_EQ((*media)->notes().size(), 4U) << i;
    EXPECT_EQ((*media)->notes()[1].at, Frames{22'050});
    EXPECT_GT((*media)->length(), Frames{44'100 * 3});
  }
}

TEST(MidiRecording, AFileWithoutNotesIsRefusedWithASentence) {
  const test::Scratch scratch;
  const auto reader = AudioFileReader::open(MidiBytes().tempo(0, 90).write(scratch / "map.mid"));
  ASSERT_FALSE(reader);
  EXPECT_NE(reader.error().message.find("holds no note"), std::string::npos);
}

}  // namespace
}  // namespace ochron
