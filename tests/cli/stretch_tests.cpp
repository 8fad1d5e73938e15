// orthochron-cli stretch with pins and in slices, on strokes whose places are known.

#include <cmath>
#include <fstream>

#include "support/cli.h"
#include "support/scratch.h"

namespace ochron {
namespace {

using test::cli;

/// Strokes that die away, half a second apart from 0.5 s on.
std::vector<float> strokes() {
  std::vector<float> x(4 * 48'000, 0.0F);
  for (int k = 1; k <= 7; ++k)
    for (std::size_t i = 0; i < 14'000; ++i)
      x[static_cast<std::size_t>(k) * 24'000 + i] +=
          0.5F *
          static_cast<float>(std::exp(-static_cast<double>(i) / 2'500) * std::sin(0.07 * static_cast<double>(i) + 1.5));
  return x;
}

/// Where the sound rises over a level after 0.1 s below it.
std::vector<double> attacks(const std::vector<float>& x) {
  std::vector<double> out;
  std::size_t quiet = 4'800;
  for (std::size_t i = 0; i < x.size(); ++i) {
    if (std::abs(x[i]) < 0.2F) {
      ++quiet;
      continue;
    }
    if (quiet >= 4'800) out.push_back(static_cast<double>(i) / 48'000);
    quiet = 0;
  }
  return out;
}

struct Stretched : ::testing::Test {
  void SetUp() override { test::writeWav(in, strokes()); }
  std::vector<double> attacksOf(std::vector<std::string> how) {
    how.insert(how.begin(), {"stretch", in, "--out", out});
    const auto r = cli(how);
    EXPECT_EQ(r.status, 0) << r.err;
    made = test::readAll(out);
    return attacks(made);
  }
  std::string write(const char* name, const char* text) {
    std::ofstream(scratch / name) << text;
    return (scratch / name).string();
  }
  test::Scratch scratch;
  std::string in = (scratch / "in.wav").string();
  std::string out = (scratch / "out.wav").string();
  std::vector<float> made;
};

TEST_F(Stretched, PinsPutTheirPlacesWhereTheyAreToBe) {
  const auto csv = write("pins.csv", "take,to\n0,0\n1.0,1.2\n2.0,2.1\n3.5,3.9\n");
  const auto found = attacksOf({"--pins", csv});
  ASSERT_EQ(found.size(), 7U);
  EXPECT_NEAR(found[1], 1.2, 2e-4);
  EXPECT_NEAR(found[3], 2.1, 2e-4);
  EXPECT_NEAR(found[6], 3.9, 2e-4);
  EXPECT_EQ(made.size(), 4U * 48'000 + 19'200) << "after the last pin it goes on as recorded";
  const auto json = write("pins.json", "[[3.5, 3.9], [0, 0], [1.0, 1.2], [2.0, 2.1]]");
  EXPECT_EQ(attacksOf({"--pins", json}), found) << "in any order";
}

TEST_F(Stretched, ALateFirstPinBeginsWithSilence) {
  const auto found = attacksOf({"--pins", write("late.csv", "0,0.25\n4,4.25\n")});
  ASSERT_EQ(found.size(), 7U);
  EXPECT_NEAR(found[0], 0.75, 2e-4);
}

TEST_F(Stretched, SlicesMoveEveryStrokeAndStretchNothing) {
  for (const double ratio : {0.8, 1.3}) {
    const auto found = attacksOf({"--method", "slices", "--ratio", std::to_string(ratio)});
    ASSERT_EQ(found.size(), 7U) << ratio;
    const auto recorded = strokes();
    for (std::size_t k = 0; k < 7; ++k) {
      EXPECT_NEAR(found[k], 0.5 * static_cast<double>(k + 1) * ratio, 1e-3) << ratio;
      // The stroke is the recording's own, to the bit of the file.
      const auto at = static_cast<std::int64_t>(std::llround(found[k] * 48'000));
      const auto from = 24'000 * static_cast<std::int64_t>(k + 1) + (at - std::llround(found[k] * 48'000));
      std::int64_t offset = -100;
      double least = 1e9;
      for (std::int64_t d = -48; d <= 48; ++d) {
        double off = 0;
        for (std::int64_t i = 0; i < 2'000; ++i)
          off += std::abs(made[static_cast<std::size_t>(at + d + i)] - recorded[static_cast<std::size_t>(from + i)]);
        if (off < least) least = off, offset = d;
      }
      EXPECT_LT(least / 2'000, 1e-5) << offset;
    }
  }
}

TEST_F(Stretched, PinsGoWithEveryMethodThatStretchesAndAllEndOnTheSameFrame) {
  const auto csv = write("pins.csv", "0,0\n1.0,1.2\n2.0,2.1\n3.5,3.9\n");
  std::size_t frames = 0;
  for (const char* method : {"drums", "single", "chords", "tape"}) {
    const auto r = cli({"stretch", in, "--pins", csv, "--method", method, "--out", out});
    ASSERT_EQ(r.status, 0) << r.err;
    EXPECT_EQ(r.out.rfind(method, 0), 0u) << r.out;
    const auto sound = test::readAll(out);
    if (frames == 0) frames = sound.size();
    EXPECT_EQ(sound.size(), frames) << method;
    const auto found = attacks(sound);
    ASSERT_GE(found.size(), 3u) << method;
    EXPECT_NE(std::find_if(found.begin(), found.end(), [](double s) { return std::abs(s - 1.2) < 0.002; }), found.end())
        << method << ": the stroke at 1 s is where its pin is";
  }
}

TEST_F(Stretched, PinsThatMakeNoSenseAreSaidWithTheirFile) {
  for (const char* text : {"", "0,0", "0,0\n1\n", "0,0\n2,1\n1,2\n", "0,0\n1,1\n1.001,2\n", "[[0,0],[1]]",
                           "[[0,0],[-1,2]]", "0,0\nloud,2\n", "{\"a\":1}", "0,0\n99999999,1\n"}) {
    const auto r = cli({"stretch", in, "--pins", write("odd.csv", text), "--out", out});
    EXPECT_EQ(r.status, 2) << text;
    EXPECT_NE(r.err.find("odd.csv"), std::string::npos) << r.err;
    EXPECT_FALSE(std::filesystem::exists(out));
  }
  const auto good = write("good.csv", "0,0\n1,1.1\n");
  EXPECT_EQ(cli({"stretch", in, "--pins", good, "--ratio", "1.2", "--out", out}).status, 2);
  EXPECT_EQ(cli({"stretch", in, "--pins", good, "--method", "slices", "--out", out}).status, 2);
  EXPECT_EQ(cli({"stretch", in, "--pins", good, "--cents", "100", "--out", out}).status, 2);
  EXPECT_EQ(cli({"stretch", in, "--pins", write("far.csv", "0,0\n9,9.5\n"), "--out", out}).status, 2);
}

}  // namespace
}  // namespace ochron
