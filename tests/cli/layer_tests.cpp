// orthochron-cli layer and slices.

#include <gtest/gtest.h>

#include <cmath>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>

#include "support/cli.h"
#include "support/performance.h"
#include "support/scratch.h"

namespace ochron {
namespace {

using test::cli;

test::Style style() {
  test::Style s;
  s.bars = 8;
  s.seed = 11;
  return s;
}

struct LayerFiles : test::Scratch {
  LayerFiles() : played(test::perform(style())) {
    const char* names[] = {"kick.wav", "snare.wav", "hat.wav", "overhead.wav"};
    for (std::size_t m = 0; m < 4; ++m) {
      mics.push_back((path() / names[m]).string());
      test::writeWav(mics.back(), played.mics[m]);
    }
    std::vector<float> click(4'000, 0.0F);
    for (std::size_t i = 500; i < 3'000; ++i)
      click[i] = 0.5F * std::cos(static_cast<float>(i - 500) * 0.03F) * std::exp(-static_cast<float>(i - 500) / 500.0F);
    sound = (path() / "sound.wav").string();
    test::writeWav(sound, click);
  }
  std::string out(const char* name) const { return (path() / name).string(); }
  nlohmann::json report() const { return nlohmann::json::parse(std::ifstream(path() / "report.json")); }

  test::Performance played;
  std::vector<std::string> mics;
  std::string sound;
};

TEST(CliLayer, LaysASoundOnEverySnareToTheSample) {
  const LayerFiles f;
  std::vector<std::string> args{"layer"};
  args.insert(args.end(), f.mics.begin(), f.mics.end());
  for (const auto& more :
       {std::string("--sound"), f.sound, std::string("--class"), std::string("snare"), std::string("--follow"),
        std::string("0"), std::string("--out"), f.out("layer.wav"), std::string("--report"), f.out("report.json")})
    args.push_back(more);
  const auto r = cli(args);
  ASSERT_EQ(r.status, 0) << r.err;
  const auto heard = test::readAll(f.out("layer.wav"));
  EXPECT_EQ(heard.size(), f.played.mics[0].size());
  const auto strokes = f.report()["strokes"];
  ASSERT_GT(strokes.size(), 10U);
  int exact = 0;
  for (const auto& s : strokes) {
    const auto at = static_cast<std::size_t>(std::llround(s["time"].get<double>() * 48'000)) + 0;
    const auto offset = s["offset"].get<std::int64_t>();
    // The sound's own first loud sample lies there.
    exact += std::abs(heard[at + static_cast<std::size_t>(offset)]) > 0.3F ? 1 : 0;
  }
  EXPECT_GE(exact, static_cast<int>(strokes.size()) * 9 / 10);
}

TEST(CliLayer, MixesTheMicsWithTheLayerIn) {
  const LayerFiles f;
  ASSERT_EQ(cli({"layer", f.mics[1], "--sound", f.sound, "--class", "snare", "--out", f.out("l.wav")}).status, 0);
  ASSERT_EQ(cli({"layer", f.mics[1], "--sound", f.sound, "--class", "snare", "--mix", "--out", f.out("m.wav")}).status,
            0);
  const auto layer = test::readAll(f.out("l.wav"));
  const auto mix = test::readAll(f.out("m.wav"));
  const auto mic = test::readAll(f.mics[1]);
  ASSERT_EQ(mix.size(), mic.size());
  for (std::size_t i = 0; i < mix.size(); ++i)
    ASSERT_NEAR(mix[i], std::clamp(layer[i] + mic[i], -1.0F, 1.0F), 3e-7F) << i;
}

TEST(CliLayer, TakesTheTakesOwnStrokes) {
  const LayerFiles f;
  const auto r = cli({"layer", f.mics[0], f.mics[1], "--sound", "own", "--class", "kick", "--blend", "100", "--mix",
                      "--out", f.out("own.wav"), "--midi", f.out("own.mid"), "--report", f.out("report.json")});
  ASSERT_EQ(r.status, 0) << r.err;
  EXPECT_TRUE(std::filesystem::exists(f.out("own.mid")));
  for (const auto& s : f.report()["strokes"]) EXPECT_EQ(s["polarity"], 1);
}

TEST(CliLayer, SaysWhatIsWrongAndWritesNothing) {
  const LayerFiles f;
  const auto missing =
      cli({"layer", f.mics[1], "--sound", f.out("no.wav"), "--class", "snare", "--out", f.out("x.wav")});
  EXPECT_EQ(missing.status, 2);
  EXPECT_NE(missing.err.find("no.wav"), std::string::npos);
  EXPECT_EQ(cli({"layer", f.mics[1], "--sound", f.sound, "--class", "gong", "--out", f.out("x.wav")}).status, 1);
  EXPECT_EQ(cli({"layer", f.mics[1], "--sound", f.sound, "--class", "snare", "--blend", "101", "--out", f.out("x.wav")})
                .status,
            1);
  const auto same = cli({"layer", f.mics[1], "--sound", f.sound, "--class", "snare", "--out", f.mics[1]});
  EXPECT_EQ(same.status, 2) << "never over its own input";
  EXPECT_EQ(cli({"layer", f.mics[1], "--sound", f.sound, "--class", "snare", "--out", f.sound}).status, 2);
  EXPECT_EQ(cli({"layer", f.mics[1], "--sound", f.sound, "--class", "snare", "--out", f.out("x.m4a")}).status, 2);
  EXPECT_FALSE(std::filesystem::exists(f.out("x.wav")));
}

TEST(CliSlices, AddUpToTheRecordingFromItsFirstHitOn) {
  const LayerFiles f;
  const auto r = cli({"slices", f.mics[1], "--out", f.out("slices"), "--sfz", "--midi"});
  ASSERT_EQ(r.status, 0) << r.err;
  std::vector<std::filesystem::path> files;
  for (const auto& e : std::filesystem::directory_iterator(f.out("slices")))
    if (e.path().extension() == ".wav") files.push_back(e.path());
  std::sort(files.begin(), files.end());
  ASSERT_GT(files.size(), 8U);
  std::vector<float> all;
  for (const auto& file : files) {
    const auto part = test::readAll(file);
    all.insert(all.end(), part.begin(), part.end());
  }
  const auto mic = test::readAll(f.mics[1]);
  ASSERT_LE(all.size(), mic.size());
  EXPECT_TRUE(std::equal(all.begin(), all.end(), mic.end() - std::ssize(all)));
  EXPECT_TRUE(std::filesystem::exists(std::filesystem::path(f.out("slices")) / "snare.sfz"));
  EXPECT_TRUE(std::filesystem::exists(std::filesystem::path(f.out("slices")) / "snare.mid"));
  // The instrument is read again as a set of sounds.
  EXPECT_EQ(cli({"layer", f.mics[1], "--sound", (std::filesystem::path(f.out("slices")) / "snare.sfz").string(),
                 "--class", "snare", "--out", f.out("again.wav")})
                .status,
            0);
}

TEST(CliSlices, CutAtTheGridAndAreNamedByAPattern) {
  const LayerFiles f;
  const auto r = cli({"slices", f.mics[0], "--out", f.out("grid"), "--by", "grid", "--grid", "1/4", "--tempo", "120",
                      "--name", "{class} {n} {bpm}"});
  ASSERT_EQ(r.status, 0) << r.err;
  std::size_t count = 0;
  for (const auto& e : std::filesystem::directory_iterator(f.out("grid"))) {
    EXPECT_NE(e.path().filename().string().find("120.0"), std::string::npos);
    ++count;
  }
  EXPECT_GE(count, 32U);
  EXPECT_EQ(cli({"slices", f.mics[0], "--out", f.out("g2"), "--by", "grid", "--tempo", "120", "--name", "same"}).status,
            2);
  EXPECT_EQ(cli({"slices", f.mics[0], "--out", f.out("g3"), "--tempo", "fast"}).status, 1);
}

}  // namespace
}  // namespace ochron
