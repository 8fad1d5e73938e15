// Sound made longer and shorter, of known truth: tones, chords, noise and clicks.
#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <numeric>
#include <random>

#include "dsp/phase_vocoder.h"
#include "dsp/stream_stretch.h"

namespace ochron {
namespace {

constexpr int kSoundRate = 48'000;
using Sound = std::vector<float>;

Sound tones(const std::vector<double>& hz, std::size_t frames, int rate = kSoundRate) {
  Sound out(frames);
  for (std::size_t k = 0; k < hz.size(); ++k)
    for (std::size_t i = 0; i < frames; ++i)
      out[i] += static_cast<float>(
          0.2 * std::sin(2 * std::numbers::pi * hz[k] * static_cast<double>(i) / rate + static_cast<double>(k)));
  return out;
}

Sound noise(std::size_t frames, unsigned seed) {
  std::mt19937 dice(seed);
  std::normal_distribution<float> normal(0, 0.1F);
  Sound out(frames);
  for (auto& s : out) s = normal(dice);
  return out;
}

double power(std::span<const float> x) {
  return std::inner_product(x.begin(), x.end(), x.begin(), 0.0) /
         static_cast<double>(std::max<std::size_t>(1, x.size()));
}
double db(double ratio) { return 10 * std::log10(ratio + 1e-30); }

Sound stretched(const Sound& x, double ratio, int rate = kSoundRate) {
  return soundStretched(rate, {x},
                        {x.size(), static_cast<std::size_t>(std::llround(static_cast<double>(x.size()) * ratio))})[0];
}

/// What is left of a tone's neighbourhood: its amplitude and frequency by the phase's course through a window of the
/// tone's own, Hann weighted, in two places.
struct Partial {
  double amplitude = 0;
  double hz = 0;
};
Partial partialAt(std::span<const float> x, double hz) {
  constexpr std::size_t kWindow = 24'000;
  const auto at = [&](std::size_t from) {
    std::complex<double> sum;
    for (std::size_t i = 0; i < kWindow; ++i) {
      const double w = 1 - std::cos(2 * std::numbers::pi * static_cast<double>(i) / kWindow);
      sum += w * static_cast<double>(x[from + i]) *
             std::polar(1.0, -2 * std::numbers::pi * hz * static_cast<double>(from + i) / kSoundRate);
    }
    return sum * 2.0 / static_cast<double>(kWindow);
  };
  const auto from = (x.size() - kWindow) / 2;
  const std::size_t apart = 4'800;
  const auto a = at(from - apart / 2);
  const auto b = at(from + apart / 2);
  const double turn = std::arg(b * std::conj(a));
  return {std::abs(a + b) / 2, hz + turn / (2 * std::numbers::pi) * kSoundRate / static_cast<double>(apart)};
}

const std::vector<double> kChord{110.3, 138.9, 164.7, 207.2, 329.5, 493.4, 657.1, 1108.0, 2217.6};

class Ratios : public ::testing::TestWithParam<double> {};
INSTANTIATE_TEST_SUITE_P(OfLength, Ratios, ::testing::Values(0.5, 0.8, 0.97, 1.25, 1.5, 2.0));

TEST_P(Ratios, AHeldChordKeepsEveryPartialsFrequencyAndLevel) {
  const auto out = stretched(tones(kChord, 4 * kSoundRate), GetParam());
  for (const double hz : kChord) {
    const auto p = partialAt(out, hz);
    EXPECT_NEAR(1200 * std::log2(p.hz / hz), 0, 0.1) << hz;
    EXPECT_NEAR(20 * std::log10(p.amplitude / 0.2), 0, 0.3) << hz;
  }
}

TEST_P(Ratios, WhatIsNoPartialOfAHeldChordStaysFaint) {
  auto out = stretched(tones(kChord, 4 * kSoundRate), GetParam());
  // The middle without its partials.
  const auto from = out.size() / 2 - 12'000;
  Sound rest(out.begin() + static_cast<std::ptrdiff_t>(from), out.begin() + static_cast<std::ptrdiff_t>(from) + 24'000);
  const double whole = power(rest);
  // Gauss-Seidel: each sine and cosine is taken out in turn, many times over, for they are nearly orthogonal.
  for (int round = 0; round < 30; ++round)
    for (const double hz : kChord) {
      std::complex<double> sum;
      for (std::size_t i = 0; i < rest.size(); ++i)
        sum += static_cast<double>(rest[i]) *
               std::polar(1.0, -2 * std::numbers::pi * hz * static_cast<double>(i) / kSoundRate);
      sum *= 2.0 / static_cast<double>(rest.size());
      for (std::size_t i = 0; i < rest.size(); ++i)
        rest[i] -= static_cast<float>(
            (sum * std::polar(1.0, 2 * std::numbers::pi * hz * static_cast<double>(i) / kSoundRate)).real());
    }
  EXPECT_LT(db(power(rest) / whole), -38);
}

/// What a copy 37 frames late and softer by 3 dB is off being one after stretching, dB.
double lateCopysRest(const Sound& left, double ratio) {
  constexpr std::size_t kLate = 37;
  Sound right(left.size());
  for (std::size_t i = kLate; i < right.size(); ++i) right[i] = 0.7F * left[i - kLate];
  const auto frames = static_cast<std::size_t>(static_cast<double>(left.size()) * ratio);
  const auto out = soundStretched(kSoundRate, {left, right, left}, {left.size(), frames});
  EXPECT_EQ(out[0], out[2]) << "a copy to the bit";
  Sound rest;
  for (std::size_t i = 9'600; i + 9'600 < frames; ++i) rest.push_back(out[1][i] - 0.7F * out[0][i - kLate]);
  return db(power(rest) / power(std::span(out[1]).subspan(9'600, rest.size())));
}

TEST_P(Ratios, ALateAndSofterCopyOfAChannelStaysOne) {
  auto held = tones(kChord, 2 * kSoundRate);
  EXPECT_LT(lateCopysRest(held, GetParam()), -40);
  // Struck again and again, under noise that rings off.
  const auto hiss = noise(held.size(), 3);
  for (std::size_t i = 0; i < held.size(); ++i)
    held[i] += hiss[i] * static_cast<float>(std::exp(-1e-4 * static_cast<double>(i % 12'000)));
  EXPECT_LT(lateCopysRest(held, GetParam()), -27);
}

TEST_P(Ratios, LowTonesKeepTheirLevel) {
  for (const double hz : {24.0, 38.0, 55.0}) {
    const auto out = stretched(tones({hz}, 3 * kSoundRate), GetParam());
    EXPECT_NEAR(db(power(std::span(out).subspan(out.size() / 4, out.size() / 2)) / 0.02), 0, 0.3) << hz;
  }
}

TEST_P(Ratios, NoiseLosesLittleOfItsLevel) {
  const auto x = noise(3 * kSoundRate, 9);
  const auto out = stretched(x, GetParam());
  const double change = db(power(std::span(out).subspan(out.size() / 4, out.size() / 2)) / power(x));
  EXPECT_LT(change, 0.3);
  EXPECT_GT(change, GetParam() < 0.7 ? -2.8 : -1.2);
}

TEST_P(Ratios, AClickOverNothingSpreadsNoFartherThanTheShortestWindow) {
  Sound x(2 * kSoundRate, 0.0F);
  x[kSoundRate] = 1;
  const auto out = stretched(x, GetParam());
  const auto at = static_cast<std::int64_t>(std::llround(kSoundRate * GetParam()));
  const auto reach = static_cast<std::int64_t>(0.043 * kSoundRate * 1.5);
  double beyond = 0;
  for (std::int64_t i = 0; i < std::ssize(out); ++i)
    if (std::abs(i - at) > reach)
      beyond = std::max(beyond, std::abs(static_cast<double>(out[static_cast<std::size_t>(i)])));
  EXPECT_LT(beyond, 1e-6);
}

TEST(PhaseVocoder, AtTheRecordingsOwnSpeedIsTheRecording) {
  auto x = tones(kChord, kSoundRate);
  const auto hiss = noise(x.size(), 5);
  for (std::size_t i = 0; i < x.size(); ++i) x[i] += hiss[i];
  const auto out = stretched(x, 1);
  ASSERT_EQ(out.size(), x.size());
  for (std::size_t i = 0; i < x.size(); ++i) ASSERT_NEAR(out[i], x[i], 2e-5) << i;
}

TEST(PhaseVocoder, BeginsAfreshInTheRecordingsOwnPhases) {
  auto x = tones({220.5, 331.2}, 3 * kSoundRate);
  const auto hiss = noise(x.size(), 6);
  for (std::size_t i = 0; i < x.size(); ++i) x[i] += 0.3F * hiss[i];
  // Half a second longer in the first second, then as recorded.
  const StreamLength length{x.size(), x.size() + kSoundRate / 2, {{kSoundRate, kSoundRate * 3 / 2}}};
  const auto late = [&](const Sound& out) {
    Sound rest;
    for (std::size_t i = 2 * kSoundRate + kSoundRate / 4; i < 3 * kSoundRate; ++i)
      rest.push_back(out[i] - x[i - kSoundRate / 2]);
    return db(power(rest) / power(x));
  };
  EXPECT_GT(late(soundStretched(kSoundRate, {x}, length)[0]), -20) << "turned by what came before";
  auto again = length;
  again.fresh = {{Frames{2 * kSoundRate}, Frames{2 * kSoundRate + 2'000}}};
  EXPECT_LT(late(soundStretched(kSoundRate, {x}, again)[0]), -60);
}

TEST(PhaseVocoder, GivesEveryLengthToTheFrameAndNothingThatIsNoNumber) {
  for (const std::size_t frames : {1U, 40U, 700U, 20'000U})
    for (const std::size_t made : {1U, 33U, 5'000U, 70'001U})
      for (const auto& channel : soundStretched(44'100, {tones({440}, frames), Sound(frames)}, {frames, made})) {
        ASSERT_EQ(channel.size(), made);
        for (const float s : channel) ASSERT_TRUE(std::isfinite(s));
      }
}

TEST(PhaseVocoder, DoesNotFadeOutAtItsEnd) {
  for (const double ratio : {0.5, 1.31, 3.0}) {
    const auto out = stretched(tones({440}, kSoundRate), ratio);
    EXPECT_NEAR(db(power(std::span(out).last(2'400)) / 0.02), 0, 3) << ratio;
  }
}

TEST(PhaseVocoder, KeysPutFramesWhereTheySay) {
  // A click every 12000 frames; the keys move the second one by 1000 frames.
  Sound in(kSoundRate, 0.0F);
  for (const std::size_t at : {6'000U, 18'000U, 30'000U, 42'000U})
    for (std::size_t i = 0; i < 200; ++i)
      in[at + i] = static_cast<float>(std::exp(-0.02 * static_cast<double>(i)) * (i % 2 ? -0.8 : 0.8));
  const auto out = soundStretched(kSoundRate, {in}, {in.size(), in.size(), {{18'000, 19'000}}})[0];
  const auto loudest = std::max_element(out.begin() + 12'500, out.begin() + 25'000,
                                        [](float a, float b) { return std::abs(a) < std::abs(b); });
  EXPECT_NEAR(static_cast<double>(loudest - out.begin()), 19'000, 240);
}

TEST(PhaseVocoder, ReadsEachFrameOfItsSourceOnceAndInOrder) {
  std::size_t next = 0;
  PhaseVocoder vocoder(kSoundRate, 1, {{{0, 0}, {30'000, 20'000}}, {}}, [&](std::size_t from, ChannelSpans channels) {
    EXPECT_EQ(from, next);
    next = from + channels.front().size();
  });
  Sound block(1'000);
  const std::array<std::span<float>, 1> spans{block};
  for (int i = 0; i < 30; ++i) vocoder.make(spans);
  EXPECT_GT(next, 20'000U);
  EXPECT_LT(next, 45'000U) << "half a longest window beyond the end";
}

TEST(PhaseVocoder, GivesTheSameInBlocksOfAnySize) {
  const auto x = tones(kChord, kSoundRate);
  const auto whole = stretched(x, 1.4);
  PhaseVocoder vocoder(kSoundRate, 1, {{{0, 0}, {std::ssize(whole), kSoundRate}}, {}},
                       [&](std::size_t from, ChannelSpans to) {
                         for (std::size_t i = 0; i < to[0].size() && from + i < x.size(); ++i) to[0][i] = x[from + i];
                       });
  Sound pieces;
  for (std::size_t n = 1; pieces.size() < whole.size(); n = n * 7 % 5'003) {
    Sound block(std::min(n, whole.size() - pieces.size()));
    const std::array<std::span<float>, 1> spans{block};
    vocoder.make(spans);
    pieces.insert(pieces.end(), block.begin(), block.end());
  }
  for (std::size_t i = 0; i < whole.size(); ++i) ASSERT_NEAR(pieces[i], whole[i], 1e-6) << i;
}

/// The windows that are chosen for a second in the middle of a sound.
std::vector<int> windowsOf(const Sound& x) {
  SlidingSource source(1, 65'536, [&](std::size_t from, ChannelSpans to) {
    for (std::size_t i = 0; i < to[0].size() && from + i < x.size(); ++i) to[0][i] = x[from + i];
  });
  SteadyWindows windows(kSoundRate, 2'048, source);
  std::vector<int> out;
  for (std::int64_t at = 0; at < std::ssize(x); at += 512)
    if (const int w = windows.at(at); std::abs(at - std::ssize(x) / 2) < kSoundRate / 2) out.push_back(w);
  return out;
}

TEST(SteadyWindows, AreLongWhereAChordIsHeldAndShortInNoiseAndVibrato) {
  const auto chord = windowsOf(tones(kChord, 3 * kSoundRate));
  EXPECT_EQ(std::count(chord.begin(), chord.end(), 16'384), std::ssize(chord));
  const auto hiss = windowsOf(noise(3 * kSoundRate, 12));
  EXPECT_EQ(std::count(hiss.begin(), hiss.end(), 2'048), std::ssize(hiss));
  Sound vibrato(3 * kSoundRate);
  double phase = 0;
  for (std::size_t i = 0; i < vibrato.size(); ++i) {
    phase += 2 * std::numbers::pi * 440 / kSoundRate *
             std::exp2(0.05 * std::sin(2 * std::numbers::pi * 5.5 * static_cast<double>(i) / kSoundRate));
    for (int k = 1; k < 8; ++k) vibrato[i] += static_cast<float>(0.1 / k * std::sin(k * phase));
  }
  const auto sung = windowsOf(vibrato);
  EXPECT_LT(*std::max_element(sung.begin(), sung.end()), 16'384) << "one swing is like the next";
}

TEST(SteadyWindows, AHatOverAHeldChordAllowsNoLongWindowAcrossIt) {
  auto x = tones(kChord, 3 * kSoundRate);
  const auto hiss = noise(4'800, 2);
  for (std::size_t i = 1; i < hiss.size(); ++i)
    x[3 * kSoundRate / 2 + i] += (hiss[i] - hiss[i - 1]) * static_cast<float>(std::exp(-8e-4 * static_cast<double>(i)));
  const auto chosen = windowsOf(x);
  const auto middle = chosen.size() / 2;
  for (auto i = middle - 4; i < middle + 4; ++i) EXPECT_LE(chosen[i], 4'096) << i;
  EXPECT_EQ(chosen.front(), 16'384) << "half a second before, the chord is still";
}

TEST(SlidingSource, KeepsWhatWindowsReachBackTo) {
  SlidingSource source(2, 20'000, [](std::size_t from, ChannelSpans to) {
    for (std::size_t c = 0; c < to.size(); ++c)
      for (std::size_t i = 0; i < to[c].size(); ++i) to[c][i] = static_cast<float>(from + i + c);
  });
  Sound block(3'000);
  for (std::int64_t at = -5'000; at < 200'000; at += 1'777)
    for (std::size_t c = 0; c < 2; ++c)
      for (const std::int64_t back : {0, 9'000}) {
        source.read(c, at - back, block);
        for (std::size_t i = 0; i < block.size(); ++i) {
          const auto frame = at - back + static_cast<std::int64_t>(i);
          ASSERT_EQ(block[i], frame < 0 ? 0.0F : static_cast<float>(frame + static_cast<std::int64_t>(c)));
        }
      }
}

}  // namespace
}  // namespace ochron
