#include "analysis/tempo/bar_steps.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

namespace ochron {
namespace {

constexpr int kStepReach = 4;
constexpr double kLittle = 0.12;  // of a beat, that a beat may lie before the first onset or after the last
constexpr int kPlacesABeat = 12;
constexpr int kMore = 2;  // beats; a path begins at most so many after the first onset

std::vector<double> standardised(std::vector<double> v) {
  double mean = 0;
  for (const double x : v) mean += x / static_cast<double>(v.size());
  double spread = 1e-9;
  for (const double x : v) spread += (x - mean) * (x - mean) / static_cast<double>(v.size());
  for (auto& x : v) x = (x - mean) / std::sqrt(spread);
  return v;
}

std::vector<double> onSteps(const std::vector<float>& curve, const std::vector<double>& steps) {
  std::vector<double> out;
  out.reserve(steps.size());
  for (const double s : steps) out.push_back(strongest(curve, s, kStepReach));
  return standardised(std::move(out));
}

/// How much the harmony of the `wide` steps from each one on differs from that of those before it.
std::vector<double> newHarmony(const Chroma& chroma, const std::vector<double>& steps, std::size_t wide) {
  std::vector<std::array<double, 12>> sums(chroma.frames.size() + 1);
  for (std::size_t i = 0; i < chroma.frames.size(); ++i)
    for (std::size_t k = 0; k < 12; ++k) sums[i + 1][k] = sums[i][k] + static_cast<double>(chroma.frames[i][k]);
  const auto at = [&](double seconds) -> const std::array<double, 12>& {
    return sums[std::min(sums.size() - 1, static_cast<std::size_t>(std::max(0.0, seconds * chroma.perSecond)))];
  };
  std::vector<double> out(steps.size(), 0.0);
  for (auto i = wide; i + wide < steps.size(); ++i) {
    double xy = 0;
    double xx = 1e-9;
    double yy = 1e-9;
    for (std::size_t k = 0; k < 12; ++k) {
      const double x = at(steps[i])[k] - at(steps[i - wide])[k];
      const double y = at(steps[i + wide])[k] - at(steps[i])[k];
      xy += x * y;
      xx += x * x;
      yy += y * y;
    }
    out[i] = 1 - xy / std::sqrt(xx * yy);
  }
  return standardised(std::move(out));
}

/// ln of what is played on both thirds of the beats against on their half, in the top two bands.
double thirdsAgainstHalf(const OnsetCurves& curves, const std::vector<double>& beats) {
  constexpr double kLeast = 0.02;
  const double on = highPlaced(curves, beats, 0) + 1e-3;
  const double thirds = std::min(highPlaced(curves, beats, 1.0 / 3), highPlaced(curves, beats, 2.0 / 3));
  return std::log((thirds / on + kLeast) / (highPlaced(curves, beats, 0.5) / on + kLeast));
}

}  // namespace

BarSteps::BarSteps(const OnsetCurves& curves, const Chroma& chroma, const std::vector<double>& beats, int beatDivision,
                   bool isLoop)
    : division(beatDivision), loop(isLoop) {
  const auto onsets = onsetsOf(curves);
  if (onsets.empty()) return;
  // Some beats more at both ends: what begins before the first beat belongs to its bar.
  std::vector<double> wide;
  for (int k = kMore; k > 0; --k) wide.push_back(beats[0] - k * (beats[1] - beats[0]));
  wide.insert(wide.end(), beats.begin(), beats.end());
  for (int k = 1; k <= kMore; ++k) wide.push_back(beats.back() + k * (beats.back() - beats[beats.size() - 2]));
  const double little = kLittle * (beats.back() - beats.front()) / static_cast<double>(beats.size() - 1);
  int step = 0;
  for (std::size_t b = 0; b + 1 < wide.size(); ++b)
    for (int k = 0; k < division; ++k, ++step) {
      const double at = wide[b] + (wide[b + 1] - wide[b]) * k / division;
      if (at < onsets.front() - little || at > onsets.back() + little) continue;
      if (places.empty()) first = step;
      places.push_back(at);
    }
  if (places.size() < 2) return;
  for (std::size_t b = 0; b < kOnsetBands; ++b) bands[b] = onSteps(curves.bands[b], places);
  activation = onSteps(curves.activation, places);
  harmony = newHarmony(chroma, places, static_cast<std::size_t>(division));
  tonal = chroma.tonal();
  patterns = StepPatterns(curves, places, kPlacesABeat / division);
  if (division == 3) thirds = thirdsAgainstHalf(curves, wide);
}

}  // namespace ochron
