#include "analysis/hits/attacks.h"

#include <algorithm>
#include <cmath>

#include "base/units.h"

#include "analysis/levels/localise.h"
#include "analysis/levels/prediction.h"
#include "base/numbers.h"

namespace ochron {
namespace {

constexpr auto kBands = BandEnergy::kBands;

/// Milliseconds as steps of BandEnergy.
constexpr std::int64_t steps(double ms) { return static_cast<std::int64_t>(ms * BandEnergy::kStepsPerMs); }

double noveltyAt(const BandEnergy& e, std::int64_t s) {
  double product = 1;  // one logarithm for all bands
  for (std::size_t b = 0; b < kBands; ++b) {
    const double f = e.floor(b);
    const double after = e.mean(b, s, s + steps(5)) + f;
    const double before = e.mean(b, s - steps(6), s - steps(0.25)) + f;
    const double earlier = e.mean(b, s - steps(12), s - steps(6.25)) + f;
    const double base = std::max(before, 0.5 * earlier);
    if (after > base) product *= after / base;
  }
  return std::log(product) / kBands;
}

void measure(Attack& a, const BandEnergy& e) {
  const auto s = e.stepOf(a.at);
  a.rise = a.bodyRise = -100;
  double sum = 0;
  for (std::size_t b = 0; b < kBands; ++b) {
    const double f = e.floor(b);
    double loudest = 0;
    for (int w = 0; w < 8; ++w)
      loudest = std::max(loudest, e.mean(b, s - steps(41 - 5.0 * w), s - steps(36 - 5.0 * w)));
    const double rise = decibelsOf(e.mean(b, s, s + steps(5)) + f) - decibelsOf(loudest + f);
    a.rise = std::max(a.rise, rise);
    if (b == 2 || b == 3) a.bodyRise = std::max(a.bodyRise, rise);
    const double after = e.mean(b, s, s + steps(10));
    const double before = e.mean(b, s - steps(11), s - steps(1));
    sum += std::max(0.0, decibelsOf(after + f) - decibelsOf(before + f));
    const double loud = e.loud(b) > 0 ? e.loud(b) : 1;
    a.net[b] = decibelsOf(std::max(after - before, 0.0) + f) - decibelsOf(loud);
  }
  a.meanRise = sum / kBands;
}

/// Steps where the novelty is the highest within reach.
std::vector<std::pair<std::int64_t, double>> peaks(const BandEnergy& e, const AttackSettings& settings,
                                                   Progress& progress) {
  constexpr std::int64_t kEvery = 2;  // 0.5 ms
  std::vector<double> novelty(static_cast<std::size_t>(e.steps() / kEvery + 1));
  for (std::size_t i = 0; i < novelty.size(); ++i) {
    if (i % 65'536 == 0 && progress.cancelled()) return {};
    novelty[i] = noveltyAt(e, static_cast<std::int64_t>(i) * kEvery);
  }
  const auto reach = static_cast<std::int64_t>(settings.peakReachMs * BandEnergy::kStepsPerMs / kEvery);
  std::vector<std::pair<std::int64_t, double>> out;
  const auto n = std::ssize(novelty);
  for (std::int64_t i = 0; i < n; ++i) {
    const double v = novelty[static_cast<std::size_t>(i)];
    if (v < settings.leastNovelty) continue;
    bool highest = true;
    for (auto k = std::max<std::int64_t>(0, i - reach); k <= std::min(n - 1, i + reach) && highest; ++k) {
      const double other = novelty[static_cast<std::size_t>(k)];
      highest = other < v || (other == v && k >= i);
    }
    if (highest) out.emplace_back(i * kEvery, v);
  }
  return out;
}

}  // namespace

std::vector<Attack> findAttacks(std::span<const float> samples, int rate, const BandEnergy& energy,
                                const AttackSettings& settings, Progress& progress) {
  const auto ms = [&](double x) { return framesFromMs(x, rate).value; };
  std::vector<Attack> out;
  std::int64_t earliest = 0;
  for (const auto& [step, novelty] : peaks(energy, settings, progress)) {
    const auto coarse = energy.frameOf(step);
    Attack a;
    a.novelty = novelty;
    const auto onWave = localiseAttack(samples, rate, coarse, earliest);
    const auto onResidual = placeOnResidual(samples, rate, coarse);
    a.at = std::abs(onWave - onResidual) <= ms(settings.placesAgreeMs) ? onWave : onResidual;
    if (!out.empty() && a.at - out.back().at < ms(settings.oneAttackMs)) {
      if (a.novelty <= out.back().novelty) continue;
      out.pop_back();
    }
    earliest = a.at + ms(2);
    measure(a, energy);
    out.push_back(a);
  }
  std::sort(out.begin(), out.end(), [](auto& a, auto& b) { return a.at < b.at; });
  return out;
}

}  // namespace ochron
