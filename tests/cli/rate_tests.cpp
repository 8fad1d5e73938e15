// Recordings of other rates and of real rooms, from the command line.

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>
#include <random>

#include "support/cli.h"
#include "support/made_voice.h"
#include "support/scratch.h"

namespace ochron::test {
namespace {

MadeVoice singerAt(int rate, double seconds) {
  MadeVoice v;
  v.rate = rate;
  v.seconds = seconds;
  v.bend = [](double t) { return 20 * std::sin(2 * M_PI * 5.3 * t); };
  int k = 0;
  for (double at = 0.5; at < seconds - 1; at += 0.8, ++k) v.notes.push_back({at, 0.6, 57.3 + (k * 5) % 11});
  return v;
}

void addNoise(std::vector<float>& x, float level) {
  std::mt19937 dice(3);
  std::normal_distribution<float> hiss(0, level);
  for (auto& s : x) s += hiss(dice);
}

TEST(Rates, OnsetsAt44100AreAsFarFromTheirNotesAfterAMinuteAsAtTheBeginning) {
  const Scratch scratch;
  for (const int rate : {22'050, 44'100}) {
    const auto v = singerAt(rate, 62);
    writeWav(scratch / "voice.wav", v.samples(), rate);
    const auto out = cli({"hits", (scratch / "voice.wav").string(), "--json"});
    ASSERT_EQ(out.status, 0) << out.err;
    const auto found = nlohmann::json::parse(out.out);
    const auto offOf = [&](double from, double to) {
      std::vector<double> off;
      for (const auto& n : v.notes) {
        if (n.at < from || n.at > to) continue;
        double nearest = 1;
        for (const auto& h : found["hits"])
          if (const double d = h["time"].get<double>() - n.at; std::abs(d) < std::abs(nearest)) nearest = d;
        off.push_back(nearest);
      }
      std::nth_element(off.begin(), off.begin() + std::ssize(off) / 2, off.end());
      return off[off.size() / 2];
    };
    EXPECT_NEAR(offOf(0, 12), offOf(50, 62), 0.002) << rate;
  }
}

TEST(Rates, ANoisyVoiceIsTunedAndSaysHowFarItIsOneLine) {
  const Scratch scratch;
  auto sound = singerAt(44'100, 12).samples();
  addNoise(sound, 0.002F);
  writeWav(scratch / "voice.wav", sound, 44'100);
  const auto out = cli({"tune", (scratch / "voice.wav").string(), "--out", (scratch / "tuned.wav").string()});
  ASSERT_EQ(out.status, 0) << out.err;
  EXPECT_NE(out.out.find("one line for"), std::string::npos) << out.out;
  const auto tuned = AudioFileReader::open(scratch / "tuned.wav");
  ASSERT_TRUE(tuned);
  EXPECT_EQ(tuned->info().rate, 44'100);
  EXPECT_EQ(tuned->info().length.value, std::ssize(sound));
}

TEST(Rates, WhatIsRefusedOffersTheWayOn) {
  const Scratch scratch;
  auto two = singerAt(48'000, 10).samples();
  auto other = singerAt(48'000, 10);
  for (auto& n : other.notes) n.midi -= 4;
  const auto second = other.samples();
  for (std::size_t i = 0; i < two.size(); ++i) two[i] += second[i];
  writeWav(scratch / "two.wav", two);
  const auto refused = cli({"tune", (scratch / "two.wav").string(), "--out", (scratch / "t.wav").string()});
  EXPECT_EQ(refused.status, 2);
  EXPECT_NE(refused.err.find("--one-line"), std::string::npos) << refused.err;
  const auto taken = cli({"tune", (scratch / "two.wav").string(), "--one-line", "--out", (scratch / "t.wav").string()});
  EXPECT_EQ(taken.status, 0) << taken.err;
}

}  // namespace
}  // namespace ochron::test
