#include "analysis/tempo.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "analysis/bar_lines.h"
#include "analysis/beat_pointer.h"
#include "analysis/loop_length.h"
#include "analysis/onset_curves.h"
#include "analysis/steady_line.h"

namespace ochron {
namespace {

constexpr double kSlowestCentre = 45;
constexpr double kCentresAnOctave = 8;
constexpr double kSameTempo = 0.15;  // readings nearer than this are one
constexpr double kLeastSeconds = 1.0;
constexpr double kLeastOnsets = 3;

/// A reading and what tells for it.
struct Reading {
  BeatPath path;
  double worth = 0;
};

/// The strongest value of a curve within some frames of a time.
double around(const std::vector<float>& curve, double seconds, int reach) {
  const auto at = std::llround(seconds * OnsetCurves::kPerSecond);
  float top = 0;
  for (auto i = std::max<std::int64_t>(0, at - reach); i <= at + reach && i < std::ssize(curve); ++i)
    top = std::max(top, curve[static_cast<std::size_t>(i)]);
  return static_cast<double>(top);
}

/// How many onsets a minute of the recording has: peaks of the activation.
std::vector<double> onsetsOf(const OnsetCurves& curves) {
  constexpr float kLeast = 0.2F;
  constexpr std::int64_t kApart = 6;  // 30 ms
  std::vector<double> out;
  const auto& a = curves.activation;
  for (std::int64_t i = 1; i + 1 < std::ssize(a); ++i) {
    const auto k = static_cast<std::size_t>(i);
    if (a[k] < kLeast || a[k] < a[k - 1] || a[k] <= a[k + 1]) continue;
    if (!out.empty() && static_cast<double>(i) / OnsetCurves::kPerSecond - out.back() <
                            static_cast<double>(kApart) / OnsetCurves::kPerSecond)
      continue;
    out.push_back(static_cast<double>(i) / OnsetCurves::kPerSecond);
  }
  return out;
}

/// How alike a recording's beats are to those `lag` beats before, in all bands at twelve places of the beat.
double repetition(const OnsetCurves& curves, const std::vector<double>& beats, std::size_t lag) {
  constexpr int kPlaces = 12;
  std::vector<std::array<double, kOnsetBands * kPlaces>> patterns;
  for (std::size_t b = 0; b + 1 < beats.size(); ++b) {
    auto& p = patterns.emplace_back();
    for (int k = 0; k < kPlaces; ++k) {
      const double at = beats[b] + (beats[b + 1] - beats[b]) * k / kPlaces;
      for (std::size_t band = 0; band < kOnsetBands; ++band)
        p[band * kPlaces + static_cast<std::size_t>(k)] = around(curves.bands[band], at, 3);
    }
  }
  double sum = 0;
  int n = 0;
  for (std::size_t b = lag; b < patterns.size(); ++b, ++n) {
    double ab = 0;
    double aa = 1e-9;
    double bb = 1e-9;
    for (std::size_t i = 0; i < patterns[b].size(); ++i) {
      ab += patterns[b][i] * patterns[b - lag][i];
      aa += patterns[b][i] * patterns[b][i];
      bb += patterns[b - lag][i] * patterns[b - lag][i];
    }
    sum += ab / std::sqrt(aa * bb);
  }
  return n > 0 ? sum / n : 0;
}

/// The mean of the top two bands at a share of each beat.
double placed(const OnsetCurves& curves, const std::vector<double>& beats, double share) {
  double sum = 0;
  for (std::size_t b = 0; b + 1 < beats.size(); ++b) {
    const double at = beats[b] + (beats[b + 1] - beats[b]) * share;
    sum += around(curves.bands[3], at, 4) + around(curves.bands[4], at, 4);
  }
  return sum / static_cast<double>(std::max<std::size_t>(1, beats.size() - 1));
}

/// What tells for and against a reading.
constexpr std::size_t kClues = 14;
using Clues = std::array<double, kClues>;
Clues cluesOf(const OnsetCurves& curves, const BeatPath& path, std::size_t onsets) {
  const double octaves = std::log2(path.bpm / 100);
  double on = 0;
  double carried = 0;
  for (const double b : path.beats) {
    const double a = around(curves.activation, b, 6);
    on += a;
    carried += a > 0.15 ? 1 : 0;
  }
  const auto n = static_cast<double>(std::max<std::size_t>(1, path.beats.size()));
  double mean = 1e-6;
  for (const float a : curves.activation) mean += static_cast<double>(a) / static_cast<double>(curves.size());
  const double perBeat = std::log2(std::max(0.2, static_cast<double>(onsets) / n) / 3);
  const double beat = placed(curves, path.beats, 0) + 1e-3;
  const double half = placed(curves, path.beats, 0.5);
  const double thirds = (placed(curves, path.beats, 1.0 / 3) + placed(curves, path.beats, 2.0 / 3)) / 2;
  const double quarters = (placed(curves, path.beats, 0.25) + placed(curves, path.beats, 0.75)) / 2;
  return {octaves,
          octaves * octaves,
          perBeat,
          perBeat * perBeat,
          std::log(std::max(0.05, on / n / mean)),
          carried / n,
          10 * path.score,
          repetition(curves, path.beats, 2),
          repetition(curves, path.beats, 3),
          repetition(curves, path.beats, 4),
          half / beat,
          thirds / beat,
          quarters / beat,
          placed(curves, path.beats, 2.0 / 3) / beat};
}

/// Found by a conditional logit over loops, takes and songs of known tempo (docs/figures.md, "Tempo").
double worthOf(const Clues& clues) {
  constexpr Clues kWeights{1.199, -1.216, -0.759, -0.969, 4.266,  4.325,  1.913,
                           4.334, -0.72,  0.549,  -0.269, -4.191, -1.832, 1.56};
  double out = 0;
  for (std::size_t i = 0; i < kClues; ++i) out += kWeights[i] * clues[i];
  return out;
}

std::vector<Reading> readings(const OnsetCurves& curves, const TempoSearch& search, Progress& progress) {
  std::vector<Reading> out;
  const auto onsets = onsetsOf(curves).size();
  std::vector<double> centres;
  for (int k = 0;; ++k) {
    const double c = kSlowestCentre * std::exp2(k / kCentresAnOctave);
    if (c > search.fastest * (1 + kPointerWidth)) break;
    if (c >= search.slowest * (1 - kPointerWidth)) centres.push_back(c);
  }
  for (std::size_t i = 0; i < centres.size() && !progress.cancelled(); ++i) {
    progress.report(0.2 + 0.6 * static_cast<double>(i) / static_cast<double>(centres.size()));
    auto path = beatsNear(curves.activation, centres[i]);
    if (path.beats.size() < 3 || path.bpm < search.slowest || path.bpm > search.fastest) continue;
    const auto same = std::find_if(out.begin(), out.end(), [&](const Reading& r) {
      return std::abs(std::log(r.path.bpm / path.bpm)) < kSameTempo;
    });
    if (same == out.end())
      out.push_back({std::move(path), 0});
    else if (path.score > same->path.score)
      same->path = std::move(path);
  }
  for (auto& r : out) { r.worth = worthOf(cluesOf(curves, r.path, onsets)); }
  std::sort(out.begin(), out.end(), [](const Reading& a, const Reading& b) { return a.worth > b.worth; });
  return out;
}

/// Beats end where the playing does: what lies more than a little before the first onset or after the last is left out.
void trim(std::vector<double>& beats, double first, double last) {
  constexpr double kLittle = 0.12;  // of a beat
  if (beats.size() < 2) return;
  const double one = beats[1] - beats[0];
  std::erase_if(beats, [&](double b) { return b < first - kLittle * one || b > last + kLittle * one; });
}

/// The tempo of the straight line through beats.
double meanTempo(const std::vector<double>& beats) {
  double sx = 0;
  double sy = 0;
  double sxx = 0;
  double sxy = 0;
  const auto n = static_cast<double>(beats.size());
  for (std::size_t i = 0; i < beats.size(); ++i) {
    const auto x = static_cast<double>(i);
    sx += x;
    sy += beats[i];
    sxx += x * x;
    sxy += x * beats[i];
  }
  return 60 * (n * sxx - sx * sx) / (n * sxy - sx * sy);
}

tl::unexpected<Error> nothingHeard(const std::string& why) {
  return fail(ErrorKind::notFound,
              why + ", so no tempo can be heard. Type the tempo, or choose a recording with a beat.");
}

}  // namespace

Result<HeardTempo> hearTempo(std::span<const float> samples, int rate, const TempoSearch& search, Progress& progress) {
  const double seconds = static_cast<double>(samples.size()) / rate;
  if (search.slowest >= search.fastest)
    return fail(ErrorKind::badInput, "The slowest tempo must be below the fastest.");
  if (seconds < kLeastSeconds) return nothingHeard("The recording is shorter than a second");
  const auto curves = onsetCurves(samples, rate);
  const auto onsets = onsetsOf(curves);
  if (static_cast<double>(onsets.size()) < kLeastOnsets) return nothingHeard("The recording has hardly any onsets");
  HeardTempo out;
  const auto loop = loopOf(samples, rate, search.beats);
  auto found = readings(curves, search, progress);
  if (progress.cancelled()) return cancelledError();
  if (found.empty())
    return nothingHeard("No beat lies between " + std::to_string(static_cast<int>(search.slowest)) + " and " +
                        std::to_string(static_cast<int>(search.fastest)) + " BPM");
  double all = 0;
  for (const auto& r : found) all += std::exp(r.worth - found.front().worth);
  for (const auto& r : found) out.candidates.push_back({r.path.bpm, std::exp(r.worth - found.front().worth) / all});
  out.confidence = out.candidates.front().score;
  auto beats = refinedBeats(curves, found.front().path.beats);
  trim(beats, onsets.front(), onsets.back());
  if (beats.size() < 3) return nothingHeard("The recording has hardly any beats");
  out.bpm = found.front().path.bpm;
  if (search.beats) {
    out.bpm = *search.beats * 60 / seconds;
    out.steady = true;
    out.confidence = 1;
  } else if (const auto exact = exactLoopTempo(loop, meanTempo(beats))) {
    out.bpm = *exact;
    out.steady = true;
  } else if (const auto line = steadyLine(samples, rate, beats)) {
    out.bpm = line->bpm;
    out.steady = true;
  }
  out.candidates.front().bpm = out.bpm;
  const auto bars = barLines(curves, chromaOf(samples, rate), beats);
  out.beatsPerBar = bars.beatsPerBar;
  for (const auto i : bars.downbeats) out.downbeats.push_back(beats[i]);
  out.beats = std::move(beats);
  progress.report(1);
  return out;
}

}  // namespace ochron
