#include <gtest/gtest.h>
#include <smf.h>

#include <algorithm>
#include <array>
#include <fstream>
#include <nlohmann/json.hpp>
#include <random>

#include "reports/hit_table.h"
#include "store/groove_file.h"
#include "store/midi_file.h"
#include "store/midi_in.h"
#include "store/project.h"
#include "support/scratch.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

struct ReadNote {
  double seconds = 0;
  int number = 0;
  int velocity = 0;
};

/// Notes with their times by the file's own tempo map, as another program would hear them.
std::vector<ReadNote> notesIn(const std::filesystem::path& file) {
  std::vector<ReadNote> out;
  smf_t* smf = smf_load(file.c_str());
  if (!smf) return out;
  while (const auto* e = smf_get_next_event(smf))
    if ((e->midi_buffer[0] & 0xf0) == 0x90 && e->midi_buffer[2] > 0)
      out.push_back({e->time_seconds, e->midi_buffer[1], e->midi_buffer[2]});
  smf_delete(smf);
  return out;
}

test::MadeSong songWithTempoChanges() {
  const auto map =
      *TempoMap::make(48'000, Frames{4800}, {{Ticks{0}, 100, true}, {Ticks{kTicksPerQuarter * 8}, 140, false}},
                      {{0, {4, 4}}, {2, {7, 8}}});
  std::vector<Hit> hits;
  for (int i = 0; i < 14; ++i) {
    Hit h;
    h.at = Frames{6000 + 17'000 * i};
    h.strength = 0.1 + 0.06 * i;
    h.confidence = 1;
    h.drum = static_cast<DrumClass>(i % 6);
    hits.push_back(h);
  }
  return test::songOf(map, {std::vector<float>(48'000 * 6, 0.1f)}, hits);
}

Result<void> writeHits(const Song& song, const TimingResult& timing, const std::filesystem::path& file) {
  Outputs outputs;
  if (auto ok = writeHitsMidi(song, timing, "kit", file, outputs); !ok) return ok;
  return outputs.commit();
}

Result<void> written(const Groove& groove, const std::filesystem::path& file) {
  Outputs outputs;
  if (auto ok = writeGroove(groove, file, outputs); !ok) return ok;
  return outputs.commit();
}

TEST(MidiFile, HitsStandAtTheirSecondsUnderTheFilesOwnTempoMap) {
  const test::Scratch scratch;
  const auto m = songWithTempoChanges();
  const auto timing = planTiming(m.song, m.set);
  ASSERT_TRUE(writeHits(m.song, timing, scratch / "hits.mid"));
  const auto notes = notesIn(scratch / "hits.mid");
  ASSERT_EQ(notes.size(), timing.hits.size());
  for (std::size_t i = 0; i < notes.size(); ++i) {
    const double wanted = static_cast<double>((timing.hits[i].now - m.song.tempo.origin()).value) / 48'000;
    EXPECT_NEAR(notes[i].seconds, wanted, 0.0015) << i;
    EXPECT_EQ(notes[i].number, (std::array{36, 38, 45, 42, 49, 39}[i % 6])) << i;
    if (i > 0) EXPECT_GT(notes[i].velocity, notes[i - 1].velocity);
  }
}

TEST(MidiFile, HitsBeforeBarOneAreWrittenFromTheirOwnBar) {
  const test::Scratch scratch;
  auto m = songWithTempoChanges();
  m.song.tempo = *TempoMap::steady(48'000, 120, {}, Frames{100'000});
  const auto timing = planTiming(m.song, m.set);
  ASSERT_TRUE(writeHits(m.song, timing, scratch / "early.mid"));
  const auto notes = notesIn(scratch / "early.mid");
  ASSERT_EQ(notes.size(), timing.hits.size());
  EXPECT_NEAR(notes.front().seconds, (6000 - (100'000 - 96'000)) / 48'000.0, 0.001);
}

TEST(MidiFile, WithoutHitsThereIsASentenceAndNoFile) {
  const test::Scratch scratch;
  const auto m = songWithTempoChanges();
  const auto r = writeHits(m.song, {}, scratch / "none.mid");
  ASSERT_FALSE(r.has_value());
  EXPECT_FALSE(std::filesystem::exists(scratch / "none.mid"));
  std::ofstream(scratch / "no") << "a file, not a folder";
  const auto nowhere = writeHits(m.song, planTiming(m.song, m.set), scratch / "no" / "folder.mid");
  ASSERT_FALSE(nowhere.has_value());
  EXPECT_NE(nowhere.error().message.find((scratch / "no").string()), std::string::npos) << nowhere.error().message;
}

TEST(GrooveMidi, WrittenAndReadAgainItIsTheSameWithinAMillisecond) {
  const test::Scratch scratch;
  Groove g{
      "lazy", {8, StepKind::straight, 50}, {4, 4}, {-6, 0, 11, 4, 0, 0, 14, -3}, {1, 0.5, 0.8, 0.3, 0, 0.4, 0.9, 0.2}};
  ASSERT_TRUE(written(g, scratch / "lazy.mid"));
  const auto back = readGrooveFile(scratch / "lazy.mid", g.grid);
  ASSERT_TRUE(back.has_value()) << back.error().message;
  EXPECT_EQ(back->name, "lazy");
  EXPECT_EQ(back->meter, g.meter);
  ASSERT_EQ(back->offsetsMs.size(), 8u);
  for (std::size_t i = 0; i < 8; ++i) {
    EXPECT_NEAR(back->offsetsMs[i], g.offsetsMs[i], 1.0) << i;
    EXPECT_NEAR(back->loudness[i], g.loudness[i], 0.02) << i;
  }
}

TEST(GrooveMidi, DamagedFilesAreRefusedAndNeverCrash) {
  const test::Scratch scratch;
  Groove g{"g", {16, StepKind::straight, 50}, {4, 4}, std::vector<double>(16, 5.0), std::vector<double>(16, 0.5)};
  ASSERT_TRUE(written(g, scratch / "good.mid"));
  const auto good = *readWholeFile(scratch / "good.mid", 1 << 20);
  std::mt19937_64 dice(3);
  const auto file = scratch / "bad.mid";
  for (std::size_t n = 0; n < good.size(); n += 5) {
    std::ofstream(file, std::ios::binary) << good.substr(0, n);
    const auto r = readGrooveFile(file, g.grid);
    if (!r) EXPECT_NE(r.error().message.find("bad.mid"), std::string::npos);
  }
  for (int i = 0; i < 400; ++i) {
    auto bad = good;
    for (int k = 0; k < 3; ++k) bad[dice() % bad.size()] = static_cast<char>(dice());
    std::ofstream(file, std::ios::binary) << bad;
    const auto r = readGrooveFile(file, g.grid);
    if (r) EXPECT_EQ(r->offsetsMs.size(), r->loudness.size());
  }
}

TEST(HitTable, CsvQuotesNamesAndHasOneLineAHit) {
  auto m = songWithTempoChanges();
  m.song.takes.front().name = "Take \"one\", again";
  const auto timing = planTiming(m.song, m.set);
  const auto csv = hitsToCsv(m.song, timing);
  EXPECT_EQ(std::count(csv.begin(), csv.end(), '\n'), static_cast<std::ptrdiff_t>(timing.hits.size()) + 1);
  EXPECT_NE(csv.find("\"Take \"\"one\"\", again\",1,1."), std::string::npos);
  EXPECT_NE(csv.find(",kick,0.125000,"), std::string::npos);
}

TEST(HitTable, JsonSaysWhatThePlanSays) {
  const auto m = songWithTempoChanges();
  const auto timing = planTiming(m.song, m.set);
  const auto j = nlohmann::json::parse(hitsToJson(m.song, timing));
  ASSERT_EQ(j["hits"].size(), timing.hits.size());
  EXPECT_EQ(j["hits"][3]["class"], "hat");
  EXPECT_DOUBLE_EQ(j["hits"][3]["time"], static_cast<double>(timing.hits[3].home.value) / 48'000);
}

TEST(GrooveFile, NamesBecomeFileNamesThatEveryFileSystemTakes) {
  EXPECT_EQ(grooveFileName("Ada's verse / take: 2"), "Ada's verse _ take_ 2.groove.json");
  EXPECT_EQ(grooveFileName("../.."), "_...groove.json");
}

}  // namespace
}  // namespace ochron
