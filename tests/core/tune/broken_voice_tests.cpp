// Voices whose periods break off: what was asked to move moves behind every break, too.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>
#include <random>

#include "tune/tuned_sound.h"

namespace ochron {
namespace {

constexpr int kSungRate = 48'000;
constexpr double kSeconds = 2;

/// Pulses through two resonances, and where its pitch is known.
struct BrokenVoice {
  std::vector<float> sound;
  PitchTrack track;
  std::vector<std::pair<double, double>> unclear;  ///< s: the break itself, of which no pitch is asked
};

struct Course {
  std::function<double(double)> hertz = [](double) { return 200.0; };
  std::function<double(double)> firstFormant = [](double) { return 700.0; };
};

BrokenVoice sing(const Course& sung) {
  BrokenVoice out;
  const auto frames = static_cast<std::size_t>(kSeconds * kSungRate);
  double phase = 0;
  std::vector<double> y1(2, 0.0);
  std::vector<double> y2(2, 0.0);
  for (std::size_t i = 0; i < frames; ++i) {
    const double t = static_cast<double>(i) / kSungRate;
    const double hertz = sung.hertz(t);
    phase += hertz / kSungRate;
    const int count = static_cast<int>(5'000 / hertz);
    double x = 0;
    for (int h = 1; h <= count; ++h) x += std::cos(2 * std::numbers::pi * h * phase) / count;
    double sum = 0;
    const double formants[] = {sung.firstFormant(t), 1'250};
    for (std::size_t f = 0; f < 2; ++f) {
      const double r = std::exp(-std::numbers::pi * 90 / kSungRate);
      const double y =
          (1 - r) * x + 2 * r * std::cos(2 * std::numbers::pi * formants[f] / kSungRate) * y1[f] - r * r * y2[f];
      y2[f] = y1[f];
      y1[f] = y;
      sum += y;
    }
    out.sound.push_back(static_cast<float>(3 * sum));
  }
  for (std::size_t v = 0; v < static_cast<std::size_t>(kSeconds * PitchTrack::kPerSecond); ++v)
    out.track.values.push_back({sung.hertz(PitchTrack::secondsAt(v)), 1});
  return out;
}

std::span<float> part(std::vector<float>& x, double from, double to) {
  return std::span(x).subspan(static_cast<std::size_t>(from * kSungRate),
                              static_cast<std::size_t>((to - from) * kSungRate));
}

void addNoise(std::span<float> x, double gain) {
  std::mt19937 dice(7);
  std::normal_distribution<double> noise(0, gain);
  for (auto& s : x) s += static_cast<float>(noise(dice));
}

/// Period of some frames by correlation, near one that is expected: as a pitch, Hz.
double pitchAt(std::span<const float> x, double seconds, double expected) {
  const auto period = kSungRate / expected;
  const auto wide = static_cast<std::int64_t>(2 * period);
  const auto middle = std::llround(seconds * kSungRate);
  const auto alike = [&](std::int64_t lag) {
    const auto from = middle - (wide + lag) / 2;
    double ab = 0;
    double aa = 1e-12;
    double bb = 1e-12;
    for (std::int64_t i = 0; i < wide; ++i) {
      const double a = x[static_cast<std::size_t>(from + i)];
      const double b = x[static_cast<std::size_t>(from + i + lag)];
      ab += a * b;
      aa += a * a;
      bb += b * b;
    }
    return ab / std::sqrt(aa * bb);
  };
  std::int64_t best = 0;
  double most = -1;
  for (auto lag = std::llround(0.75 * period); lag <= std::llround(1.34 * period); ++lag)
    if (const double a = alike(lag); a > most) {
      most = a;
      best = lag;
    }
  const double bend = alike(best - 1) - 2 * most + alike(best + 1);
  const double shift = bend < 0 ? 0.5 * (alike(best - 1) - alike(best + 1)) / bend : 0;
  return kSungRate / (static_cast<double>(best) + shift);
}

/// The share of a voice, its breaks apart, that is within 10 cents of what was asked.
double shareAsAsked(const BrokenVoice& v, double cents) {
  auto out = v.sound;
  for (const auto& s : transposed(v.track, cents, 0)) {
    const auto made = tunedSound({v.sound}, v.sound, kSungRate, {}, v.track, s);
    if (!made.channels.empty())
      std::copy(made.channels[0].begin(), made.channels[0].end(), out.begin() + made.start.value);
  }
  std::size_t all = 0;
  std::size_t right = 0;
  for (std::size_t i = 0; i < v.track.values.size(); ++i) {
    const double t = PitchTrack::secondsAt(i);
    const auto& value = v.track.values[i];
    // The first and the last 80 ms take up what is left over of a period.
    if (!value.sounds() || t < 0.1 || t > kSeconds - 0.1) continue;
    if (std::any_of(v.unclear.begin(), v.unclear.end(), [&](auto& u) { return t > u.first && t < u.second; })) continue;
    const double wanted = value.hertz * std::exp2(cents / 1200);
    ++all;
    if (std::abs(1200 * std::log2(pitchAt(out, t, wanted) / wanted)) <= 10) ++right;
  }
  return static_cast<double>(right) / static_cast<double>(all);
}

/// A kind of break at 1 s.
struct Break {
  const char* name;
  std::function<BrokenVoice()> sung;
};
void PrintTo(const Break& b, std::ostream* to) { *to << b.name; }

BrokenVoice broken(double unclear, const std::function<void(std::vector<float>&)>& spoil) {
  auto v = sing({});
  spoil(v.sound);
  v.unclear.emplace_back(1 - 0.015, 1 + unclear + 0.015);
  return v;
}

std::vector<Break> breaks() {
  std::vector<Break> out;
  out.push_back({"Breath", [] {
                   return broken(0.004, [](auto& x) {
                     for (auto& s : part(x, 1, 1.004)) s = 0;
                     addNoise(part(x, 1, 1.004), 0.1);
                   });
                 }});
  out.push_back({"GlottalStop", [] {
                   return broken(0.02, [](auto& x) {
                     for (auto& s : part(x, 1, 1.02)) s = 0;
                   });
                 }});
  out.push_back({"Plosive", [] {
                   return broken(0.03, [](auto& x) {
                     for (auto& s : part(x, 1, 1.03)) s *= 0.02F;
                     addNoise(part(x, 1.02, 1.025), 0.5);
                   });
                 }});
  out.push_back({"ClippedPeak", [] {
                   return broken(0.002, [](auto& x) {
                     for (auto& s : part(x, 1, 1.002)) s = 1;
                   });
                 }});
  out.push_back({"Creak", [] {
                   auto v = sing({[](double t) {
                     if (t < 1 || t > 1.06) return 200.0;
                     constexpr double kTurns[] = {140, 260, 170, 110, 240, 150};
                     return kTurns[static_cast<std::size_t>((t - 1) / 0.0101)];
                   }});
                   for (std::size_t i = 200; i <= 212; ++i) v.track.values[i].hertz = 200;
                   v.unclear.emplace_back(0.98, 1.08);
                   return v;
                 }});
  out.push_back({"OctaveStep", [] {
                   auto v = sing({[](double t) { return t < 1 ? 150.0 : 300.0; }});
                   v.unclear.emplace_back(0.98, 1.02);
                   return v;
                 }});
  out.push_back({"FifthOfOtherTimbre", [] {
                   auto v = sing({[](double t) { return t < 1 ? 160.0 : 240.0; },
                                  [](double t) { return t < 1 ? 350.0 : 1'000.0; }});
                   v.unclear.emplace_back(0.98, 1.02);
                   return v;
                 }});
  out.push_back({"ReverbTail", [] {
                   // A hall that sings on in the old pitch under the new one.
                   auto v = sing({[](double t) { return t < 1 ? 150.0 : 211.0; }});
                   const auto old = sing({[](double) { return 150.0; }});
                   for (std::size_t i = kSungRate; i < v.sound.size(); ++i)
                     v.sound[i] += 0.7F * old.sound[i] *
                                   static_cast<float>(std::exp(-static_cast<double>(i - kSungRate) / 4'800));
                   v.unclear.emplace_back(0.98, 1.3);
                   return v;
                 }});
  out.push_back({"ManyBreaths", [] {
                   auto v = sing({});
                   for (double at = 0.3; at < 1.8; at += 0.17) {
                     for (auto& s : part(v.sound, at, at + 0.006)) s = 0;
                     addNoise(part(v.sound, at, at + 0.006), 0.1);
                     v.unclear.emplace_back(at - 0.015, at + 0.021);
                   }
                   return v;
                 }});
  return out;
}

class AfterABreak : public ::testing::TestWithParam<Break> {};
INSTANTIATE_TEST_SUITE_P(OfEveryKind, AfterABreak, ::testing::ValuesIn(breaks()),
                         [](auto& one) { return std::string(one.param.name); });

TEST_P(AfterABreak, TheVoiceIsWhereItWasAskedToBe) {
  const auto v = GetParam().sung();
  for (const double cents : {-500.0, -80.0, 37.0, 300.0}) EXPECT_GE(shareAsAsked(v, cents), 0.99) << cents;
}

}  // namespace
}  // namespace ochron
