#include "analysis/pitch/local_period.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <vector>

#include "dsp/fft.h"

namespace ochron {
namespace {

constexpr double kLowestPeriodHz = 40;  // Hz
constexpr double kHighestPeriodHz = 1400;
constexpr double kLeastAlike = 0.7;    // of its best lag
constexpr double kAsGood = 0.92;       // of the best lag
constexpr double kLeastPower = 1e-10;  // mean square

}  // namespace

std::optional<double> localPeriod(std::span<const float> x, int rate) {
  const auto size = x.size();
  const auto shortest = static_cast<std::size_t>(rate / kHighestPeriodHz);
  const auto longest = std::min(static_cast<std::size_t>(rate / kLowestPeriodHz), size / 2);
  if (longest <= shortest + 2) return {};
  RealFft fft(static_cast<int>(std::bit_ceil(size + longest + 1)));
  std::fill(fft.time().begin(), fft.time().end(), 0.0F);
  std::copy(x.begin(), x.end(), fft.time().begin());
  fft.forward();
  for (auto& bin : fft.bins()) bin = std::norm(bin);
  fft.inverse();
  std::vector<double> squares(size + 1, 0.0);
  for (std::size_t i = 0; i < size; ++i) squares[i + 1] = squares[i] + static_cast<double>(x[i]) * x[i];
  if (squares.back() < kLeastPower * static_cast<double>(size)) return {};
  // Of what both parts cover, so that a long lag is no worse than a short one.
  const auto alike = [&](std::size_t lag) {
    const double power = std::sqrt(squares[size - lag] * (squares[size] - squares[lag])) + 1e-24;
    return static_cast<double>(fft.time()[lag]) / fft.size() / power;
  };
  std::vector<double> likeness;
  for (auto lag = shortest; lag <= longest; ++lag) likeness.push_back(alike(lag));
  double best = 0;
  for (std::size_t i = 1; i + 1 < likeness.size(); ++i)
    if (likeness[i] >= likeness[i - 1] && likeness[i] > likeness[i + 1]) best = std::max(best, likeness[i]);
  if (best < kLeastAlike) return {};
  for (std::size_t i = 1; i + 1 < likeness.size(); ++i)
    if (likeness[i] >= likeness[i - 1] && likeness[i] > likeness[i + 1] && likeness[i] >= kAsGood * best)
      return static_cast<double>(shortest + i);
  return {};
}

}  // namespace ochron
