#include "dsp/fade.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdlib>
#include <numbers>
#include <numeric>
#include <vector>

#include "terms/bend.h"

namespace ochron {
namespace {
double shaped(FadeShape shape, double x) { return shape == FadeShape::line ? x : x * x * (3.0 - 2.0 * x); }
constexpr double kLowestCorrelation = -0.75;  // gains 1 / sqrt(2 (1 + r)) in the middle: +3 dB at r = -0.75

double laterShare(FadeShape shape, double bias, double x) {
  return shaped(shape, std::pow(x, std::exp2(std::clamp(bias, -1.0, 1.0))));
}

// Sums are kept side by side, so that they fill wide registers.
constexpr std::size_t kLanes = 8;
using Lanes = std::array<float, kLanes>;
double total(const Lanes& lanes) { return std::accumulate(lanes.begin(), lanes.end(), 0.0); }

struct ScaledPower {
  double power = 0;  ///< sum p / (1 - u c)
  double slope = 0;  ///< its derivative by c
};
/// Both of whole lanes.
ScaledPower scaledPower(const std::vector<float>& p, const std::vector<float>& u, float c) {
  Lanes power{};
  Lanes slope{};
  for (std::size_t i = 0; i < p.size(); i += kLanes)
    for (std::size_t k = 0; k < kLanes; ++k) {
      const float scale = 1 / (1 - u[i + k] * c);
      const float scaled = p[i + k] * scale;
      power[k] += scaled;
      slope[k] += scaled * u[i + k] * scale;
    }
  return {total(power), total(slope)};
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
  constexpr int kRounds = 6;
  constexpr double kCloseEnough = 2e-3;
  // Silence behind the end, which adds nothing, fills the last lanes.
  const auto n = (out.size() + kLanes - 1) / kLanes * kLanes;
  struct Room {
    std::vector<float> power;  // of the straight sum
    std::vector<float> u;
    std::vector<float> wanted;
  };
  thread_local Room room;
  for (auto* v : {&room.power, &room.u, &room.wanted}) v->assign(n, 0.0F);
  const auto shares = laterShares(shape, bias, out.size());
  for (std::size_t i = 0; i < out.size(); ++i) {
    const float y = shares[i];
    const float straight = (1 - y) * out[i] + y * in[i];
    room.wanted[i] = (1 - y) * out[i] * out[i] + y * in[i] * in[i];
    room.power[i] = straight * straight;
    room.u[i] = 2 * y * (1 - y);
  }
  Lanes sum{};
  for (std::size_t i = 0; i < n; i += kLanes)
    for (std::size_t k = 0; k < kLanes; ++k) sum[k] += room.wanted[i + k];
  const double wanted = total(sum);
  double c = 0;  // 1 - r
  for (int round = 0; round < kRounds; ++round) {
    const auto [got, slope] = scaledPower(room.power, room.u, static_cast<float>(c));
    if (slope <= 1e-20) return wanted > 1e-16 ? kLowestCorrelation : 1.0;
    const double next = std::clamp(c + (wanted - got) / slope, 0.0, 1 - kLowestCorrelation);
    const bool settled = std::abs(next - c) < kCloseEnough;
    c = next;
    if (settled) break;
  }
  return 1 - c;
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
