#include "kit_mics.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

namespace ochron::demo {
namespace {

struct Hearing {
  double gainDb;
  double delayMs;    // distance
  double lowpassHz;  // off-axis and shells; 0: as it is
};

struct Mic {
  const char* name;
  std::map<DrumClass, Hearing> hears;
  double room;  // level of the walls
};

using enum DrumClass;
const std::array<Mic, 9> kMics{{
    {"Kick In",
     {{kick, {0, 0, 0}},
      {snare, {-27, 2.6, 2500}},
      {tom, {-24, 2.2, 2000}},
      {hat, {-38, 3.0, 3000}},
      {cymbal, {-38, 3.6, 3000}}},
     0.004},
    {"Kick Out",
     {{kick, {-3, 1.2, 4000}},
      {snare, {-22, 3.4, 4000}},
      {tom, {-19, 2.8, 4000}},
      {hat, {-31, 3.9, 6000}},
      {cymbal, {-29, 4.2, 6000}}},
     0.02},
    {"Snare Top",
     {{kick, {-21, 2.5, 1500}},
      {snare, {0, 0, 0}},
      {tom, {-20, 1.7, 5000}},
      {hat, {-23, 1.1, 9000}},
      {cymbal, {-29, 2.9, 9000}}},
     0.008},
    {"Snare Bottom",
     {{kick, {-17, 2.6, 1500}},
      {snare, {-4, 0.35, 0}},
      {tom, {-20, 1.9, 5000}},
      {hat, {-30, 1.5, 7000}},
      {cymbal, {-33, 3.1, 7000}}},
     0.008},
    {"Hat",
     {{kick, {-26, 3.1, 2500}},
      {snare, {-16, 1.2, 7000}},
      {tom, {-24, 2.6, 6000}},
      {hat, {2, 0, 0}},
      {cymbal, {-17, 2.6, 0}}},
     0.01},
    {"Overhead L",
     {{kick, {-16, 3.6, 5000}},
      {snare, {-9, 2.9, 0}},
      {tom, {-9, 2.6, 0}},
      {hat, {-7, 2.2, 0}},
      {cymbal, {-3, 2.0, 0}}},
     0.05},
    {"Overhead R",
     {{kick, {-16, 3.8, 5000}},
      {snare, {-10, 3.2, 0}},
      {tom, {-8, 2.3, 0}},
      {hat, {-12, 3.3, 0}},
      {cymbal, {-4, 2.4, 0}}},
     0.05},
    {"Room L",
     {{kick, {-12, 8.4, 7000}},
      {snare, {-11, 8.9, 9000}},
      {tom, {-10, 8.6, 9000}},
      {hat, {-17, 9.3, 10000}},
      {cymbal, {-12, 9.0, 0}}},
     0.35},
    {"Room R",
     {{kick, {-12, 9.1, 7000}},
      {snare, {-11, 9.4, 9000}},
      {tom, {-10, 9.0, 9000}},
      {hat, {-18, 10.1, 10000}},
      {cymbal, {-12, 9.5, 0}}},
     0.35},
}};

constexpr double kNoiseDb = -94;

std::vector<float> lowpassed(std::vector<float> x, double hz) {
  if (hz <= 0) return x;
  const auto a = static_cast<float>(1.0 - std::exp(-2 * 3.14159265358979 * hz / kRate));
  float y1 = 0;
  float y2 = 0;
  for (auto& s : x) y1 += a * (s - y1), y2 += a * (y1 - y2), s = y2;
  return x;
}

/// Six parallel combs and two all-passes (Schroeder 1962), a bit over half a second.
std::vector<float> walls(const std::vector<float>& dry, bool rightSide) {
  std::vector<float> wet(dry.size(), 0.0f);
  const std::array<std::size_t, 6> combs{1427, 1601, 1783, 1931, 2087, 2311};
  for (auto length : combs) {
    length += rightSide ? 61 : 0;
    std::vector<float> line(length, 0.0f);
    const auto feedback = static_cast<float>(std::pow(10.0, -3.0 * static_cast<double>(length) / (0.55 * kRate)));
    float damped = 0;
    for (std::size_t i = 0; i < dry.size(); ++i) {
      auto& slot = line[i % length];
      wet[i] += slot;
      damped += 0.45f * (slot - damped);
      slot = dry[i] + damped * feedback;
    }
  }
  for (const std::size_t length : {241u, 83u}) {
    std::vector<float> line(length, 0.0f);
    for (std::size_t i = 0; i < wet.size(); ++i) {
      auto& slot = line[i % length];
      const float out = slot - 0.7f * wet[i];
      slot = wet[i] + 0.7f * out;
      wet[i] = out;
    }
  }
  return wet;
}

}  // namespace

std::vector<MicSound> recordKit(const Score& score, Instruments& instruments, std::size_t frames) {
  std::vector<float> whole(frames, 0.0f);
  for (const auto& s : score.drums) {
    const auto& sample = instruments.drum(s.key, s.velocity);
    for (std::size_t i = 0; i < sample.size() && static_cast<std::size_t>(s.onset.value) + i < frames; ++i)
      whole[static_cast<std::size_t>(s.onset.value) + i] += sample[i];
  }
  const std::array<std::vector<float>, 2> rooms{walls(whole, false), walls(whole, true)};
  std::vector<MicSound> out;
  std::uint64_t noise = 88172645463325252ull;
  for (std::size_t m = 0; m < kMics.size(); ++m) {
    const auto& mic = kMics[m];
    std::vector<float> sound(frames, 0.0f);
    std::map<std::pair<int, int>, std::vector<float>> coloured;
    for (const auto& s : score.drums) {
      const auto& h = mic.hears.at(s.drum);
      auto& sample = coloured[{s.key, s.velocity}];
      if (sample.empty()) sample = lowpassed(instruments.drum(s.key, s.velocity), h.lowpassHz);
      const auto gain = static_cast<float>(std::pow(10.0, h.gainDb / 20));
      const auto at = static_cast<std::size_t>(s.onset.value + std::llround(h.delayMs * kRate / 1000));
      for (std::size_t i = 0; i < sample.size() && at + i < frames; ++i) sound[at + i] += gain * sample[i];
    }
    const auto& room = rooms[m % 2];
    const auto delay = static_cast<std::size_t>(mic.room > 0.1 ? 520 : 300);
    const auto hiss = static_cast<float>(std::pow(10.0, kNoiseDb / 20));
    for (std::size_t i = 0; i < frames; ++i) {
      if (i >= delay) sound[i] += static_cast<float>(mic.room) * 0.4f * room[i - delay];
      noise ^= noise << 13, noise ^= noise >> 7, noise ^= noise << 17;
      sound[i] += hiss * (static_cast<float>(noise >> 40) / 8388608.0f - 1.0f);
    }
    float peak = 0;
    for (const float s : sound) peak = std::max(peak, std::abs(s));
    for (auto& s : sound) s *= 0.7f / peak;
    out.push_back({mic.name, std::move(sound)});
  }
  return out;
}

}  // namespace ochron::demo
