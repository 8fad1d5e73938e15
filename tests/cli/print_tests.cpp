// orthochron-cli print, unprint, handover, check-handover, from-handover, loudness.

#include <gtest/gtest.h>

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>

#include "edits/clip_edits.h"
#include "edits/hit_edits.h"
#include "edits/insert_edits.h"
#include "edits/plan_edits.h"
#include "edits/take_edits.h"
#include "files/content_id.h"
#include "files/folder_lock.h"
#include "media/audio_file.h"
#include "seams/apply_plan.h"
#include "store/project.h"
#include "support/cli.h"
#include "support/many_mics.h"
#include "support/scratch.h"
#include "support/unwatched.h"

namespace ochron {
namespace {

namespace fs = std::filesystem;
using test::cli;

/// A project of one track of four seconds, cut twice, its clips moved apart.
struct Project : test::Scratch {
  Project() {
    std::vector<float> x(4 * 48'000);
    for (std::size_t i = 0; i < x.size(); ++i) x[i] = 0.3F * std::sin(static_cast<float>(i) * 0.02F);
    test::writeWav(path() / "Bass.wav", x);
    Song song;
    const auto id = contentId(path() / "Bass.wav", test::unwatched());
    ImportSettings settings;
    settings.takeName = "take";
    song = *importTake(
        song, {{"Bass", (path() / "Bass.wav").string(), *id, 1, 48'000, Frames{4 * 48'000}, {}, MicRole::none}},
        settings);
    song = *splitAt(song, song.sets[0].id, {Frames{50'000}, Frames{120'000}}, Frames{480});
    song = *changeClips(song, {song.sets[0].clips->at(1).id}, [](Clip& c) { c.gainDb = -6; });
    EXPECT_TRUE(saveProject(song, project));
  }
  std::string bytes(const fs::path& file) const {
    std::ifstream in(file, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
  }
  std::string rendered(const char* name) const {
    const auto file = (path() / name).string();
    EXPECT_EQ(cli({"render", project.string(), "--out", file}).status, 0);
    return bytes(file);
  }

  fs::path project = path() / "song.ochron";
};

TEST(CliPrint, OfARangeAtADepthAndAPeakSaysSoBeforeAndIsTakenBack) {
  const Project p;
  const auto song = openProject(p.project);
  const auto before = p.rendered("a.wav");
  const std::vector<std::string> asked{"print", p.project.string(), "--what", "Bass",   "--range",
                                       "1",     "--bits",           "16",     "--peak", "-2"};
  auto listing = asked;
  listing.emplace_back("--list");
  const auto listed = cli(listing);
  EXPECT_EQ(listed.status, 0) << listed.err;
  EXPECT_NE(listed.out.find("16-bit, dithered"), std::string::npos) << listed.out;
  EXPECT_NE(listed.out.find("level +8.5 dB, the clip's gain -8.5"), std::string::npos) << listed.out;
  const auto printed = cli(asked);
  ASSERT_EQ(printed.status, 0) << printed.err;
  const auto file = AudioFileReader::open(p.project / "media" / "Bass print.wav");
  ASSERT_TRUE(file);
  EXPECT_EQ(file->info().samples, SampleFormat::pcm16);
  EXPECT_EQ(file->info().length, Frames{96'000}) << "a bar at 120";
  const auto now = openProject(p.project);
  EXPECT_EQ(now->sets[0].clips->size(), 3U) << "two were printed, the third was cut";
  const auto after = p.rendered("b.wav");
  ASSERT_EQ(after.size(), before.size());
  ASSERT_EQ(cli({"unprint", p.project.string(), "--what", "Bass"}).status, 0);
  auto again = openProject(p.project);
  again->lastId = song->lastId;
  ASSERT_EQ(again->sets[0].clips->size(), song->sets[0].clips->size());
  EXPECT_EQ(cli({"print", p.project.string(), "--what", "Bass", "--range", "1", "--depth", "track"}).status, 2);
  EXPECT_EQ(cli({"print", p.project.string(), "--what", "Bass", "--range", "90"}).status, 2);
  EXPECT_EQ(cli({"print", p.project.string(), "--what", "Bass", "--tail", "2"}).status, 2);
  EXPECT_EQ(cli({"print", p.project.string(), "--what", "Bass", "--bits", "12"}).status, 1);
}

TEST(CliPrint, NullsWithWhatWasHeardAndIsTakenBackToTheSameSong) {
  const Project p;
  const auto before = p.rendered("a.wav");
  const auto song = openProject(p.project);
  const auto listed = cli({"print", p.project.string(), "--what", "Bass", "--list"});
  EXPECT_EQ(listed.status, 0) << listed.err;
  EXPECT_NE(listed.out.find("becomes audio"), std::string::npos);
  EXPECT_EQ(openProject(p.project)->prints.size(), 0U) << "only said";
  const auto printed = cli({"print", p.project.string(), "--what", "Bass", "--depth", "clip"});
  ASSERT_EQ(printed.status, 0) << printed.err;
  EXPECT_TRUE(fs::exists(p.project / "media" / "Bass print.wav"));
  EXPECT_EQ(p.rendered("b.wav"), before);
  const auto back = cli({"unprint", p.project.string(), "--what", "Bass"});
  ASSERT_EQ(back.status, 0) << back.err;
  EXPECT_EQ(p.rendered("c.wav"), before);
  auto again = openProject(p.project);
  again->lastId = song->lastId;
  EXPECT_EQ(*again, *song);
  EXPECT_EQ(cli({"unprint", p.project.string(), "--what", "Bass"}).status, 2) << "nothing is left to take back";
}

// As it is saved by a window that has not listened for its joints yet.
TEST(CliRender, ListensForJointsThatAreStillToBeHeard) {
  const test::Scratch scratch;
  const auto file = scratch / "Snare.wav";
  test::writeWav(file, test::denseStrokes(60));
  const auto sound = test::readAll(file);
  const auto id = contentId(file, test::unwatched());
  ImportSettings settings;
  settings.takeName = "take";
  Song song;
  song.tempo = *TempoMap::steady(48'000, 93.75);
  song = *importTake(song, {{"Snare", file.string(), *id, 1, 48'000, Frames{std::ssize(sound)}, {}, MicRole::none}},
                     settings);
  const auto set = song.sets.front().id;
  song = *setDetectedHits(song, song.takes.front().id, set, test::denseHits(60));
  TimingPlan plan = *song.find(set)->plan;
  plan.settings.on = true;
  const auto planned = setTimingPlan(song, set, plan);
  const MediaPool pool{{song.media.front().id, DecodedMedia::fromSamples(48'000, {sound})}};
  const auto rough = applyTimingPlan(*planned, set, {});
  const auto heard = applyTimingPlan(*planned, set, pool);
  ASSERT_TRUE(rough && heard);
  ASSERT_FALSE(*rough->sets.front().clips == *heard->sets.front().clips);
  const auto rendered = [&](const Song& s, const char* name) {
    const auto project = scratch / (std::string(name) + ".ochron");
    EXPECT_TRUE(saveProject(s, project));
    const auto out = scratch / (std::string(name) + ".wav");
    const auto run = cli({"render", project.string(), "--out", out.string()});
    EXPECT_EQ(run.status, 0) << run.err;
    std::ifstream in(out, std::ios::binary);
    return std::string{std::istreambuf_iterator<char>(in), {}};
  };
  const auto whole = rendered(*heard, "heard");
  ASSERT_GT(whole.size(), 100'000U);
  EXPECT_TRUE(rendered(*rough, "rough") == whole);
}

TEST(CliPrint, SaysWhatIsWrongAndChangesNothing) {
  const Project p;
  const auto before = p.bytes(p.project / "song.json");
  EXPECT_EQ(cli({"print", p.project.string(), "--what", "Flute"}).status, 2);
  EXPECT_EQ(cli({"print", p.project.string(), "--what", "clip 999"}).status, 2);
  EXPECT_EQ(cli({"print", p.project.string(), "--what", "Bass", "--depth", "deep"}).status, 1);
  EXPECT_EQ(cli({"print", p.project.string()}).status, 1);
  EXPECT_EQ(cli({"print", (p.path() / "none.ochron").string(), "--what", "all"}).status, 2);
  EXPECT_EQ(p.bytes(p.project / "song.json"), before);
  EXPECT_FALSE(fs::exists(p.project / "media"));
}

TEST(CliHandover, IsWholeIsCheckedAndBecomesAProject) {
  const Project p;
  const auto folder = (p.path() / "over").string();
  ASSERT_EQ(cli({"handover", p.project.string(), "--out", folder}).status, 0);
  EXPECT_EQ(cli({"check-handover", folder}).status, 0);
  EXPECT_EQ(cli({"handover", p.project.string(), "--out", folder}).status, 2) << "never over one that is there";
  const auto song = (p.path() / "again.ochron").string();
  ASSERT_EQ(cli({"from-handover", folder, "--out", song}).status, 0);
  EXPECT_EQ(cli({"from-handover", folder, "--out", song}).status, 2);
  EXPECT_EQ(openProject(song)->tracks.size(), 1U);
  std::ofstream(fs::path(folder) / "session.txt") << "other";
  const auto wrong = cli({"check-handover", folder});
  EXPECT_EQ(wrong.status, 2);
  EXPECT_NE(wrong.err.find("session.txt"), std::string::npos);
  EXPECT_EQ(cli({"check-handover", p.path().string()}).status, 2);
}

TEST(CliLoudness, MeasuresFilesAsTheStandardSays) {
  const test::Scratch scratch;
  std::vector<float> tone(20 * 48'000);
  for (std::size_t i = 0; i < tone.size(); ++i)
    tone[i] =
        static_cast<float>(std::pow(10, -20.0 / 20) * std::sin(2 * M_PI * 1000 * static_cast<double>(i) / 48'000));
  test::writeWav(scratch / "tone.wav", tone);
  const auto r = cli({"loudness", (scratch / "tone.wav").string(), "--json"});
  ASSERT_EQ(r.status, 0) << r.err;
  const auto j = nlohmann::json::parse(r.out)["files"][0];
  // One channel alone is 3 dB less than two alike.
  EXPECT_NEAR(j["integrated"].get<double>(), -23, 0.2);
  EXPECT_NEAR(j["true_peak"].get<double>(), -20, 0.2);
  EXPECT_EQ(cli({"loudness", (scratch / "none.wav").string()}).status, 2);
  EXPECT_EQ(cli({"loudness"}).status, 1);
}

TEST(CliRender, WritesSeveralFormatsAtARateADepthAndALoudnessAndReportsThem) {
  const Project p;
  const auto out = p.path() / "mix.wav";
  const auto r = cli({"render", p.project.string(), "--out", out.string(), "--format", "flac,mp3,opus", "--bits", "16",
                      "--rate", "44100", "--mono", "--loudness", "-20", "--report", (p.path() / "r.json").string()});
  ASSERT_EQ(r.status, 0) << r.err;
  EXPECT_NE(r.out.find("LUFS became -20.0"), std::string::npos) << r.out;
  const auto j = nlohmann::json::parse(p.bytes(p.path() / "r.json"));
  ASSERT_EQ(j["files"].size(), 4U);
  for (const auto& f : j["files"]) {
    const auto file = AudioFileReader::open(f["file"].get<std::string>());
    ASSERT_TRUE(file) << f;
    EXPECT_EQ(file->info().rate, f["rate"]);
    EXPECT_EQ(file->info().channels, 1);
    EXPECT_NEAR(static_cast<double>(file->info().length.value) / file->info().rate, f["seconds"], 1e-3);
  }
  EXPECT_EQ(j["files"][3]["rate"], 48'000) << "Opus cannot have 44.1 kHz";
  const auto again = cli({"loudness", out.string(), "--json"});
  EXPECT_NEAR(nlohmann::json::parse(again.out)["files"][0]["integrated"].get<double>(), -20, 0.1);
}

TEST(CliRender, EveryClipIsAFile) {
  const Project p;
  const auto out = p.path() / "clips";
  const auto r = cli({"render", p.project.string(), "--clips", "--out", out.string(), "--format", "flac"});
  ASSERT_EQ(r.status, 0) << r.err;
  for (const char* name : {"Bass 01.flac", "Bass 02.flac", "Bass 03.flac"}) EXPECT_TRUE(fs::exists(out / name)) << name;
  EXPECT_EQ(AudioFileReader::open(out / "Bass 02.flac")->info().length, Frames{70'000});
}

TEST(CliRender, WrongUseIsOneSentenceAndNothingIsWritten) {
  const Project p;
  const auto out = (p.path() / "out").string();
  for (const auto& more : std::vector<std::vector<std::string>>{{"--stems", "--sets"},
                                                                {"--stems", "--clips"},
                                                                {"--stems", "--bits", "20"},
                                                                {"--stems", "--no-dither"},
                                                                {"--stems", "--rate", "7"},
                                                                {"--stems", "--loudness", "3"}}) {
    std::vector<std::string> call{"render", p.project.string(), "--out", out};
    call.insert(call.end(), more.begin(), more.end());
    EXPECT_EQ(cli(call).status, 1) << more.back();
  }
  for (const auto& more : std::vector<std::vector<std::string>>{
           {"--stems", "--format", "wma"}, {"--stems", "--names", "{trck}"}, {"--sections"}}) {
    std::vector<std::string> call{"render", p.project.string(), "--out", out};
    call.insert(call.end(), more.begin(), more.end());
    const auto r = cli(call);
    EXPECT_EQ(r.status, 2) << more.back();
    EXPECT_EQ(std::count(r.err.begin(), r.err.end(), '\n'), 1) << r.err;
  }
  EXPECT_FALSE(fs::exists(out));
}

TEST(CliWords, ManualAndCompletionsNameEveryCommandAndOption) {
  const auto page = cli({"--print-manual"});
  ASSERT_EQ(page.status, 0) << page.err;
  for (const char* word : {"quantize", "render", "archive", "\\-\\-keep\\-pocket", "EXIT STATUS"})
    EXPECT_NE(page.out.find(word), std::string::npos) << word;
  for (const char* shell : {"bash", "zsh", "fish"}) {
    const auto script = cli({"--print-completions", shell});
    ASSERT_EQ(script.status, 0);
    EXPECT_NE(script.out.find("quantize"), std::string::npos) << shell;
    EXPECT_NE(script.out.find("keep-pocket"), std::string::npos) << shell;
  }
  const test::Scratch scratch;
  const auto bash = scratch / "words.bash";
  std::ofstream(bash) << cli({"--print-completions", "bash"}).out;
  const auto done =
      test::run({"/bin/bash", "-c",
                 "source " + bash.string() +
                     "; COMP_WORDS=(orthochron-cli qua); COMP_CWORD=1; _orthochron_cli; echo ${COMPREPLY[0]}"});
  EXPECT_EQ(done.out, "quantize\n") << done.err;
}

TEST(CliArchive, AProjectGoesIntoOneFileAndComesBackAndUnusedFilesAreSetAside) {
  const Project p;
  const auto zip = (p.path() / "song.zip").string();
  ASSERT_EQ(cli({"archive", p.project.string(), "--out", zip}).status, 0);
  const auto back = (p.path() / "back.ochron").string();
  const auto r = cli({"from-archive", zip, "--out", back});
  ASSERT_EQ(r.status, 0) << r.err;
  EXPECT_EQ(openProject(back)->sets, openProject(p.project)->sets);
  EXPECT_EQ(cli({"from-archive", zip, "--out", back}).status, 2) << "it is there already";
  std::ofstream(fs::path(back) / "media" / "left.wav") << "x";
  const auto listed = cli({"clean", back, "--list"});
  EXPECT_NE(listed.out.find("left.wav"), std::string::npos) << listed.out;
  EXPECT_TRUE(fs::exists(fs::path(back) / "media" / "left.wav"));
  EXPECT_EQ(cli({"clean", back}).status, 0);
  EXPECT_TRUE(fs::exists(fs::path(back) / "set aside" / "left.wav"));
  EXPECT_EQ(cli({"info", back}).status, 0);
}

TEST(CliEffects, AreListedAndHeardByRender) {
  const auto all = cli({"effects", "--json"});
  ASSERT_EQ(all.status, 0) << all.err;
  const auto j = nlohmann::json::parse(all.out);
  const auto own = std::count_if(j["effects"].begin(), j["effects"].end(), [](const auto& e) {
    return e["uri"].template get<std::string>().starts_with("urn:orthochron:lv2:");
  });
  EXPECT_GE(own, 3);
  const Project p;
  const auto dry = p.rendered("dry.wav");
  auto song = *openProject(p.project);
  song = *addInsert(song, {}, {{}, "urn:orthochron:lv2:compressor", "Set compressor", true, {{"threshold", -50.0}}});
  ASSERT_TRUE(saveProject(song, p.project));
  EXPECT_NE(p.rendered("wet.wav"), dry);
  song = *addInsert(song, {}, {{}, "urn:none", "Old plate", true, {}});
  ASSERT_TRUE(saveProject(song, p.project));
  const auto r = cli({"render", p.project.string(), "--out", (p.path() / "x.wav").string()});
  EXPECT_EQ(r.status, 0) << r.err;
  EXPECT_NE(r.out.find("Old plate is not on this machine"), std::string::npos) << r.out;
  const auto refused = cli({"print", p.project.string(), "--what", "all", "--depth", "track"});
  EXPECT_EQ(refused.status, 2) << refused.out;
}

}  // namespace
}  // namespace ochron
