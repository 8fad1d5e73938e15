#include "dsp/fade.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <numbers>
#include <vector>

#include "terms/bend.h"

namespace ochron {
namespace {
double shaped(FadeShape shape, double x) {
  switch (shape) {
    case FadeShape::line: return x;
    case FadeShape::sCurve: return x * x * (3.0 - 2.0 * x);
  }
  return x;
}
constexpr float kLeastPower = 1e-30F;         // keeps silence from being divided by
constexpr double kLowestCorrelation = -0.75;  // gains 1 / sqrt(2 (1 + r)) in the middle: +3 dB at r = -0.75

double laterShare(FadeShape shape, double bias, double x) {
  return shaped(shape, bias == 0 ? x : std::pow(x, std::exp2(std::clamp(bias, -1.0, 1.0))));
}

// Four values side by side, so that wide registers are used (an extension that GCC and Clang share).
constexpr std::size_t kLanes = 4;
using Lanes __attribute__((vector_size(kLanes * sizeof(float)))) = float;

double total(const Lanes& lanes) {
  double sum = 0;
  for (std::size_t k = 0; k < kLanes; ++k) sum += static_cast<double>(lanes[k]);
  return sum;
}

/// The values from `at` on, silence behind their end.
Lanes lanesOf(std::span<const float> values, std::size_t at) {
  Lanes out{};
  if (values.size() - at >= kLanes)
    std::memcpy(&out, values.data() + at, sizeof(out));
  else
    std::memcpy(&out, values.data() + at, (values.size() - at) * sizeof(float));
  return out;
}

/// Frames of a crossfade taken as one.
struct Part {
  Lanes power{};  // of the straight sum
  Lanes u{};      // 2 y (1 - y), weighed by it
};

constexpr double kCloseEnough = 2e-3;

/// Brings c = 1 - r nearer to where the parts' power, scaled as CrossfadeLaw::matched does, is what is wanted (Newton's
/// method). False where there is no slope to follow.
bool settle(std::span<const Part> parts, double wanted, double& c) {
  constexpr int kRounds = 6;
  for (int round = 0; round < kRounds; ++round) {
    Lanes gotSums{};
    Lanes slopes{};
    for (const auto& p : parts) {
      const Lanes scale = 1 / (1 - p.u * static_cast<float>(c));
      const Lanes scaled = p.power * scale;
      gotSums += scaled;
      slopes += scaled * p.u * scale;
    }
    const double slope = total(slopes);
    if (slope <= 1e-20) return false;
    const double next = std::clamp(c + (wanted - total(gotSums)) / slope, 0.0, 1 - kLowestCorrelation);
    const bool settled = std::abs(next - c) < kCloseEnough;
    c = next;
    if (settled) break;
  }
  return true;
}

}  // namespace

float fadeGain(FadeShape shape, double bend, double x) {
  return static_cast<float>(bent(shaped(shape, std::clamp(x, 0.0, 1.0)), bend));
}

std::span<const float> laterShares(FadeShape shape, double bias, std::size_t length) {
  struct Known {
    FadeShape shape = FadeShape::line;
    double bias = 0;
    std::vector<float> shares;
  };
  thread_local Known known;
  if (known.shares.size() == length && known.shape == shape && known.bias == bias) return known.shares;
  known = {shape, bias, std::vector<float>(length)};
  for (std::size_t i = 0; i < length; ++i)
    known.shares[i] =
        static_cast<float>(laterShare(shape, bias, (static_cast<double>(i) + 0.5) / static_cast<double>(length)));
  return known.shares;
}

GainPair gainsForShare(CrossfadeLaw law, double r, double y) {
  switch (law) {
    case CrossfadeLaw::equalGain: return {static_cast<float>(1.0 - y), static_cast<float>(y)};
    case CrossfadeLaw::equalPower: {
      const double angle = y * std::numbers::pi / 2;
      return {static_cast<float>(std::cos(angle)), static_cast<float>(std::sin(angle))};
    }
    case CrossfadeLaw::matched: {
      // Start from the straight pair (1 - y, y) and scale both so that the expected power is 1.
      const double limited = std::clamp(r, kLowestCorrelation, 1.0);
      const double power = (1 - y) * (1 - y) + y * y + 2 * limited * y * (1 - y);
      const double scale = 1.0 / std::sqrt(power);
      return {static_cast<float>((1 - y) * scale), static_cast<float>(y * scale)};
    }
  }
  std::abort();
}

GainPair crossfadeGains(CrossfadeLaw law, FadeShape shape, double bias, double r, double x) {
  return gainsForShare(law, r, laterShare(shape, bias, std::clamp(x, 0.0, 1.0)));
}

double crossfadeLikeness(std::span<const float> out, std::span<const float> in, FadeShape shape, double bias) {
  // Neighbouring frames, whose u are nearly the same, count as one with the mean of their u.
  constexpr std::size_t kFewest = 32;  // parts
  constexpr std::size_t kMostTogether = 8;
  constexpr std::size_t kCoarse = 6;  // parts that count as one until c is nearly known
  thread_local std::vector<Part> parts;
  thread_local std::vector<Part> coarse;
  parts.clear();
  coarse.clear();
  const auto shares = laterShares(shape, bias, out.size());
  const auto wide = kLanes * std::clamp(out.size() / (kLanes * kFewest), std::size_t{1}, kMostTogether);
  Lanes wantedSums{};
  for (std::size_t from = 0; from < out.size(); from += wide) {
    Part part;
    for (auto i = from; i < std::min(out.size(), from + wide); i += kLanes) {
      const auto a = lanesOf(out, i);
      const auto b = lanesOf(in, i);
      const auto y = lanesOf(shares, i);
      const Lanes straight = (1 - y) * a + y * b;
      const Lanes power = straight * straight;
      wantedSums += (1 - y) * a * a + y * b * b;
      part.power += power;
      part.u += power * (2 * y * (1 - y));
    }
    if (parts.size() % kCoarse == 0) coarse.emplace_back();
    coarse.back().power += part.power;
    coarse.back().u += part.u;
    part.u /= part.power + kLeastPower;
    parts.push_back(part);
  }
  for (auto& p : coarse) p.u /= p.power + kLeastPower;
  const double wanted = total(wantedSums);
  double c = 0;  // 1 - r
  if (!settle(coarse, wanted, c) || !settle(parts, wanted, c)) return wanted > 1e-16 ? kLowestCorrelation : 1.0;
  return 1 - c;
}

void crossInto(std::span<float> to, std::span<const float> from) {
  const double likeness = crossfadeLikeness(to, from, FadeShape::sCurve, 0);
  const auto shares = laterShares(FadeShape::sCurve, 0, to.size());
  for (std::size_t i = 0; i < to.size(); ++i) {
    const auto g = gainsForShare(CrossfadeLaw::matched, likeness, shares[i]);
    to[i] = to[i] * g.out + from[i] * g.in;
  }
}

double correlation(std::span<const float> a, std::span<const float> b) {
  double ab = 0;
  double aa = 0;
  double bb = 0;
  for (std::size_t i = 0; i < a.size(); ++i) {
    ab += static_cast<double>(a[i]) * b[i];
    aa += static_cast<double>(a[i]) * a[i];
    bb += static_cast<double>(b[i]) * b[i];
  }
  const double norm = std::sqrt(aa * bb);
  return norm > 1e-12 ? std::clamp(ab / norm, -1.0, 1.0) : 0.0;
}

}  // namespace ochron
