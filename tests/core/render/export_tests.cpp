// What an export writes: which files, under which names, at which rate, level and width.

#include "render/export.h"

#include <gtest/gtest.h>

#include <cmath>
#include <fstream>

#include "edits/clip_edits.h"
#include "edits/mark_edits.h"
#include "edits/pitch_edits.h"
#include "render/render.h"
#include "support/scratch.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

struct Exports : ::testing::Test {
  Exports() {
    test::Style style;
    style.bars = 4;
    made = test::songOf(test::perform(style));
    plan = compilePlan(made.song, made.pool);
    settings.samples = SampleFormat::float32;
    settings.range = {Frames{}, Frames{96'000}};
  }
  Result<ExportReport> write(const std::filesystem::path& target) {
    Progress progress;
    Outputs outputs;
    auto report = exportSong(made.song, plan, settings, target, outputs, progress);
    if (report) EXPECT_TRUE(outputs.commit());
    return report;
  }
  static AudioFileInfo infoOf(const std::filesystem::path& file) {
    const auto r = AudioFileReader::open(file);
    EXPECT_TRUE(r) << file;
    return r ? r->info() : AudioFileInfo{};
  }
  static std::vector<float> soundOf(const std::filesystem::path& file) {
    auto r = AudioFileReader::open(file);
    EXPECT_TRUE(r) << file;
    if (!r) return {};
    std::vector<float> x(static_cast<std::size_t>(r->info().length.value * r->info().channels));
    EXPECT_TRUE(r->read(x));
    return x;
  }

  test::MadeSong made;
  RenderPlan plan;
  ExportSettings settings;
  test::Scratch scratch;
};

TEST_F(Exports, OneSoundGoesIntoSeveralFormatsAtOnce) {
  settings.also = {FileFormat::flac, FileFormat::mp3, FileFormat::opus, FileFormat::wav};
  const auto report = write(scratch / "mix.wav");
  ASSERT_TRUE(report) << report.error().message;
  EXPECT_EQ(report->files.size(), 4U) << "the first format only once";
  for (const char* name : {"mix.wav", "mix.flac", "mix.mp3", "mix.opus"})
    EXPECT_EQ(infoOf(scratch / name).length.value, 96'000) << name;
}

TEST_F(Exports, TheKeyThatTunedLinesAreBroughtToIsToldWhileItSoundsAsItWasSet) {
  settings.format = FileFormat::flac;
  int written = 0;
  const auto told = [&] {
    const auto file = scratch / (std::to_string(++written) + ".flac");
    EXPECT_TRUE(write(file));
    std::ifstream in(file, std::ios::binary);
    const std::string bytes{std::istreambuf_iterator<char>(in), {}};
    const auto at = bytes.find("INITIALKEY=");
    return at == std::string::npos ? std::string() : bytes.substr(at + 11, 2);
  };
  EXPECT_EQ(told(), "") << "nothing is tuned";
  TuneSettings tune;
  tune.on = true;
  tune.scale = *parseScale("A minor");
  made.song = *setTuning(made.song, made.set, tune);
  EXPECT_EQ(told(), "Am");
  made.song = *setEnvelope(made.song, {EnvelopeKind::songSpeed, {}, {}}, {{Frames{}, 130, 0}});
  made.song.speedManner.exported = true;
  made.song.speedManner.keepsPitch = false;
  EXPECT_EQ(told(), "") << "a faster tape has another key";
}

TEST_F(Exports, AnotherRateIsThatLongAndNoneOfItIsLost) {
  settings.rate = 44'100;
  ASSERT_TRUE(write(scratch / "mix.wav"));
  EXPECT_EQ(infoOf(scratch / "mix.wav").rate, 44'100);
  EXPECT_EQ(infoOf(scratch / "mix.wav").length.value, 88'200);
  settings.rate = 96'000;
  ASSERT_TRUE(write(scratch / "twice.wav"));
  settings.rate = 0;
  ASSERT_TRUE(write(scratch / "same.wav"));
  const auto twice = soundOf(scratch / "twice.wav");
  const auto same = soundOf(scratch / "same.wav");
  ASSERT_EQ(twice.size(), 2 * same.size());
  const auto alike = [&](std::ptrdiff_t later) {
    double sum = 0;
    for (std::ptrdiff_t i = 2000; i + 2000 < std::ssize(same) / 2; ++i)
      sum += static_cast<double>(twice[static_cast<std::size_t>(2 * (2 * i + later))]) *
             static_cast<double>(same[static_cast<std::size_t>(2 * i)]);
    return sum;
  };
  EXPECT_GT(alike(0), alike(1)) << "in time with it, to half a frame";
  EXPECT_GT(alike(0), alike(-1));
}

TEST_F(Exports, AFormatThatCannotHaveTheRateHasTheNearest) {
  settings.rate = 44'100;
  settings.also = {FileFormat::opus};
  ASSERT_TRUE(write(scratch / "mix.wav"));
  EXPECT_EQ(infoOf(scratch / "mix.opus").rate, 48'000);
  EXPECT_EQ(infoOf(scratch / "mix.opus").length.value, 96'000);
}

TEST_F(Exports, MonoIsTheMeanOfBothSides) {
  ASSERT_TRUE(write(scratch / "stereo.wav"));
  settings.mono = true;
  ASSERT_TRUE(write(scratch / "mono.wav"));
  const auto stereo = soundOf(scratch / "stereo.wav");
  const auto mono = soundOf(scratch / "mono.wav");
  ASSERT_EQ(stereo.size(), 2 * mono.size());
  for (std::size_t i = 0; i < mono.size(); ++i) ASSERT_EQ(mono[i], (stereo[2 * i] + stereo[2 * i + 1]) / 2);
}

TEST_F(Exports, AMicSetIsOneFileWithItsMicsSideBySide) {
  settings.what = ExportWhat::tracks;
  ASSERT_TRUE(write(scratch / "tracks"));
  settings.what = ExportWhat::sets;
  const auto report = write(scratch / "sets");
  ASSERT_TRUE(report) << report.error().message;
  ASSERT_EQ(report->files.size(), 1U);
  const auto all = soundOf(report->files.front());
  const auto wide = static_cast<std::size_t>(infoOf(report->files.front()).channels);
  ASSERT_EQ(wide, made.song.tracks.size());
  for (std::size_t t = 0; t < wide; ++t) {
    const auto own = soundOf(scratch / "tracks" / (made.song.tracks[t].name + ".wav"));
    for (std::size_t i = 0; i < own.size(); ++i) ASSERT_EQ(all[i * wide + t], own[i]) << t;
  }
}

TEST_F(Exports, SectionsAreFilesOfTheirOwnAndMarkersWhereThereAreNone) {
  settings.what = ExportWhat::sections;
  const auto none = write(scratch / "none");
  ASSERT_FALSE(none);
  EXPECT_NE(none.error().message.find("no sections or markers"), std::string::npos) << none.error().message;
  const auto bar = [&](int n) { return made.song.tempo.barStart(n); };
  made.song = *addMarker(made.song, bar(0), Ticks{}, "count");
  made.song = *addMarker(made.song, bar(1), Ticks{}, "groove");
  settings.range = {Frames{}, made.song.end()};
  const auto byMarkers = exportStems(made.song, settings, "out");
  ASSERT_TRUE(byMarkers);
  ASSERT_EQ(byMarkers->size(), 2U);
  EXPECT_EQ((*byMarkers)[0].files.front().file, "out/01 count.wav");
  EXPECT_EQ((*byMarkers)[1].range, (FrameRange{made.song.tempo.toFrames(bar(1)), made.song.end()}));
  made.song = *addMarker(made.song, bar(1), bar(2) - bar(1), "Verse");
  const auto report = write(scratch / "sections");
  ASSERT_TRUE(report) << report.error().message;
  ASSERT_EQ(report->files.size(), 1U) << "where there are sections, markers divide nothing";
  const auto length = made.song.tempo.toFrames(bar(2)) - made.song.tempo.toFrames(bar(1));
  EXPECT_EQ(infoOf(scratch / "sections" / "01 Verse.wav").length, length);
}

TEST_F(Exports, AClipIsAFileOfWhatItsTracksHaveFromItsBeginningToItsEnd) {
  const auto set = made.song.sets.front().id;
  std::vector<Frames> cuts;
  for (std::int64_t at = 1; at <= 60; ++at) cuts.push_back(Frames{at * 1'500});  // more files than are open at once
  made.song = *splitAt(made.song, set, cuts, Frames{96});
  const auto& clips = *made.song.sets.front().clips;
  made.song = *changeClips(made.song, {clips[2].id}, [](Clip& c) { c.muted = true; });
  plan = compilePlan(made.song, made.pool);
  settings.what = ExportWhat::tracks;
  ASSERT_TRUE(write(scratch / "tracks"));
  settings.what = ExportWhat::clips;
  settings.mono = true;  // has no say: mics are kept apart
  const auto report = write(scratch / "clips");
  ASSERT_TRUE(report) << report.error().message;
  std::vector<Clip> heard;
  for (const auto& c : *made.song.sets.front().clips)
    if (!c.muted && settings.range.contains(c.start)) heard.push_back(c);
  ASSERT_EQ(report->files.size(), heard.size());
  ASSERT_GT(heard.size(), 55U);
  const auto wide = made.song.tracks.size();
  for (std::size_t n = 0; n + 1 < heard.size(); ++n) {
    const auto all = soundOf(report->files[n]);
    ASSERT_EQ(all.size(), wide * static_cast<std::size_t>(heard[n].length.value)) << n;
    for (std::size_t t = 0; t < wide; ++t) {
      static std::map<std::size_t, std::vector<float>> tracks;
      if (!tracks.contains(t)) tracks[t] = soundOf(scratch / "tracks" / (made.song.tracks[t].name + ".wav"));
      const auto from = static_cast<std::size_t>(heard[n].start.value);
      for (std::size_t i = 0; i * wide < all.size(); ++i) ASSERT_EQ(all[i * wide + t], tracks[t][from + i]) << n;
    }
  }
  settings.clips = {heard[4].id, heard[7].id};
  settings.names = "{clip} of {set} {number}";
  const auto chosen = exportStems(made.song, settings, "out");
  ASSERT_TRUE(chosen) << chosen.error().message;
  ASSERT_EQ(chosen->size(), 2U);
  EXPECT_EQ((*chosen)[1].range, heard[7].range());
  const auto& name = made.song.sets.front().name;
  EXPECT_EQ((*chosen)[1].files.front().file.string(), "out/" + name + " of " + name + " 02.wav");
}

TEST_F(Exports, NamesComeFromAPatternAndAreEachOnce) {
  settings.what = ExportWhat::tracks;
  settings.names = "{song} {number} {track} {tempo}";
  made.song.name = "Tides";
  const auto stems = exportStems(made.song, settings, "out");
  ASSERT_TRUE(stems) << stems.error().message;
  EXPECT_EQ(stems->front().files.front().file.string(), "out/Tides 01 " + made.song.tracks.front().name + " 120.wav");
  settings.names = "{song}";
  const auto same = exportStems(made.song, settings, "out");
  ASSERT_TRUE(same);
  EXPECT_EQ((*same)[0].files.front().file, "out/Tides.wav");
  EXPECT_EQ((*same)[1].files.front().file, "out/Tides 2.wav");
  for (const char* wrong : {"{track", "{}", "{trak}"}) {
    settings.names = wrong;
    const auto refused = exportStems(made.song, settings, "out");
    ASSERT_FALSE(refused) << wrong;
    EXPECT_NE(refused.error().message.find("{section}"), std::string::npos) << "what there is, is said";
  }
}

TEST_F(Exports, AMixIsBroughtToALoudnessAndEveryTrackByTheSameGain) {
  settings.loudness = -30;
  const auto report = write(scratch / "mix.wav");
  ASSERT_TRUE(report && report->loudness);
  EXPECT_FALSE(report->loudness->heldByPeak);
  Progress progress;
  LoudnessMeter meter(48'000, 2);
  meter.add(soundOf(scratch / "mix.wav"));
  EXPECT_NEAR(meter.report().integrated.value_or(0), -30, 0.05);
  settings.what = ExportWhat::tracks;
  ASSERT_TRUE(write(scratch / "loud"));
  settings.loudness.reset();
  ASSERT_TRUE(write(scratch / "plain"));
  const auto name = made.song.tracks.front().name + ".wav";
  const auto loud = soundOf(scratch / "loud" / name);
  const auto plain = soundOf(scratch / "plain" / name);
  const auto gain = static_cast<float>(std::pow(10.0, report->loudness->gainDb / 20));
  for (std::size_t i = 0; i < loud.size(); ++i) ASSERT_NEAR(loud[i], plain[i] * gain, 1e-6F);
}

TEST_F(Exports, ALoudnessThatItsTruePeakForbidsIsHeldAndSaid) {
  settings.loudness = -1;
  const auto report = write(scratch / "mix.wav");
  ASSERT_TRUE(report && report->loudness);
  EXPECT_TRUE(report->loudness->heldByPeak);
  LoudnessMeter meter(48'000, 2);
  meter.add(soundOf(scratch / "mix.wav"));
  EXPECT_NEAR(meter.report().truePeak.value_or(0), kTruePeakCeiling, 0.05);
}

TEST_F(Exports, ASilentMixHasNoLoudnessToBeBroughtTo) {
  settings.loudness = -14;
  for (auto& t : made.song.tracks) t.muted = true;
  plan = compilePlan(made.song, made.pool);
  const auto report = write(scratch / "mix.wav");
  ASSERT_TRUE(report && report->loudness);
  EXPECT_EQ(report->loudness->gainDb, 0);
}

}  // namespace
}  // namespace ochron
