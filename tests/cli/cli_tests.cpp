#include <gtest/gtest.h>

#include <cmath>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <tuple>

#include "media/audio_file.h"
#include "store/project.h"
#include "support/cli.h"
#include "support/drum_pattern.h"
#include "support/performance.h"
#include "support/scratch.h"

namespace ochron {
namespace {

using Json = nlohmann::json;
using test::cli;
using test::readAll;
using test::Scratch;
using test::writeWav;

struct Kit : ::testing::Test {
  void SetUp() override {
    test::Style style;
    style.bars = 10;
    performance = test::perform(style);
    const char* names[] = {"kick.wav", "snare.wav", "hat.wav", "over.wav"};
    for (std::size_t i = 0; i < 4; ++i) {
      writeWav(scratch / names[i], performance.mics[i]);
      files.push_back((scratch / names[i]).string());
    }
  }
  Scratch scratch;
  test::Performance performance;
  std::vector<std::string> files;
};

TEST_F(Kit, HitsAreWrittenInTheFormatThatTheEndingNames) {
  const auto count = Json::parse(cli({"hits", files[0], files[1], "--json"}).out)["hits"].size();
  const auto table = (scratch / "hits.csv").string();
  ASSERT_EQ(cli({"hits", files[0], files[1], "--out", table}).status, 0);
  std::ifstream in(table);
  std::size_t lines = 0;
  for (std::string line; std::getline(in, line);) ++lines;
  EXPECT_EQ(lines, count + 1) << "a heading and a line each";
  ASSERT_EQ(cli({"hits", files[0], files[1], "--out", (scratch / "hits.mid").string()}).status, 0);
  EXPECT_TRUE(std::filesystem::exists(scratch / "hits.mid"));
  const auto r = cli({"hits", files[0], files[1], "--out", (scratch / "hits.xyz").string()});
  EXPECT_EQ(r.status, 2);
  EXPECT_NE(r.err.find(".csv"), std::string::npos) << r.err;
  EXPECT_FALSE(std::filesystem::exists(scratch / "hits.xyz"));
}

TEST_F(Kit, HitsPrintsOneJsonDocumentAsTheContractSays) {
  const auto r = cli({"hits", files[0], files[1], files[2], "--guides", "0,1", "--json"});
  ASSERT_EQ(r.status, 0) << r.err;
  const auto j = Json::parse(r.out);
  EXPECT_EQ(j["rate"], 48'000);
  std::vector<Frames> found, truth;
  for (const auto& h : j["hits"]) {
    found.emplace_back(h["frame"].get<std::int64_t>());
    EXPECT_NEAR(h["time"].get<double>(), static_cast<double>(found.back().value) / 48'000, 1e-9);
    EXPECT_TRUE(h["strength"].is_number() && h["confidence"].is_number() && h["class"].is_string() &&
                h["tracks"].is_array());
    for (const auto& t : h["tracks"]) EXPECT_LT(t.get<int>(), 2);
  }
  for (const auto& h : performance.of({DrumClass::kick, DrumClass::snare})) truth.push_back(h.at);
  EXPECT_GE(test::compare(truth, found, 48'000, 5).f1, 0.98);
}

TEST_F(Kit, QuantizeAtFullStrengthPutsEveryOnsetOnItsGridFrameAndMovesAllMicsAlike) {
  const auto out = scratch / "out";
  const auto r = cli({"quantize", files[0], files[1], files[2], files[3], "--tempo", "120", "--grid", "1/16", "--start",
                      "0.5", "--guides", "0,1", "--out", out.string(), "--report", (scratch / "report.json").string()});
  ASSERT_EQ(r.status, 0) << r.err;
  const auto j = Json::parse(std::ifstream(scratch / "report.json"));
  ASSERT_GT(j["moves"].size(), 30u);
  ASSERT_TRUE(j.contains("seams") && j.contains("feel"));
  int onGrid = 0;
  std::vector<std::vector<float>> before, after;
  for (const auto& f : files)
    before.push_back(readAll(f)), after.push_back(readAll(out / std::filesystem::path(f).filename()));
  for (std::size_t i = 0; i < 4; ++i) ASSERT_EQ(before[i].size(), after[i].size());
  for (const auto& move : j["moves"]) {
    const auto from = std::llround(move["from"].get<double>() * 48'000);
    const auto to = std::llround(move["to"].get<double>() * 48'000);
    onGrid += (to - 24'000) % 6000 == 0 ? 1 : 0;
    for (std::size_t mic = 0; mic < 4; ++mic)
      for (std::int64_t k = 0; k < 400; ++k)
        ASSERT_EQ(before[mic][static_cast<std::size_t>(from + k)], after[mic][static_cast<std::size_t>(to + k)]);
  }
  EXPECT_GE(onGrid, static_cast<int>(j["moves"].size()) - 2);
}

TEST_F(Kit, QuantizeKeepingEverythingGivesBackTheRecording) {
  const auto out = scratch / "out";
  const auto r = cli({"quantize", files[0], files[1], "--tempo", "120", "--grid", "1/16", "--start", "0.5",
                      "--keep-drift", "100", "--keep-pocket", "100", "--keep-scatter", "100", "--out", out.string()});
  ASSERT_EQ(r.status, 0) << r.err;
  EXPECT_EQ(readAll(files[1]), readAll(out / "snare.wav"));
}

TEST_F(Kit, OnlyTheNamedClassesAreMoved) {
  const auto report = scratch / "report.json";
  const auto r = cli({"quantize", files[0], files[1], "--tempo", "120", "--grid", "1/16", "--start", "0.5", "--classes",
                      "snare", "--out", (scratch / "out").string(), "--report", report.string()});
  ASSERT_EQ(r.status, 0) << r.err;
  const auto hits = Json::parse(cli({"hits", files[0], files[1], "--json"}).out)["hits"];
  const auto moves = Json::parse(std::ifstream(report))["moves"];
  ASSERT_EQ(hits.size(), moves.size());
  int snares = 0;
  for (std::size_t i = 0; i < hits.size(); ++i) {
    if (hits[i]["class"] != "snare") continue;
    ++snares;
    const auto to = std::llround(moves[i]["to"].get<double>() * 48'000);
    EXPECT_LE(std::min((to - 24'000) % 6000, 6000 - (to - 24'000) % 6000), 1500);
  }
  EXPECT_GT(snares, 8);
  EXPECT_EQ(cli({"quantize", files[0], "--tempo", "120", "--grid", "1/16", "--classes", "banjo", "--out", "x"}).status,
            1);
}

TEST_F(Kit, AClassCanHaveAGridOfItsOwn) {
  const auto run = [&](const std::string& rule) {
    return cli({"quantize", files[0], files[1], "--tempo", "120", "--grid", "1/4", "--start", "0.5", "--class-grid",
                rule, "--out", (scratch / "out").string(), "--report", (scratch / "r.json").string()});
  };
  ASSERT_EQ(run("kick=1/16:60").status, 0);
  const auto hits = Json::parse(cli({"hits", files[0], files[1], "--json"}).out)["hits"];
  const auto moves = Json::parse(std::ifstream(scratch / "r.json"))["moves"];
  int offQuarter = 0;
  for (std::size_t i = 0; i < hits.size(); ++i) {
    const auto to = std::llround(moves[i]["to"].get<double>() * 48'000) - 24'000;
    if (hits[i]["class"] == "kick" && to % 24'000 > 100 && to % 24'000 < 23'900) ++offQuarter;
  }
  EXPECT_GT(offQuarter, 3);
  for (const char* bad : {"kick", "banjo=1/16", "kick=1/5", "kick=1/16:90"}) {
    const auto r = run(bad);
    EXPECT_EQ(r.status, 2) << bad;
    EXPECT_NE(r.err.find(bad), std::string::npos);
  }
}

TEST_F(Kit, AGrooveGoesThroughAMidiFile) {
  const auto take =
      cli({"quantize", files[0], files[1], "--tempo", "120", "--grid", "1/16", "--start", "0.5", "--take-groove",
           (scratch.path() / "out" / "g.mid").string(), "--out", (scratch / "out").string()});
  ASSERT_EQ(take.status, 0) << take.err;
  const auto r = cli({"quantize", files[0], files[1], "--tempo", "120", "--grid", "1/16", "--start", "0.5", "--groove",
                      (scratch.path() / "out" / "g.mid").string(), "--out", (scratch / "out").string(), "--report",
                      (scratch / "r.json").string()});
  ASSERT_EQ(r.status, 0) << r.err;
  const auto feel = Json::parse(std::ifstream(scratch / "r.json"))["feel"];
  EXPECT_NEAR(feel["classes"]["snare"]["mean_after_ms"].get<double>(), 9, 3) << "the snare was played 9 ms late";
}

TEST_F(Kit, APlayersScatterIsGivenRepeatablyAndOnlyWhereItIsKnown) {
  const auto groove = (scratch.path() / "out" / "g.json").string();
  const auto quantize = [&](std::vector<std::string> more) {
    std::vector<std::string> args{"quantize",
                                  files[0],
                                  files[1],
                                  "--tempo",
                                  "120",
                                  "--grid",
                                  "1/16",
                                  "--start",
                                  "0.5",
                                  "--out",
                                  (scratch / "out").string(),
                                  "--report",
                                  (scratch / "r.json").string()};
    args.insert(args.end(), more.begin(), more.end());
    return cli(args);
  };
  const auto moves = [&] { return Json::parse(std::ifstream(scratch / "r.json"))["moves"]; };
  const auto spread = [&] {
    return Json::parse(std::ifstream(scratch / "r.json"))["feel"]["spread_after_ms"].get<double>();
  };
  ASSERT_EQ(quantize({"--take-groove", groove}).status, 0);
  EXPECT_LT(spread(), 0.1);
  const std::vector<std::string> given{"--groove", groove, "--groove-amount", "0", "--give-scatter", "100"};
  ASSERT_EQ(quantize(given).status, 0);
  const auto first = moves();
  EXPECT_NEAR(spread(), 3, 1.5) << "the player scattered 3 ms";
  ASSERT_EQ(quantize(given).status, 0);
  EXPECT_EQ(moves(), first);
  auto other = given;
  other.insert(other.end(), {"--scatter-drawing", "2"});
  ASSERT_EQ(quantize(other).status, 0);
  EXPECT_NE(moves(), first);
  // Without a player, or with one that tells none, it is refused.
  const auto without = quantize({"--give-scatter", "50"});
  EXPECT_EQ(without.status, 2);
  EXPECT_NE(without.err.find("--groove"), std::string::npos) << without.err;
  std::ofstream(scratch / "stiff.json")
      << R"({"orthochron groove": 1, "name": "x", "grid": {"step": "1/16", "swing": 50}, "meter": "4/4", "offsets ms": [1], "loudness": [1]})";
  const auto stiff = quantize({"--groove", (scratch / "stiff.json").string(), "--give-scatter", "50"});
  EXPECT_EQ(stiff.status, 2);
  EXPECT_NE(stiff.err.find("no scatter"), std::string::npos) << stiff.err;
}

TEST_F(Kit, MicsThatAreNoGuidesHelpAndAreNotHeardAsGuides) {
  const auto r = cli({"hits", files[0], files[1], files[2], files[3], "--guides", "0,1", "--json"});
  ASSERT_EQ(r.status, 0) << r.err;
  const auto hits = Json::parse(r.out)["hits"];
  EXPECT_GT(hits.size(), 20u);
  for (const auto& h : hits)
    for (const auto& track : h["tracks"]) EXPECT_LE(track.get<int>(), 1);
}

TEST_F(Kit, OddTakesGetASensibleResult) {
  const std::vector<float> silence(48'000 * 3, 0.0F);
  std::vector<float> one = silence;
  for (int i = 0; i < 4000; ++i)
    one[50'000 + static_cast<std::size_t>(i)] =
        0.7F * std::exp(-static_cast<float>(i) / 700) * static_cast<float>(i % 2 ? 1 : -1);
  writeWav(scratch / "silence.wav", silence);
  writeWav(scratch / "one.wav", one);
  const auto silent = cli({"hits", (scratch / "silence.wav").string(), "--json"});
  ASSERT_EQ(silent.status, 0) << silent.err;
  EXPECT_TRUE(Json::parse(silent.out)["hits"].empty());
  const auto single = cli({"hits", (scratch / "one.wav").string(), "--json"});
  ASSERT_EQ(Json::parse(single.out)["hits"].size(), 1u) << single.out;
  EXPECT_NEAR(Json::parse(single.out)["hits"][0]["frame"].get<double>(), 50'000, 24);
  for (const char* name : {"silence.wav", "one.wav"}) {
    const auto r = cli({"quantize", (scratch / name).string(), "--tempo", "100", "--grid", "1/8", "--out",
                        (scratch / "out").string()});
    EXPECT_EQ(r.status, 0) << r.err;
    EXPECT_EQ(readAll(scratch / "out" / name).size(), silence.size());
  }
  // A silent mic beside good ones, and mics of different lengths.
  writeWav(scratch / "short.wav",
           std::vector<float>(performance.mics[0].begin(), performance.mics[0].begin() + 200'000));
  const auto r =
      cli({"quantize", files[0], files[1], (scratch / "silence.wav").string(), (scratch / "short.wav").string(),
           "--tempo", "120", "--grid", "1/16", "--start", "0.5", "--out", (scratch / "out").string()});
  ASSERT_EQ(r.status, 0) << r.err;
  EXPECT_EQ(readAll(scratch / "out" / "silence.wav"), silence);
  EXPECT_EQ(readAll(scratch / "out" / "short.wav").size(), 200'000u);
}

TEST_F(Kit, BadInputIsOneLineAndExitTwoAndLeavesNothing) {
  std::ofstream(scratch / "bad.wav") << "RIFF no sound at all";
  const auto out = scratch / "out";
  for (const auto& args : std::vector<std::vector<std::string>>{
           {"hits", (scratch / "bad.wav").string()},
           {"hits", (scratch / "missing.wav").string()},
           {"hits", files[0], "--guides", "3"},
           {"quantize", files[0], (scratch / "bad.wav").string(), "--tempo", "120", "--grid", "1/16", "--out",
            out.string()},
           {"quantize", files[0], "--tempo", "120", "--grid", "1/5", "--out", out.string()},
           {"quantize", files[0], "--tempo", "120", "--grid", "1/16", "--out", scratch.path().string()},
           {"render", (scratch / "none.ochron").string(), "--out", (scratch / "x.wav").string()},
           {"info", (scratch / "bad.wav").string()}}) {
    const auto r = cli(args);
    EXPECT_EQ(r.status, 2) << args[0] << r.out;
    EXPECT_TRUE(r.out.empty());
    EXPECT_EQ(std::count(r.err.begin(), r.err.end(), '\n'), 1) << r.err;
  }
  EXPECT_TRUE(!std::filesystem::exists(out) || std::filesystem::is_empty(out));
}

TEST_F(Kit, StretchGivesExactlyTheLengthAskedForByEachOfItsWays) {
  const auto frames = static_cast<double>(readAll(files[3]).size());
  const auto out = (scratch / "longer.wav").string();
  const auto lengthOf = [&](std::vector<std::string> how) {
    how.insert(how.begin(), {"stretch", files[3], "--out", out});
    const auto r = cli(how);
    EXPECT_EQ(r.status, 0) << r.err;
    return static_cast<double>(readAll(out).size());
  };
  EXPECT_NEAR(lengthOf({"--ratio", "1.25"}), frames * 1.25, 1);
  EXPECT_NEAR(lengthOf({"--from-bpm", "126", "--to-bpm", "118"}), frames * 126 / 118, 1);
  EXPECT_NEAR(lengthOf({"--beats", "40", "--tempo", "140"}), 40 * 60 / 140.0 * 48'000, 1);
  for (const char* method : {"drums", "single", "chords", "tape"})
    EXPECT_NEAR(lengthOf({"--ratio", "0.9", "--method", method}), frames * 0.9, 1) << method;
}

TEST_F(Kit, StretchOfSeveralMicsIsOneMicSetAndWrongUseIsSaid) {
  const auto folder = scratch / "set";
  const auto r = cli({"stretch", files[0], files[1], "--ratio", "1.1", "--method", "drums", "--out", folder.string()});
  ASSERT_EQ(r.status, 0) << r.err;
  EXPECT_EQ(readAll(folder / "kick.wav").size(), readAll(folder / "snare.wav").size());
  EXPECT_EQ(cli({"stretch", files[0], "--out", (scratch / "x.wav").string()}).status, 2);
  EXPECT_EQ(cli({"stretch", files[0], "--ratio", "1.1", "--out", files[0]}).status, 2);
  EXPECT_EQ(cli({"stretch", files[0], "--ratio", "1.1", "--out", (scratch / "x.m4a").string()}).status, 2);
  EXPECT_EQ(cli({"stretch", files[0], "--ratio", "1.1", "--beats", "4", "--tempo", "99", "--out", "y.wav"}).status, 2);
}

TEST_F(Kit, TempoPrintsOneJsonDocumentAsTheContractSays) {
  const auto r = cli({"tempo", files[3], "--json"});
  ASSERT_EQ(r.status, 0) << r.err;
  const auto j = Json::parse(r.out);
  const double bpm = performance.map.bpmAt(Ticks{0});
  EXPECT_NEAR(j["bpm"].get<double>() / bpm, 1, 0.02) << j["bpm"];
  EXPECT_GT(j["beats"].size(), 30u);
  EXPECT_GT(j["downbeats"].size(), 7u);
  double all = 0;
  for (const auto& c : j["candidates"]) all += c["score"].get<double>();
  EXPECT_NEAR(all, 1, 1e-6);
  EXPECT_GT(j["confidence"].get<double>(), 0);
  const auto text = cli({"tempo", files[3]});
  EXPECT_NE(text.out.find("BPM"), std::string::npos);
  const auto narrow = cli({"tempo", files[3], "--min", "150", "--max", "100"});
  EXPECT_EQ(narrow.status, 2);
}

TEST_F(Kit, TheMapOfAPerformanceIsAMidiFileAndNeverOneOfItsRecordings) {
  const auto out = (scratch / "map.mid").string();
  const auto r = cli({"map", files[0], files[1], files[3], "--out", out});
  ASSERT_EQ(r.status, 0) << r.err;
  std::ifstream in(out, std::ios::binary);
  const std::string bytes((std::istreambuf_iterator<char>(in)), {});
  EXPECT_TRUE(bytes.starts_with("MThd"));
  EXPECT_NE(bytes.find("\xFF\x51\x03"), std::string::npos) << "a tempo event";
  EXPECT_NE(bytes.find("\xFF\x58\x04"), std::string::npos) << "a meter";
  EXPECT_EQ(cli({"map", files[0], "--out", files[0]}).status, 2);
  std::filesystem::create_symlink(files[0], scratch / "link.mid");
  const auto refused = cli({"map", files[0], "--out", (scratch / "link.mid").string()});
  EXPECT_EQ(refused.status, 2);
}

TEST_F(Kit, PitchPrintsTheTrackAndTheNotesAsTheContractSays) {
  std::vector<float> line(48'000 * 3, 0.0F);
  const auto tone = [&](double from, double to, double hertz) {
    for (auto i = static_cast<std::size_t>(from * 48'000); i < static_cast<std::size_t>(to * 48'000); ++i) {
      const double t = static_cast<double>(i) / 48'000;
      const double level = 0.3 * std::min({1.0, (t - from) / 0.01, (to - t) / 0.01});
      line[i] = static_cast<float>(level * (std::sin(2 * M_PI * hertz * t) + 0.5 * std::sin(4 * M_PI * hertz * t)));
    }
  };
  tone(0.5, 1.2, 220);
  tone(1.6, 2.5, 247.5);
  writeWav(scratch / "line.wav", line);
  const auto r = cli({"pitch", (scratch / "line.wav").string(), "--json"});
  ASSERT_EQ(r.status, 0) << r.err;
  const auto j = Json::parse(r.out);
  ASSERT_EQ(j["notes"].size(), 2u) << j["notes"];
  EXPECT_NEAR(j["notes"][0]["start"].get<double>(), 0.5, 0.03);
  EXPECT_NEAR(j["notes"][0]["end"].get<double>(), 1.2, 0.05);
  EXPECT_NEAR(j["notes"][0]["hz"].get<double>(), 220, 1);
  EXPECT_EQ(j["notes"][0]["midi"], 57);
  EXPECT_EQ(j["notes"][1]["midi"], 59);
  EXPECT_NEAR(j["notes"][1]["cents"].get<double>(), 1200 * std::log2(247.5 / 220) - 200, 5);
  EXPECT_NEAR(j["f0"].size(), 600, 3);
  EXPECT_NEAR(j["f0"][200][1].get<double>(), 220, 1);
  EXPECT_GE(j["f0"][200][2].get<double>(), 0.5);
  EXPECT_LT(j["f0"][280][2].get<double>(), 0.5);
  const auto narrow = cli({"pitch", (scratch / "line.wav").string(), "--lowest", "300", "--highest", "200"});
  EXPECT_EQ(narrow.status, 2);
  EXPECT_NE(narrow.err.find("lowest pitch"), std::string::npos) << narrow.err;
  EXPECT_EQ(cli({"pitch", (scratch / "missing.wav").string()}).status, 2);
}

TEST_F(Kit, SilenceHasNoTempoAndThatIsSaid) {
  writeWav(scratch / "silence.wav", std::vector<float>(48'000 * 3, 0.0F));
  const auto r = cli({"tempo", (scratch / "silence.wav").string(), "--json"});
  EXPECT_EQ(r.status, 2);
  EXPECT_TRUE(r.out.empty());
  EXPECT_NE(r.err.find("no tempo can be heard"), std::string::npos) << r.err;
}

TEST_F(Kit, ATakeInSixEightOrSevenEightIsHeardMappedAndLockedInItsMeter) {
  const auto in = (scratch / "bars.wav").string();
  const auto report = (scratch / "report.json").string();
  for (const auto& [bar, step, meter, bars] : std::vector<std::tuple<std::string, double, std::string, int>>{
           {"KhhShh", 0.2, "6/8", 14}, {"KhShKSh", 0.21, "7/8", 12}}) {
    test::writeWav(in, test::pattern(bar, bars, step, 0.9), test::kPatternRate);
    const auto map = cli({"map", in, "--out", (scratch / "map.mid").string()});
    ASSERT_EQ(map.status, 0) << map.err;
    EXPECT_EQ(map.out, "1 tempo, " + std::to_string(bars) + " bars of " + meter + "\n");
    const auto r = cli(
        {"quantize", in, "--tempo", "auto", "--grid", "1/8", "--out", (scratch / "out").string(), "--report", report});
    ASSERT_EQ(r.status, 0) << r.err;
    // An eighth in the song is an eighth as played: nothing has to move.
    std::ifstream file(report);
    const auto j = Json::parse(file);
    EXPECT_LT(std::abs(j["feel"]["mean_before_ms"].get<double>()), 3) << meter;
    EXPECT_LT(j["feel"]["spread_before_ms"].get<double>(), 3) << meter;
  }
}

TEST_F(Kit, QuantizeByTheTempoThatIsHeardLocksTheTake) {
  const auto out = (scratch / "auto").string();
  const auto report = (scratch / "auto.json").string();
  const auto r = cli({"quantize", files[0], files[1], files[3], "--guides", "0,1", "--tempo", "auto", "--grid", "1/16",
                      "--out", out, "--report", report});
  ASSERT_EQ(r.status, 0) << r.err;
  std::ifstream in(report);
  const auto j = Json::parse(in);
  EXPECT_LT(j["feel"]["spread_after_ms"].get<double>(), 3) << j["feel"];
  EXPECT_LT(j["feel"]["spread_before_ms"].get<double>(), 25) << "the lines lie where the player meant them";
  const auto wrong = cli({"quantize", files[0], "--tempo", "soon", "--grid", "1/16", "--out", out + "2"});
  EXPECT_EQ(wrong.status, 1);
  EXPECT_NE(wrong.err.find("auto"), std::string::npos);
}

TEST(Cli, WrongUseIsExitOneAndHelpIsZeroOnEveryLevel) {
  for (const auto& args :
       std::vector<std::vector<std::string>>{{},
                                             {"hits"},
                                             {"dance"},
                                             {"hits", "a.wav", "--no-such-option"},
                                             {"quantize", "a.wav", "--tempo", "fast", "--grid", "1/16", "--out", "x"}})
    EXPECT_EQ(cli(args).status, 1);
  for (const auto& args : std::vector<std::vector<std::string>>{
           {"--help"}, {"hits", "--help"}, {"quantize", "--help"}, {"render", "--help"}, {"info", "--help"}})
    EXPECT_EQ(cli(args).status, 0);
}

TEST(Cli, AnEmptyNameIsSaidByEveryCommand) {
  for (const auto& args : std::vector<std::vector<std::string>>{{"hits", ""},
                                                                {"hits", "a.wav", ""},
                                                                {"info", ""},
                                                                {"tempo", ""},
                                                                {"pitch", ""},
                                                                {"render", "", "--out", "x.wav"},
                                                                {"stretch", "a.wav", "--ratio", "1", "--out", ""},
                                                                {"tune", "", "--out", "x.wav"},
                                                                {"map", "a.wav", "--out", ""}}) {
    const auto r = cli(args);
    EXPECT_EQ(r.status, 2) << args[0];
    EXPECT_NE(r.err.find("name"), std::string::npos) << args[0] << r.err;
    EXPECT_EQ(r.err.find(": :"), std::string::npos) << args[0] << r.err;
  }
}

TEST(Cli, InfoAndRenderKnowTheDemoProject) {
  const Scratch scratch;
  // A copy, so that the decoded files do not land in the source tree.
  const auto project = scratch / "demo.ochron";
  std::filesystem::copy(std::filesystem::path(OCHRON_SOURCE_DIR) / "demo/song/Low Tide Lanterns.ochron", project,
                        std::filesystem::copy_options::recursive);
  const auto info = cli({"info", project.string(), "--json"});
  ASSERT_EQ(info.status, 0) << info.err;
  const auto j = Json::parse(info.out);
  EXPECT_EQ(j["tracks"], 12);
  EXPECT_EQ(j["mic sets"], 4);
  EXPECT_TRUE(j["missing"].empty());
  const auto r = cli({"render", project.string(), "--out", (scratch / "mix.flac").string(), "--range", "3-4"});
  ASSERT_EQ(r.status, 0) << r.err;
  const auto mix = AudioFileReader::open(scratch / "mix.flac");
  ASSERT_TRUE(mix.has_value());
  EXPECT_NEAR(static_cast<double>(mix->info().length.value), 2 * 4 * 60.0 / 104 * 48'000, 2);
  const auto stems =
      cli({"render", project.string(), "--out", (scratch / "stems").string(), "--range", "5", "--stems"});
  ASSERT_EQ(stems.status, 0) << stems.err;
  EXPECT_EQ(std::distance(std::filesystem::directory_iterator(scratch / "stems"), {}), 12);
}

}  // namespace
}  // namespace ochron
