#include "voice.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace ochron::demo {
namespace {

constexpr double kPi = std::numbers::pi;

struct Formant {
  double hz;
  double widthHz;
  double gain;
};
using Vowel = std::array<Formant, 5>;
// a, e, i, o of a tenor; after the averages in Peterson & Barney 1952 and Fant 1960.
constexpr std::array<Vowel, 4> kVowels{{
    {{{700, 80, 1.0}, {1150, 90, 0.55}, {2600, 120, 0.25}, {3200, 130, 0.22}, {3900, 160, 0.08}}},
    {{{450, 70, 1.0}, {1800, 100, 0.45}, {2550, 120, 0.30}, {3250, 130, 0.22}, {3900, 160, 0.08}}},
    {{{300, 60, 1.0}, {2150, 100, 0.35}, {2850, 120, 0.30}, {3400, 130, 0.20}, {3950, 160, 0.08}}},
    {{{480, 70, 1.0}, {850, 80, 0.60}, {2500, 120, 0.18}, {3150, 130, 0.18}, {3900, 160, 0.06}}},
}};

/// A two-pole resonator (Klatt 1980).
struct Resonator {
  double y1 = 0, y2 = 0;
  double process(double x, const Formant& f) {
    const double r = std::exp(-kPi * f.widthHz / kRate);
    const double b = 2 * r * std::cos(2 * kPi * f.hz / kRate);
    const double c = -r * r;
    const double y = (1 - b - c) * x + b * y1 + c * y2;
    y2 = y1, y1 = y;
    return y;
  }
};

/// Rosenberg's glottal pulse (1971), differentiated: phase 0 to 1.
double glottis(double phase) {
  constexpr double kOpening = 0.40, kClosing = 0.16;
  if (phase < kOpening) return 0.5 * kPi / kOpening * std::sin(kPi * phase / kOpening);
  if (phase < kOpening + kClosing) return -0.5 * kPi / kClosing * std::sin(0.5 * kPi * (phase - kOpening) / kClosing);
  return 0;
}

double pitchHz(const Note& n, double t) {
  const double onset = std::clamp((t - 0.22) / 0.25, 0.0, 1.0);
  const double cents = n.cents + n.scoopCents * std::exp(-t / 0.045) +
                       n.vibratoCents * onset * std::sin(2 * kPi * n.vibratoHz * t) +
                       7 * std::sin(2 * kPi * 0.8 * t + n.midi);
  return 440.0 * std::exp2((n.midi - 69 + cents / 100) / 12.0);
}

}  // namespace

std::vector<float> sing(const std::vector<Note>& notes, std::size_t frames) {
  std::vector<float> out(frames, 0.0f);
  std::uint64_t noise = 362436069ull;
  for (const auto& n : notes) {
    std::array<Resonator, 5> tract;
    const auto& vowel = kVowels[static_cast<std::size_t>(n.vowel)];
    const double seconds = static_cast<double>((n.end - n.start).value) / kRate;
    double phase = 0;
    for (std::int64_t i = 0; i < (n.end - n.start).value + kRate / 20; ++i) {
      const auto at = static_cast<std::size_t>(n.start.value + i);
      if (at >= frames) break;
      const double t = static_cast<double>(i) / kRate;
      phase += pitchHz(n, t) / kRate;
      phase -= std::floor(phase);
      noise ^= noise << 13, noise ^= noise >> 7, noise ^= noise << 17;
      const double breath = (static_cast<double>(noise >> 40) / 8388608.0 - 1.0) * (0.05 + 0.35 * std::exp(-t / 0.02));
      const double level = std::min(1.0, t / 0.035) * std::clamp((seconds + 0.04 - t) / 0.06, 0.0, 1.0);
      const double source = (glottis(phase) + breath) * level;
      double sum = 0;
      for (std::size_t f = 0; f < 5; ++f) sum += tract[f].process(source, vowel[f]) * vowel[f].gain;
      out[at] += static_cast<float>(sum);
    }
  }
  float peak = 0;
  for (const float s : out) peak = std::max(peak, std::abs(s));
  for (auto& s : out) {
    noise ^= noise << 13, noise ^= noise >> 7, noise ^= noise << 17;
    s = s * 0.5f / peak + 6e-5f * (static_cast<float>(noise >> 40) / 8388608.0f - 1.0f);
  }
  return out;
}

}  // namespace ochron::demo
