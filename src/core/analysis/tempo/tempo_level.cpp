#include "analysis/tempo/tempo_level.h"

#include <algorithm>
#include <cmath>

#include "analysis/levels/weighed.h"
#include "analysis/tempo/beat_pattern.h"

namespace ochron {
namespace {

/// Found by bench/tempo_fit.py (docs/figures.md, "Tempo").
constexpr LevelClues kLevelWeights{-1.250, -0.674, -0.383, 3.443, 3.413,  -5.472, -4.499, 1.318,
                                   -2.101, 5.569,  2.797,  0.853, -4.577, 1.269,  -2.447};

constexpr double kSlowestCentre = 45;
constexpr double kCentresAnOctave = 8;
constexpr double kSameTempo = 0.15;  // readings nearer than this (ln) are one
constexpr int kLevelBeside = 4;
constexpr int kOnBeat = 6;

/// The mean of a band on every `every`th beat from `first` on.
double onEvery(const std::vector<float>& band, const std::vector<double>& beats, std::size_t first, std::size_t every) {
  double sum = 0;
  int n = 0;
  for (auto b = first; b < beats.size(); b += every, ++n) sum += strongest(band, beats[b], kLevelBeside);
  return n > 0 ? sum / n : 0;
}

/// How differently every second beat sounds.
double alternation(const std::vector<float>& band, const std::vector<double>& beats) {
  const double a = onEvery(band, beats, 0, 2);
  const double b = onEvery(band, beats, 1, 2);
  return std::abs(a - b) / (a + b + 0.1);
}

/// How differently beats two apart sound.
double slowAlternation(const std::vector<float>& band, const std::vector<double>& beats) {
  std::array<double, 4> on{};
  for (std::size_t k = 0; k < 4; ++k) on[k] = onEvery(band, beats, k, 4);
  const double sum = on[0] + on[1] + on[2] + on[3];
  return std::max(std::abs(on[0] - on[2]), std::abs(on[1] - on[3])) / (sum / 2 + 0.1);
}

LevelClues levelClues(const OnsetCurves& curves, const LoopLength& loop, const BeatPath& path, std::size_t onsets) {
  const auto& beats = path.beats;
  const double octaves = std::log2(path.bpm / 100);
  double on = 0;
  double carried = 0;
  for (const double b : beats) {
    const double a = strongest(curves.activation, b, kOnBeat);
    on += a;
    carried += a > 0.15 ? 1 : 0;
  }
  const auto n = static_cast<double>(std::max<std::size_t>(1, beats.size()));
  double mean = 1e-6;
  for (const float a : curves.activation) mean += static_cast<double>(a) / static_cast<double>(curves.size());
  const double perBeat = std::log2(std::max(0.2, static_cast<double>(onsets) / n) / 3);
  const double beat = highPlaced(curves, beats, 0) + 1e-3;
  const double thirds = (highPlaced(curves, beats, 1.0 / 3) + highPlaced(curves, beats, 2.0 / 3)) / 2;
  const double quarters = (highPlaced(curves, beats, 0.25) + highPlaced(curves, beats, 0.75)) / 2;
  const StepPatterns patterns(curves, beats, 12);
  const auto whole = wholeBeats(loop, path.bpm);
  const bool even = whole && *whole >= 4 && (*whole & (*whole - 1)) == 0;
  return {octaves * octaves,
          perBeat,
          perBeat * perBeat,
          std::log(std::max(0.05, on / n / mean)),
          carried / n,
          thirds / beat,
          quarters / beat,
          even ? 1.0 : 0.0,
          isLoop(loop) && !whole ? 1.0 : 0.0,
          patterns.repetition(4) - patterns.repetition(3),
          patterns.repetition(1),
          alternation(curves.bands[2], beats),
          slowAlternation(curves.bands[2], beats),
          slowAlternation(curves.bands[0], beats),
          (highPlaced(curves, beats, 0.82) - highPlaced(curves, beats, 0.68)) / beat};
}

}  // namespace

std::vector<TempoReading> tempoReadings(const OnsetCurves& curves, const LoopLength& loop, double slowest,
                                        double fastest, Progress& progress) {
  std::vector<TempoReading> out;
  std::vector<double> centres;
  for (int k = 0;; ++k) {
    const double c = kSlowestCentre * std::exp2(k / kCentresAnOctave);
    if (c > fastest * (1 + kPointerWidth)) break;
    if (c >= slowest * (1 - kPointerWidth)) centres.push_back(c);
  }
  for (std::size_t i = 0; i < centres.size() && !progress.cancelled(); ++i) {
    progress.report(0.2 + 0.6 * static_cast<double>(i) / static_cast<double>(centres.size()));
    auto path = beatsNear(curves.activation, centres[i]);
    if (path.beats.size() < 3 || path.bpm < slowest || path.bpm > fastest) continue;
    const auto same = std::find_if(out.begin(), out.end(), [&](const TempoReading& r) {
      return std::abs(std::log(r.path.bpm / path.bpm)) < kSameTempo;
    });
    if (same == out.end())
      out.push_back({std::move(path), {}, 0});
    else if (path.score > same->path.score)
      same->path = std::move(path);
  }
  const auto onsets = onsetsOf(curves).size();
  for (auto& r : out) {
    r.clues = levelClues(curves, loop, r.path, onsets);
    r.worth = weighed(r.clues, kLevelWeights);
  }
  std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.worth > b.worth; });
  return out;
}

}  // namespace ochron
