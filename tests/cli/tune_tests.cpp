// orthochron-cli tune as a process, on a made-up voice.

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <fstream>

#include "support/cli.h"
#include "support/made_voice.h"
#include "support/scratch.h"

namespace ochron {
namespace {

using test::cli;

struct Voice : ::testing::Test {
  void SetUp() override {
    MadeVoice voice;
    voice.seconds = 4;
    voice.notes = {{0.5, 0.8, 60.3}, {1.5, 0.8, 64.2}, {2.5, 0.8, 66.6}};
    samples = voice.samples();
    test::writeWav(in, samples);
  }
  std::vector<double> semitones(const std::string& file) const {
    const auto r = cli({"pitch", file, "--json"});
    EXPECT_EQ(r.status, 0) << r.err;
    std::vector<double> found;
    const auto notes = nlohmann::json::parse(r.out);
    for (const auto& n : notes["notes"]) found.push_back(69 + 12 * std::log2(n["hz"].get<double>() / 440));
    return found;
  }
  void expectNotes(const std::vector<double>& wanted) const {
    const auto found = semitones(out);
    ASSERT_EQ(found.size(), wanted.size());
    for (std::size_t i = 0; i < wanted.size(); ++i) EXPECT_NEAR(found[i], wanted[i], 0.04);
  }
  test::Scratch scratch;
  std::string in = (scratch / "voice.wav").string();
  std::string out = (scratch / "tuned.wav").string();
  std::vector<float> samples;
};

TEST_F(Voice, TuneBringsNotesToTheScaleAndLeavesLengthAndSilence) {
  ASSERT_EQ(cli({"tune", in, "--scale", "C major", "--out", out}).status, 0);
  expectNotes({60, 64, 67});
  const auto made = test::readAll(out);
  ASSERT_EQ(made.size(), samples.size());
  const auto first = test::readAll(in);
  EXPECT_TRUE(std::equal(made.begin(), made.begin() + 20'000, first.begin()));
}

TEST_F(Voice, StrengthAndKeptCentreSayHowFar) {
  ASSERT_EQ(cli({"tune", in, "--strength", "50", "--out", out}).status, 0);
  expectNotes({60.15, 64.1, 66.8});
  ASSERT_EQ(cli({"tune", in, "--keep-centre", "100", "--out", out}).status, 0);
  EXPECT_EQ(test::readAll(out), test::readAll(in));
}

TEST_F(Voice, AScalaFileIsAScale) {
  std::ofstream(scratch / "five.scl") << "five even steps\n5\n240.\n480.\n720.\n960.\n2/1\n";
  ASSERT_EQ(cli({"tune", in, "--scale-file", (scratch / "five.scl").string(), "--tonic", "C", "--out", out}).status, 0);
  expectNotes({60, 64.8, 67.2});
}

TEST_F(Voice, NotesAreWrittenAsCsvJamsAndMidi) {
  const auto csv = (scratch / "notes.csv").string();
  const auto jams = (scratch / "notes.jams").string();
  const auto midi = (scratch / "notes.mid").string();
  ASSERT_EQ(cli({"pitch", in, "--out", csv}).status, 0);
  std::ifstream table(csv);
  std::string line;
  std::vector<std::string> lines;
  while (std::getline(table, line)) lines.push_back(line);
  ASSERT_EQ(lines.size(), 4U);
  EXPECT_EQ(lines[0], "start,end,hertz,midi,cents\r");
  EXPECT_NE(lines[1].find(",60,"), std::string::npos) << lines[1];
  ASSERT_EQ(cli({"pitch", in, "--out", jams}).status, 0);
  std::ifstream text(jams);
  const auto j = nlohmann::json::parse(text);
  EXPECT_EQ(j["annotations"][1]["namespace"], "note_midi");
  EXPECT_EQ(j["annotations"][1]["data"].size(), 3U);
  EXPECT_NEAR(j["annotations"][1]["data"][1]["value"].get<double>(), 64.2, 0.05);
  for (const bool bends : {false, true}) {
    std::vector<std::string> how{"pitch", in, "--out", midi};
    if (bends) how.emplace_back("--bends");
    ASSERT_EQ(cli(how).status, 0);
    std::ifstream file(midi, std::ios::binary);
    const std::string bytes((std::istreambuf_iterator<char>(file)), {});
    EXPECT_EQ(bytes.substr(0, 4), "MThd");
    const auto on = [&](int key) {
      return bytes.find(std::string{static_cast<char>(0x90), static_cast<char>(key), 90});
    };
    EXPECT_NE(on(60), std::string::npos);
    EXPECT_NE(on(64), std::string::npos);
    EXPECT_NE(on(67), std::string::npos);
    EXPECT_EQ(bytes.find(static_cast<char>(0xe0)) != std::string::npos, bends);
  }
  EXPECT_EQ(cli({"pitch", in, "--out", (scratch / "x.txt").string()}).status, 2);
  EXPECT_EQ(cli({"pitch", in, "--out", in}).status, 2);
}

TEST_F(Voice, GoesToTheNotesOfAMelodyAndTheRestStaysAsSung) {
  const auto csv = (scratch / "melody.csv").string();
  const auto midi = (scratch / "melody.mid").string();
  ASSERT_EQ(cli({"pitch", in, "--out", midi, "--bends"}).status, 0);
  ASSERT_EQ(cli({"tune", in, "--melody", midi, "--out", out}).status, 0);
  expectNotes({60.3, 64.2, 66.6});
  const auto printed = (scratch / "printed.json").string();
  std::ofstream(printed) << cli({"pitch", in, "--json"}).out;
  ASSERT_EQ(cli({"tune", in, "--melody", printed, "--out", out}).status, 0);
  expectNotes({60.3, 64.2, 66.6});
  ASSERT_EQ(cli({"pitch", in, "--out", csv}).status, 0);
  std::ifstream table(csv);
  std::string heading, first, second;
  std::getline(table, heading), std::getline(table, first), std::getline(table, second);
  const auto from = first.substr(0, first.find(','));
  const auto to = second.substr(0, second.find(','));
  std::ofstream(csv) << "start,end,midi\n" << from << "," << to << ",73\n";  // the octave above
  const auto r = cli({"tune", in, "--melody", csv, "--out", out});
  ASSERT_EQ(r.status, 0) << r.err;
  EXPECT_NE(r.out.find("1 of 3 notes moved to the melody"), std::string::npos) << r.out;
  expectNotes({61, 64.2, 66.6});
  ASSERT_EQ(cli({"tune", in, "--melody", csv, "--strength", "50", "--out", out}).status, 0);
  expectNotes({60.65, 64.2, 66.6});
  EXPECT_EQ(cli({"tune", in, "--melody", in, "--out", out}).status, 2);
  EXPECT_EQ(cli({"tune", in, "--melody", csv, "--scale", "C major", "--out", out}).status, 1);
  EXPECT_EQ(cli({"tune", in, "--melody", csv, "--out", csv}).status, 2);
}

TEST_F(Voice, ALineIsTransposedWithItsFormantsHeldAndItsLengthKept) {
  for (const double cents : {-700.0, 300.0, 1200.0}) {
    const auto r = cli({"stretch", in, "--ratio", "1", "--cents", std::to_string(cents), "--method", "single",
                        "--formants", "keep", "--out", out});
    ASSERT_EQ(r.status, 0) << r.err;
    expectNotes({60.3 + cents / 100, 64.2 + cents / 100, 66.6 + cents / 100});
    EXPECT_EQ(test::readAll(out).size(), samples.size());
  }
}

TEST_F(Voice, WithoutAMethodItIsTransposedAsTheLineThatItIs) {
  const auto named = (scratch / "named.wav").string();
  const std::vector<std::string> how{"stretch", in, "--ratio", "1", "--cents", "300", "--formants", "keep"};
  auto guess = how;
  guess.insert(guess.end(), {"--out", out});
  const auto r = cli(guess);
  ASSERT_EQ(r.status, 0) << r.err;
  EXPECT_EQ(r.out.substr(0, 7), "single,") << r.out;
  auto told = how;
  told.insert(told.end(), {"--method", "single", "--out", named});
  ASSERT_EQ(cli(told).status, 0);
  EXPECT_EQ(test::readAll(out), test::readAll(named));
}

TEST_F(Voice, WrongUseIsSaidAndNothingIsWritten) {
  const auto chords = (scratch / "chord.wav").string();
  std::vector<float> x(96'000);
  for (std::size_t i = 0; i < x.size(); ++i)
    for (const double f : {196.0, 246.94, 293.66, 369.99})
      x[i] += 0.1F * static_cast<float>(std::sin(2 * M_PI * f * static_cast<double>(i) / 48'000));
  test::writeWav(chords, x);
  for (const auto& args : std::vector<std::vector<std::string>>{
           {"tune", in, "--scale", "H minor", "--out", out},
           {"tune", in, "--out", in},
           {"tune", in, "--out", (scratch / "x.m4a").string()},
           {"tune", in, "--scale-file", in, "--out", out},
           {"tune", in, "--scale-file", (scratch / "none.scl").string(), "--out", out},
           {"tune", chords, "--out", out},
           {"tune", (scratch / "none.wav").string(), "--out", out}}) {
    const auto r = cli(args);
    EXPECT_EQ(r.status, 2) << r.out;
    EXPECT_EQ(std::count(r.err.begin(), r.err.end(), '\n'), 1) << r.err;
    EXPECT_FALSE(std::filesystem::exists(out));
  }
  EXPECT_NE(cli({"tune", chords, "--out", out}).err.find("\"chord\""), std::string::npos);
  const auto engine = cli({"stretch", chords, "--ratio", "1", "--cents", "100", "--out", out});
  EXPECT_EQ(engine.out.substr(0, 7), "chords,") << engine.err;
  EXPECT_EQ(cli({"tune", in, "--strength", "nan", "--out", out}).status, 1);
  EXPECT_EQ(cli({"tune", in, "--keep-wander", "400", "--out", out}).status, 1);
}

}  // namespace
}  // namespace ochron
