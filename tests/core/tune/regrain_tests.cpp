// New sound period by period, from recordings whose periods are known.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>
#include <random>

#include "tune/regrain.h"
#include "tune/tuned_sound.h"

namespace ochron {
namespace {

constexpr int kVoiceRate = 48'000;
constexpr double kVoiceHz = 151.3;

/// A voice of one formant at 900 Hz that falls off between its periods, in breath.
std::vector<float> breathyVoice(double seconds, double breath) {
  std::mt19937 dice(4);
  std::normal_distribution<double> noise(0, breath);
  std::vector<float> out(static_cast<std::size_t>(seconds * kVoiceRate));
  for (std::size_t i = 0; i < out.size(); ++i) {
    const double t = static_cast<double>(i) / kVoiceRate;
    double x = 0;
    for (int k = 1; k * kVoiceHz < 6'000; ++k) {
      const double off = (k * kVoiceHz - 900) / 250;
      x += std::cos(2 * std::numbers::pi * k * kVoiceHz * t) / (1 + off * off) / k;
    }
    out[i] = static_cast<float>(0.3 * x + noise(dice));
  }
  return out;
}

std::vector<double> marksOf(std::size_t frames) {
  std::vector<double> out;
  const double period = kVoiceRate / kVoiceHz;
  for (double m = 2 * period; m < static_cast<double>(frames) - 2 * period; m += period) out.push_back(m);
  return out;
}

/// What of the middle is not a harmonic of a pitch, dB.
double betweenHarmonics(const std::vector<float>& x, double hz) {
  constexpr std::size_t kLength = 12'000;
  const auto from = (x.size() - kLength) / 2;
  std::vector<double> rest(kLength);
  double whole = 0;
  for (std::size_t i = 0; i < kLength; ++i) {
    rest[i] = static_cast<double>(x[from + i]);
    whole += rest[i] * rest[i];
  }
  for (int round = 0; round < 3; ++round)
    for (int k = 1; k * hz < 6'000; ++k) {
      std::complex<double> sum;
      const double turn = 2 * std::numbers::pi * k * hz / kVoiceRate;
      for (std::size_t i = 0; i < kLength; ++i) sum += rest[i] * std::polar(1.0, -turn * static_cast<double>(i));
      sum *= 2.0 / kLength;
      for (std::size_t i = 0; i < kLength; ++i)
        rest[i] -= (sum * std::polar(1.0, turn * static_cast<double>(i))).real();
    }
  double left = 0;
  for (const double r : rest) left += r * r;
  return 10 * std::log10(left / whole);
}

/// Level of a tone in the middle, dB.
double toneLevel(std::span<const float> y, double hz) {
  constexpr std::size_t kLength = 12'000;
  std::complex<double> sum;
  for (std::size_t i = 0; i < kLength; ++i) {
    const double w = 1 - std::cos(2 * std::numbers::pi * static_cast<double>(i) / kLength);
    sum += w * static_cast<double>(y[y.size() / 3 + i]) *
           std::polar(1.0, -2 * std::numbers::pi * hz * static_cast<double>(i) / kVoiceRate);
  }
  return 20 * std::log10(2 * std::abs(sum) / kLength);
}

class Semitones : public ::testing::TestWithParam<int> {};
INSTANTIATE_TEST_SUITE_P(UpAndDown, Semitones, ::testing::Values(-7, -3, -1, 0, 1, 3, 7, 12));

TEST_P(Semitones, BreathGrowsNoLouderBesideTheHarmonics) {
  const auto x = breathyVoice(1, 0.01);
  const double ratio = std::exp2(GetParam() / 12.0);
  const auto out =
      regrain({x}, kVoiceRate, marksOf(x.size()), {[&](double) { return ratio; }, [](double) { return 1.0; }});
  EXPECT_LT(betweenHarmonics(out.channels[0], kVoiceHz * ratio), betweenHarmonics(x, kVoiceHz) + 1.5);
}

TEST_P(Semitones, TheFormantStaysWhereItIs) {
  const auto x = breathyVoice(1, 0);
  const double ratio = std::exp2(GetParam() / 12.0);
  const auto out =
      regrain({x}, kVoiceRate, marksOf(x.size()), {[&](double) { return ratio; }, [](double) { return 1.0; }});
  const auto& y = out.channels[0];
  const auto curve = [&](double hz) {
    const double off = (hz - 900) / 250;
    return 20 * std::log10(0.3 / (1 + off * off) / (hz / kVoiceHz));
  };
  for (int k = 1; k * kVoiceHz * ratio < 2'500; ++k) {
    const double hz = k * kVoiceHz * ratio;
    // As many harmonics as before would be as loud as before: fewer are louder.
    if (hz > kVoiceHz) EXPECT_NEAR(toneLevel(y, hz), curve(hz) + 10 * std::log10(ratio), 2.5) << k;
  }
}

/// A voice of two formants, whose harmonics have phases of their own.
struct OddVoice {
  std::vector<float> sound;
  std::vector<double> phases;

  static double curve(double hz) {
    const double low = (hz - 700) / 140, high = (hz - 1'900) / 220;
    return 0.3 / (1 + low * low) + 0.12 / (1 + high * high) + 0.01;
  }
  explicit OddVoice(unsigned seed) {
    std::mt19937 dice(seed);
    std::uniform_real_distribution<double> turn(-0.35, 0.35);
    for (int k = 0; k < 60; ++k) phases.push_back((k > 0 ? phases.back() : 0) + 2 * std::numbers::pi * turn(dice));
    sound.resize(kVoiceRate);
    for (std::size_t i = 0; i < sound.size(); ++i) {
      double x = 0;
      for (int k = 1; k * kVoiceHz < 6'000; ++k)
        x += curve(k * kVoiceHz) * std::cos(2 * std::numbers::pi * k * kVoiceHz * static_cast<double>(i) / kVoiceRate +
                                            phases[static_cast<std::size_t>(k)]);
      sound[i] = static_cast<float>(0.3 * x);
    }
  }
};

TEST_P(Semitones, HarmonicsThatCancelWhereTheyOverlapKeepTheirLevels) {
  const double ratio = std::exp2(GetParam() / 12.0);
  double off = 0;
  int heard = 0;
  for (unsigned seed = 1; seed <= 3; ++seed) {
    const OddVoice voice(seed);
    const auto out = regrain({voice.sound}, kVoiceRate, marksOf(voice.sound.size()),
                             {[&](double) { return ratio; }, [](double) { return 1.0; }});
    std::vector<double> against;
    for (int k = 1; k * kVoiceHz * ratio < 3'000; ++k) {
      const double number = std::max(1.0, k * ratio);
      const double lower = std::floor(number);
      const auto sung = [&](double n) { return 20 * std::log10(0.3 * OddVoice::curve(n * kVoiceHz)); };
      against.push_back(toneLevel(out.channels[0], k * kVoiceHz * ratio) -
                        std::lerp(sung(lower), sung(lower + 1), number - lower));
    }
    auto sorted = against;
    std::sort(sorted.begin(), sorted.end());
    for (const double a : against) off += std::abs(a - sorted[sorted.size() / 2]);
    heard += static_cast<int>(against.size());
  }
  EXPECT_LT(off / heard, 0.7);
}

TEST_P(Semitones, FormantsThatGoAlongLeaveEachHarmonicAsItWas) {
  const OddVoice voice(7);
  const double ratio = std::exp2(GetParam() / 12.0);
  const auto out = regrain({voice.sound}, kVoiceRate, marksOf(voice.sound.size()),
                           {[&](double) { return ratio; }, [&](double) { return ratio; }});
  const auto moved = [&](int k) {
    return toneLevel(out.channels[0], k * kVoiceHz * ratio) - 20 * std::log10(0.3 * OddVoice::curve(k * kVoiceHz));
  };
  for (int k = 2; k * kVoiceHz < 5'500; ++k) EXPECT_NEAR(moved(k), moved(1), 0.5) << k;
  const auto level = [&](int k) { return toneLevel(out.channels[0], k * kVoiceHz * ratio); };
  for (int k = 40; k < 44; ++k) EXPECT_LT(level(k), level(39) - 50) << "not sung: " << k;
}

TEST(Regrain, BothEndsMeetTheRecording) {
  const OddVoice voice(3);
  const auto marks = marksOf(voice.sound.size());
  const auto changed = [&](double cents) {
    const double ratio = std::exp2(cents / 1200);
    return regrain({voice.sound}, kVoiceRate, marks, {[&](double) { return ratio; }, [](double) { return 1.0; }});
  };
  for (const double cents : {-500.0, 300.0}) {
    const auto out = changed(cents);
    const auto first = static_cast<std::size_t>(out.start.value);
    EXPECT_NEAR(out.channels[0].front(), voice.sound[first], 1e-5) << cents;
    EXPECT_NEAR(out.channels[0].back(), voice.sound[first + out.channels[0].size() - 1], 1e-2) << cents;
  }
}

TEST(Regrain, TheChannelsOfAPairKeepTheirRelation) {
  const OddVoice voice(5);
  std::vector<float> softer(voice.sound.size());
  for (std::size_t i = 0; i < softer.size(); ++i) softer[i] = -0.25F * voice.sound[i];
  const double ratio = std::exp2(400.0 / 1200);
  const auto out = regrain({voice.sound, softer}, kVoiceRate, marksOf(voice.sound.size()),
                           {[&](double) { return ratio; }, [](double) { return 1.0; }});
  for (std::size_t i = 0; i < out.channels[0].size(); ++i)
    ASSERT_NEAR(out.channels[1][i], -0.25F * out.channels[0][i], 1e-5) << i;
}

TEST_P(Semitones, ItIsAsLoudAsBefore) {
  const auto x = breathyVoice(1, 0.003);
  const double ratio = std::exp2(GetParam() / 12.0);
  const auto out =
      regrain({x}, kVoiceRate, marksOf(x.size()), {[&](double) { return ratio; }, [](double) { return 1.0; }});
  const auto power = [](std::span<const float> y) {
    double sum = 0;
    const auto middle = y.subspan(y.size() / 4, y.size() / 2);
    for (const float s : middle) sum += static_cast<double>(s) * s;
    return sum / static_cast<double>(middle.size());
  };
  EXPECT_NEAR(10 * std::log10(power(out.channels[0]) / power(x)), 0, 1.5);
}

TEST(Regrain, APitchThatStepsLeavesNoEdgeInTheSound) {
  const auto x = breathyVoice(1, 0);
  const auto sharpest = [](const std::vector<float>& y) {
    float most = 0;
    for (std::size_t i = 2; i < y.size(); ++i) most = std::max(most, std::abs(y[i] - 2 * y[i - 1] + y[i - 2]));
    return most;
  };
  for (const double cents : {-300.0, -120.0, 90.0, 260.0}) {
    const auto step = [&](double frame) { return frame < kVoiceRate / 2.0 ? 1.0 : std::exp2(cents / 1200); };
    const auto out = regrain({x}, kVoiceRate, marksOf(x.size()), {step, [](double) { return 1.0; }});
    EXPECT_LT(sharpest(out.channels[0]), 1.35F * sharpest(x)) << cents;
  }
}

TEST(Regrain, AtItsOwnPitchIsTheRecording) {
  const auto x = breathyVoice(0.5, 0);
  const auto out =
      regrain({x}, kVoiceRate, marksOf(x.size()), {[](double) { return 1.0; }, [](double) { return 1.0; }});
  for (std::size_t i = 0; i < out.channels[0].size(); ++i)
    ASSERT_NEAR(out.channels[0][i], x[static_cast<std::size_t>(out.start.value) + i], 1e-4) << i;
}

/// The pitch of some frames by the phase of the lowest harmonic over them.
double pitchIn(std::span<const float> x, double near) {
  const auto half = x.size() / 2;
  const auto phase = [&](std::size_t from) {
    std::complex<double> sum;
    for (std::size_t i = 0; i < half; ++i) {
      const double w = 1 - std::cos(2 * std::numbers::pi * static_cast<double>(i) / static_cast<double>(half));
      sum += w * static_cast<double>(x[from + i]) *
             std::polar(1.0, -2 * std::numbers::pi * near * static_cast<double>(from + i) / kVoiceRate);
    }
    return std::arg(sum);
  };
  const double turn = std::remainder(phase(half) - phase(0), 2 * std::numbers::pi);
  return near + turn / (2 * std::numbers::pi) * kVoiceRate / static_cast<double>(half);
}

TEST(TunedSound, AVoiceThatEndsInSilenceIsOfItsNewPitchToItsEnd) {
  auto x = breathyVoice(1, 0.002);
  x.resize(x.size() + kVoiceRate / 2, 0.0F);
  PitchTrack track;
  for (std::size_t i = 0; i < 300; ++i) {
    PitchTrack::Value v;
    if (static_cast<double>(i) * PitchTrack::kHop < 1) {
      v.hertz = kVoiceHz;
      v.voiced = 1;
    }
    track.values.push_back(v);
  }
  for (const double cents : {37.0, -220.0, 410.0}) {
    MovedStretch s;
    s.first = 4;
    s.cents.assign(static_cast<std::size_t>(1 / PitchTrack::kHop) - 6, cents);
    s.formants.assign(s.cents.size(), 0);
    const auto out = tunedSound({x}, x, kVoiceRate, Frames{}, track, s);
    ASSERT_FALSE(out.channels.empty());
    const double wanted = kVoiceHz * std::exp2(cents / 1200);
    const auto& y = out.channels[0];
    const auto tail = std::span<const float>(y).subspan(y.size() - 5'280, 4'800);
    EXPECT_NEAR(1200 * std::log2(pitchIn(tail, wanted) / wanted), 0, 4) << cents;
    for (std::size_t i = 1; i < y.size(); ++i) ASSERT_LT(std::abs(y[i] - y[i - 1]), 0.2) << "a step at " << i;
  }
}

}  // namespace
}  // namespace ochron
