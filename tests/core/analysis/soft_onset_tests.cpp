// Onsets of instruments that sound on: a bass and a voice made of sines, with onsets known to the frame.

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

#include "analysis/drums/onsets.h"
#include "analysis/hits/soft_onsets.h"
#include "support/performance.h"
#include "support/units.h"

namespace ochron {
namespace {

using test::kRate;

struct Line {
  std::vector<float> samples;
  std::vector<Frames> onsets;
  std::vector<Frames> rests;  ///< middles of those of 0.2 s and more
};

struct LineStyle {
  double lowestHz = 41;
  double semitones = 12;   ///< range
  double shortest = 0.15;  ///< seconds
  double longest = 0.8;
  double attack = 0.004;  ///< seconds to full level
  double decay = 1.5;     ///< a second, exponent
  double vibratoCents = 0;
  double restShare = 0.15;  ///< notes that are followed by a rest
  double legatoShare = 0;   ///< notes that go over into the next without a new attack
  double repeatShare = 0;   ///< notes that repeat the pitch of the one before
  double noise = 0.0005;
  std::uint64_t seed = 1;
};

std::ostream& operator<<(std::ostream& out, const LineStyle& s) {
  return out << s.lowestHz << " Hz, attack " << s.attack * 1000 << " ms, vibrato " << s.vibratoCents << ", seed "
             << s.seed;
}

Line play(const LineStyle& style) {
  Line line;
  line.samples.assign(static_cast<std::size_t>(kRate) * 40, 0.0F);
  std::mt19937_64 dice(style.seed);
  std::uniform_real_distribution<double> any(0, 1);
  for (auto& s : line.samples) s = static_cast<float>(style.noise * (any(dice) * 2 - 1));
  double at = 0.6;
  double lastMidi = -1;
  while (at < 38) {
    const double length = style.shortest + any(dice) * (style.longest - style.shortest);
    double midi = std::floor(any(dice) * style.semitones);
    if (midi == lastMidi && any(dice) < 0.7) midi += 1;
    if (lastMidi >= 0 && style.repeatShare > 0 && any(dice) < style.repeatShare) midi = lastMidi;
    lastMidi = midi;
    const double hz = style.lowestHz * std::exp2(midi / 12);
    const double loud = 0.25 + 0.2 * any(dice);
    const bool legato = any(dice) < style.legatoShare;
    const auto first = static_cast<std::int64_t>(at * kRate);
    const auto count = static_cast<std::int64_t>(length * kRate);
    double phase = any(dice) * 6;
    for (std::int64_t i = 0; i < count && first + i < std::ssize(line.samples); ++i) {
      const double t = static_cast<double>(i) / kRate;
      const double rise = std::min(1.0, t / (legato ? 0.02 : style.attack));
      const double fall = std::min(1.0, (length - t) / 0.02);
      const double cents = style.vibratoCents * std::sin(2 * std::numbers::pi * 5.5 * t) * std::min(1.0, t / 0.25);
      phase += 2 * std::numbers::pi * hz * std::exp2(cents / 1200) / kRate;
      double v = 0;
      for (int h = 1; h <= 8 && h * hz < 6000; ++h)
        v += std::sin(h * phase) / (h * (1 + 0.6 * h * t * style.decay / 1.5));
      line.samples[static_cast<std::size_t>(first + i)] +=
          static_cast<float>(loud * rise * fall * std::exp(-style.decay * t) * v);
    }
    line.onsets.emplace_back(first);
    const double rest = any(dice) < style.restShare ? 0.1 + 0.3 * any(dice) : 0.0;
    if (rest >= 0.2) line.rests.emplace_back(static_cast<std::int64_t>((at + length + rest / 2) * kRate));
    at += length + rest;
  }
  return line;
}

class SoftOnsets : public ::testing::TestWithParam<LineStyle> {};

TEST_P(SoftOnsets, AreFoundWithinTwentyFiveMilliseconds) {
  const auto line = play(GetParam());
  Progress progress;
  const auto found = *detectOnsets({{line.samples, Frames{0}}}, kRate, progress);
  std::vector<Frames> frames;
  for (const auto& o : found)
    if (o.guides.front().claim >= 0.05) frames.push_back(o.at);  // what counts at the default sensitivity
  const auto score = test::compare(line.onsets, frames, kRate, 25);
  RecordProperty("f1", std::to_string(score.f1));
  EXPECT_GE(score.f1, 0.90) << "precision " << score.precision << " recall " << score.recall;
}

std::vector<LineStyle> styles() {
  std::vector<LineStyle> out;
  for (std::uint64_t seed = 1; seed <= 3; ++seed) {
    LineStyle bass;
    bass.seed = seed;
    out.push_back(bass);
    LineStyle strings;  // bowed: slow attack, no decay
    strings.lowestHz = 130, strings.semitones = 24, strings.attack = 0.03, strings.decay = 0.05,
    strings.vibratoCents = 20;
    strings.seed = seed + 10;
    out.push_back(strings);
    LineStyle voice;
    voice.lowestHz = 160, voice.semitones = 15, voice.attack = 0.02, voice.decay = 0.1, voice.vibratoCents = 40;
    voice.legatoShare = 0.4, voice.noise = 0.002, voice.seed = seed + 20;
    out.push_back(voice);
    LineStyle repeats;  // a wind tongued again and again on one pitch
    repeats.lowestHz = 260, repeats.attack = 0.015, repeats.decay = 0.05, repeats.vibratoCents = 15;
    repeats.repeatShare = 0.7, repeats.restShare = 0, repeats.shortest = 0.25, repeats.seed = seed + 30;
    out.push_back(repeats);
  }
  return out;
}
INSTANTIATE_TEST_SUITE_P(Lines, SoftOnsets, ::testing::ValuesIn(styles()));

TEST(SoundsOn, ClicksInThePausesOfAnInstrumentAreNoNotes) {
  LineStyle strings;
  strings.lowestHz = 130, strings.semitones = 24, strings.attack = 0.03, strings.decay = 0.05;
  strings.restShare = 0.7, strings.seed = 77;
  auto line = play(strings);
  ASSERT_GE(line.rests.size(), 10U);
  for (const auto rest : line.rests)
    for (std::int64_t i = 0; i < 480; ++i) {
      const double t = static_cast<double>(i) / kRate;
      line.samples[static_cast<std::size_t>(rest.value + i)] +=
          static_cast<float>(0.08 * std::exp(-t / 0.003) * std::sin(2 * std::numbers::pi * 1'200 * t));
    }
  Progress progress;
  const auto found = *detectOnsets({{line.samples, Frames{0}}}, kRate, progress);
  std::size_t clicks = 0;
  std::vector<Frames> frames;
  for (const auto& o : found) {
    if (o.guides.front().claim < 0.05) continue;
    frames.push_back(o.at);
    clicks += std::any_of(line.rests.begin(), line.rests.end(),
                          [&](Frames r) { return std::abs((o.at - r).value) < kRate / 33; })
                  ? 1
                  : 0;
  }
  EXPECT_LE(clicks, line.rests.size() / 10) << "of " << line.rests.size();
  EXPECT_GE(test::compare(line.onsets, frames, kRate, 25).f1, 0.9);
}

TEST(SoundsOn, TellsABassFromADrum) {
  std::vector<float> bass(2000, 0.5F);
  std::vector<float> drum(2000, 0.0F);
  std::vector<std::int64_t> strokes;
  for (std::int64_t ms = 100; ms < 1900; ms += 130) {  // dense: the next stroke comes before 160 ms
    strokes.push_back(ms);
    for (std::int64_t i = 0; i < 130; ++i)
      drum[static_cast<std::size_t>(ms + i)] = std::exp(-static_cast<float>(i) / 30);
  }
  EXPECT_TRUE(soundsOn(bass, strokes));
  EXPECT_FALSE(soundsOn(drum, strokes));
  EXPECT_FALSE(soundsOn({}, {}));
}

}  // namespace
}  // namespace ochron
