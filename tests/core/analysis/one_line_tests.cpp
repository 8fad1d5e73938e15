// What is one line and what is more, on voices made up and treated as rooms and machines do.

#include "analysis/pitch/one_line.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <random>

#include "support/heard_line.h"
#include "support/made_mic.h"
#include "support/made_voice.h"

namespace ochron {
namespace {

using test::kRate;

MadeVoice singer(double seconds, int step = 5, double lowest = 57) {
  MadeVoice v;
  v.seconds = seconds;
  v.bend = [](double t) { return 25 * std::sin(2 * M_PI * 5.5 * t) + 8 * std::sin(2 * M_PI * 0.7 * t); };
  int k = 0;
  for (double at = 0.4; at < seconds - 1; at += 0.8, ++k) v.notes.push_back({at, 0.65, lowest + (k * step) % 12});
  return v;
}

void addNoise(std::vector<float>& x, double underDb) {
  double power = 0;
  for (const float s : x) power += static_cast<double>(s) * s / static_cast<double>(x.size());
  std::mt19937 dice(5);
  std::normal_distribution<float> hiss(0, static_cast<float>(std::sqrt(power) * std::pow(10, -underDb / 20)));
  for (auto& s : x) s += hiss(dice);
}

/// A room of so many seconds, its reverb as loud as `share` of what is sung.
void addRoom(std::vector<float>& x, double seconds, double share) {
  std::mt19937 dice(9);
  std::uniform_real_distribution<double> any(0, 1);
  const auto dry = x;
  for (int k = 0; k < 400; ++k) {
    const double at = 0.01 + any(dice) * seconds;
    const auto late = static_cast<std::size_t>(at * kRate);
    const auto gain = static_cast<float>((any(dice) < 0.5 ? -1 : 1) * share * std::pow(10, -3 * at / seconds) / 6);
    for (std::size_t i = late; i < x.size(); ++i) x[i] += gain * dry[i - late];
  }
}

void addHum(std::vector<float>& x, double level) {
  for (std::size_t i = 0; i < x.size(); ++i) {
    const double t = static_cast<double>(i) / kRate;
    for (int h = 1; h <= 6; ++h) x[i] += static_cast<float>(level / h * std::sin(2 * M_PI * 50 * h * t));
  }
}

OneLine heardLine(const std::vector<float>& sound) { return oneLine(test::heardPitch(sound), sound, kRate); }

TEST(OneLine, AVoiceIsOneThoughARoomNoiseAndHumSoundAlong) {
  EXPECT_TRUE(heardLine(singer(14).samples()).one());
  auto noisy = singer(14).samples();
  addNoise(noisy, 20);
  EXPECT_TRUE(heardLine(noisy).one());
  auto roomy = singer(14).samples();
  addRoom(roomy, 1.5, 1);
  addNoise(roomy, 34);
  EXPECT_TRUE(heardLine(roomy).one());
  auto hum = singer(14).samples();
  addHum(hum, 0.004);
  addNoise(hum, 34);
  EXPECT_TRUE(heardLine(hum).one());
}

TEST(OneLine, TwoVoicesAChordAndDrumsAreNone) {
  auto two = singer(14).samples();
  const auto other = singer(14, 7, 52).samples();
  for (std::size_t i = 0; i < two.size(); ++i) two[i] += 0.7F * other[i];
  EXPECT_FALSE(heardLine(two).one());
  std::vector<float> chord(kRate * 10, 0.0F);
  for (std::size_t i = 0; i < chord.size(); ++i)
    for (const double hz : {196.0, 246.9, 293.7, 370.0}) {
      const double t = static_cast<double>(i) / kRate;
      for (int h = 1; h < 6; ++h) chord[i] += static_cast<float>(0.1 / h * std::sin(2 * M_PI * hz * h * t));
    }
  EXPECT_FALSE(heardLine(chord).one());
  test::Take drums(12);
  for (int k = 0; k < 40; ++k) (k % 2 == 0 ? drums.kick(kRate / 4 * (k + 1)) : drums.snare(kRate / 4 * (k + 1)));
  EXPECT_FALSE(heardLine(drums.samples).one());
}

TEST(OneLine, SaysWhereItIsNone) {
  auto sound = singer(16).samples();
  const auto other = singer(16, 7, 52).samples();
  for (std::size_t i = 8 * kRate; i < 10 * kRate; ++i) sound[i] += other[i];
  const auto line = heardLine(sound);
  ASSERT_FALSE(line.elsewhere.empty());
  for (const auto& part : line.elsewhere) {
    EXPECT_GT(part.end, 7.8);
    EXPECT_LT(part.start, 10.2);
  }
}

TEST(OneLine, SilenceIsNone) { EXPECT_FALSE(heardLine(std::vector<float>(kRate * 2, 0.0F)).one()); }

/// Of the values while nobody sings, how many are said to sound.
double falselyVoiced(const MadeVoice& v, const std::vector<float>& sound) {
  const auto track = test::heardPitch(sound);
  double silent = 0;
  double voiced = 0;
  for (std::size_t t = 0; t < track.values.size(); ++t) {
    const double s = PitchTrack::secondsAt(t);
    const bool sung = std::any_of(v.notes.begin(), v.notes.end(),
                                  [&](auto& n) { return s > n.at - 0.05 && s < n.at + n.seconds + 0.05; });
    if (sung) continue;
    silent += 1;
    voiced += track.values[t].sounds() ? 1 : 0;
  }
  return voiced / silent;
}

TEST(Voiced, HumAndNoiseBetweenTheNotesAreNotSung) {
  auto v = singer(20);
  for (auto& n : v.notes) n.seconds = 0.4;
  auto sound = v.samples();
  addHum(sound, 0.002);
  addNoise(sound, 34);
  EXPECT_LT(falselyVoiced(v, sound), 0.06);
}

TEST(Pitch, FollowsAGlideOfAFourthInAFifthOfASecond) {
  MadeVoice v;
  v.seconds = 3;
  v.notes.push_back({0.5, 2, 50});
  v.bend = [](double t) { return t < 1.2 ? 0.0 : t > 1.4 ? 500.0 : 500 * (t - 1.2) / 0.2; };
  const auto sound = v.samples();
  const auto track = test::heardPitch(sound);
  for (double s = 1.2; s < 1.4; s += 0.005) {
    const auto& value = track.values[PitchTrack::valueAt(s)];
    const double truth = centsOfMidi(50) + v.bend(s);
    EXPECT_NEAR(centsOf(value.hertz), truth, 60) << s << " s";
  }
}

TEST(Pitch, AStringWhoseOddHarmonicsDieFirstStaysOnItsNote) {
  std::vector<float> sound(kRate * 6, 0.0F);
  constexpr double kHertz = 98;
  for (std::size_t i = kRate / 10; i < sound.size(); ++i) {
    const double t = static_cast<double>(i) / kRate - 0.1;
    for (int h = 1; h <= 10; ++h) {
      const double decay = h % 2 == 1 ? 1.6 : 0.5;
      sound[i] += static_cast<float>(0.3 / h * std::exp(-decay * t) * std::sin(2 * M_PI * kHertz * h * t + h));
    }
  }
  std::mt19937 dice(2);
  std::normal_distribution<float> hiss(0, 1e-5F);
  for (auto& s : sound) s += hiss(dice);
  const auto track = test::heardPitch(sound);
  for (double s = 0.3; s < 5; s += 0.1)
    EXPECT_NEAR(centsOf(track.values[PitchTrack::valueAt(s)].hertz), centsOf(kHertz), 50) << s << " s";
}

TEST(Pitch, HearsABassAt34HzAndAFluteAt1900WithoutBeingTold) {
  for (const double hertz : {34.6, 1900.0}) {
    std::vector<float> sound(kRate * 2, 0.0F);
    for (std::size_t i = 0; i < sound.size(); ++i)
      for (int h = 1; h <= 6; ++h)
        sound[i] += static_cast<float>(0.2 / h * std::sin(2 * M_PI * hertz * h * static_cast<double>(i) / kRate));
    const auto track = test::heardPitch(sound);
    const auto& middle = track.values[200];
    EXPECT_TRUE(middle.sounds());
    EXPECT_NEAR(centsOf(middle.hertz), centsOf(hertz), 10) << hertz;
  }
}

}  // namespace
}  // namespace ochron
