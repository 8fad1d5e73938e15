// The song as a MIDI file, read by another program's reader (midicsv).

#include <gtest/gtest.h>

#include <cmath>
#include <map>
#include <sstream>

#include "edits/clip_edits.h"
#include "edits/mark_edits.h"
#include "feel/plan_timing.h"
#include "store/midi_file.h"
#include "support/process.h"
#include "support/scratch.h"
#include "support/song_maker.h"
#include "support/units.h"

namespace ochron {
namespace {

/// One line of midicsv: track, pulse, type, the rest.
struct Line {
  int track = 0;
  std::int64_t pulse = 0;
  std::string type;
  std::vector<std::string> rest;
};

std::vector<Line> readByOther(const std::filesystem::path& file) {
  const auto run = test::run({"/usr/bin/midicsv", file.string()});
  EXPECT_EQ(run.status, 0) << run.err;
  std::vector<Line> out;
  std::istringstream lines(run.out);
  for (std::string text; std::getline(lines, text);) {
    std::vector<std::string> parts;
    std::istringstream fields(text);
    for (std::string f; std::getline(fields, f, ',');) {
      f.erase(0, f.find_first_not_of(' '));
      parts.push_back(f);
    }
    if (parts.size() < 3) continue;
    out.push_back({std::stoi(parts[0]), std::stoll(parts[1]), parts[2], {parts.begin() + 3, parts.end()}});
  }
  return out;
}

int divisionOf(const std::vector<Line>& lines) { return std::stoi(lines.front().rest.at(2)); }

/// Seconds of a pulse after the file's beginning, by its tempos.
double secondsAt(const std::vector<Line>& lines, std::int64_t pulse) {
  const double division = divisionOf(lines);
  double seconds = 0;
  double us = 500'000;
  std::int64_t at = 0;
  for (const auto& l : lines) {
    if (l.type != "Tempo" || l.pulse > pulse) continue;
    seconds += static_cast<double>(l.pulse - at) / division * us / 1e6;
    at = l.pulse;
    us = std::stod(l.rest.at(0));
  }
  return seconds + static_cast<double>(pulse - at) / division * us / 1e6;
}

struct SongMidi : ::testing::Test {
  SongMidi() {
    const auto map = TempoMap::make(
        48'000, Frames{},
        {{Ticks{}, 120, false}, {Ticks{8 * kTicksPerQuarter}, 96, true}, {Ticks{14 * kTicksPerQuarter}, 132, false}},
        {{0, Meter{4, 4}}, {2, Meter{3, 4}}});
    std::vector<Hit> hits;
    for (int i = 0; i < 14; ++i) {
      Hit h;
      h.id = HitId{static_cast<std::uint64_t>(i + 1)};
      h.at = map->toFrames(Ticks{i * kTicksPerQuarter}) + Frames{i * 7};
      h.strength = 0.25 + 0.05 * i;
      h.confidence = 1;
      h.drum = i % 2 == 0 ? DrumClass::kick : DrumClass::snare;
      h.heardBy = {};
      h.origin = HitOrigin::user;
      hits.push_back(h);
    }
    made = test::songOf(*map, {std::vector<float>(48'000 * 9, 0.1F)}, hits);
    made.song = *addMarker(made.song, Ticks{4 * kTicksPerQuarter}, Ticks{}, "Verse");
    timing[made.set] = planTiming(made.song, made.set);
  }
  std::vector<Line> written(const TempoMap& tempo, Frames from = {}) {
    Outputs outputs;
    const auto file = scratch / "song.mid";
    EXPECT_TRUE(writeSongMidi(made.song, timing, made.pool, tempo, from, file, outputs));
    EXPECT_TRUE(outputs.commit());
    return readByOther(file);
  }
  static std::vector<Line> of(const std::vector<Line>& lines, const char* type) {
    std::vector<Line> out;
    for (const auto& l : lines)
      if (l.type == type) out.push_back(l);
    return out;
  }
  test::MadeSong made;
  std::map<SetId, TimingResult> timing;
  test::Scratch scratch;
};

TEST_F(SongMidi, EveryHitIsHeardWhereItIsWithinAFewPulses) {
  const auto lines = written(made.song.tempo);
  std::vector<Line> notes;
  for (const auto& l : of(lines, "Note_on_c"))
    if (l.rest.at(2) != "0") notes.push_back(l);
  ASSERT_EQ(notes.size(), timing[made.set].hits.size());
  for (std::size_t i = 0; i < notes.size(); ++i) {
    const double is = static_cast<double>(timing[made.set].hits[i].now.value) / 48'000;
    EXPECT_NEAR(secondsAt(lines, notes[i].pulse), is, 0.0008) << i;
    EXPECT_EQ(notes[i].rest.at(0), "9");
    EXPECT_EQ(notes[i].rest.at(1), i % 2 == 0 ? "36" : "38");
  }
}

TEST_F(SongMidi, WhatWasPlayedAsNotesIsWrittenAsThoseNotesWhereTheClipsHaveThem) {
  const auto media = made.song.takes.front().mics.front().media;
  made.pool[media] = DecodedMedia::fromSamples(
      48'000, {std::vector<float>(48'000 * 9)},
      {{Frames{24'000}, Frames{36'000}, 61, 77, false}, {Frames{400'000}, Frames{420'000}, 50, 40, false}});
  const auto clip = made.song.sets.front().clips->front().id;
  made.song = *moveClips(made.song, {clip}, Frames{12'000});
  const auto lines = written(made.song.tempo);
  const auto on = of(lines, "Note_on_c");
  ASSERT_EQ(on.size(), 2U);
  EXPECT_NEAR(secondsAt(lines, on[0].pulse), 0.75, 0.001);
  EXPECT_EQ(on[0].rest.at(1), "61");
  EXPECT_EQ(on[0].rest.at(2), "77");
  EXPECT_NEAR(secondsAt(lines, of(lines, "Note_off_c").at(0).pulse), 1.0, 0.001);
}

TEST_F(SongMidi, MetersMarkersAndNamesAreThere) {
  const auto lines = written(made.song.tempo);
  const auto meters = of(lines, "Time_signature");
  ASSERT_EQ(meters.size(), 2U);
  EXPECT_EQ(meters[0].rest.at(0), "4");
  EXPECT_EQ(meters[1].rest.at(0), "3");
  EXPECT_EQ(meters[1].pulse, 8 * divisionOf(lines));
  const auto markers = of(lines, "Marker_t");
  ASSERT_EQ(markers.size(), 1U);
  EXPECT_EQ(markers[0].pulse, 4 * divisionOf(lines));
  EXPECT_EQ(markers[0].rest.at(0), "\"Verse\"");
  const auto names = of(lines, "Title_t");
  ASSERT_FALSE(names.empty());
  EXPECT_EQ(names.back().rest.at(0), "\"" + made.song.find(made.set)->name + "\"");
}

TEST_F(SongMidi, ItBeginsWithTheBarThatIsExported) {
  const auto from = made.song.tempo.toFrames(Ticks{5 * kTicksPerQuarter});
  const auto lines = written(made.song.tempo, from);
  const auto notes = of(lines, "Note_on_c");
  ASSERT_FALSE(notes.empty());
  EXPECT_EQ(of(lines, "Marker_t").at(0).pulse, 0);
  const double first =
      static_cast<double>(
          (timing[made.set].hits[4].now - made.song.tempo.toFrames(Ticks{4 * kTicksPerQuarter})).value) /
      48'000;
  EXPECT_NEAR(secondsAt(lines, notes[0].pulse), first, 0.0008);
}

TEST_F(SongMidi, ALinesNotesAreHeldForAsLongAsTheySound) {
  SungLine line;
  line.track.values.resize(1'000);
  line.notes = {{1.0, 1.6, 440}, {2.0, 2.5, 262}};
  for (auto& f : made.song.takes.front().facts) f.line = line;
  const auto lines = written(made.song.tempo);
  const auto on = of(lines, "Note_on_c");
  const auto off = of(lines, "Note_off_c");
  ASSERT_EQ(on.size(), 2U);
  ASSERT_EQ(off.size(), 2U);
  EXPECT_EQ(on[0].rest.at(1), "69");
  EXPECT_EQ(on[1].rest.at(1), "60");
  EXPECT_NEAR(secondsAt(lines, on[0].pulse), 1.0, 0.0008);
  EXPECT_NEAR(secondsAt(lines, off[0].pulse), 1.6, 0.0008);
}

TEST_F(SongMidi, AMapThroughAFileIsTheMap) {
  Outputs outputs;
  const auto file = scratch / "map.mid";
  ASSERT_TRUE(writeTempoMidi(made.song.tempo, file, outputs));
  ASSERT_TRUE(outputs.commit());
  const auto lines = readByOther(file);
  for (int beat = 0; beat < 14; ++beat) {
    const double is = made.song.tempo.secondsFromOrigin(Ticks{beat * kTicksPerQuarter});
    EXPECT_NEAR(secondsAt(lines, static_cast<std::int64_t>(beat) * divisionOf(lines)), is, 0.0008) << beat;
  }
}

}  // namespace
}  // namespace ochron
