#include "analysis/tempo/tempo.h"

#include <algorithm>
#include <cmath>

#include "analysis/tempo/bar_lines.h"
#include "analysis/tempo/beat_pattern.h"
#include "analysis/tempo/loop_length.h"
#include "analysis/tempo/onset_curves.h"
#include "analysis/tempo/steady_line.h"
#include "analysis/tempo/tempo_level.h"
#include "base/median.h"
#include "dsp/listening.h"

namespace ochron {
namespace {

constexpr double kLeastSeconds = 1.0;
constexpr double kLeastOnsets = 3;

/// Beats end where the playing does: what lies more than a little before the first onset or after the last is left out.
void trim(std::vector<double>& beats, double first, double last) {
  constexpr double kLittle = 0.12;  // of a beat
  if (beats.size() < 2) return;
  const double one = beats[1] - beats[0];
  std::erase_if(beats, [&](double b) { return b < first - kLittle * one || b > last + kLittle * one; });
}

/// Beats of one tempo as even as it is, if they lie around it: a player's drift is no part of the grid.
void makeEven(std::vector<double>& beats, double bpm, std::optional<double> start) {
  constexpr double kMostAway = 0.035;  // s, of the median
  std::vector<double> offs;
  for (std::size_t i = 0; i < beats.size(); ++i) offs.push_back(beats[i] - static_cast<double>(i) * 60 / bpm);
  const double first = start.value_or(medianOf(offs));
  for (auto& o : offs) o = std::abs(o - first);
  if (medianOf(std::move(offs)) > kMostAway) return;
  for (std::size_t i = 0; i < beats.size(); ++i) beats[i] = first + static_cast<double>(i) * 60 / bpm;
}

/// A short loop that does not repeat itself, as it sounds when it is played round and round; empty for all else.
std::vector<float> goneRound(const LoopLength& loop, std::span<const float> samples) {
  constexpr double kLongest = 12;  // s
  constexpr double kAtLeast = 20;
  std::vector<float> out;
  if (loop.repeats || loop.beats || loop.whole > kLongest) return out;
  for (double s = 0; s < kAtLeast; s += loop.whole) out.insert(out.end(), samples.begin(), samples.end());
  return out;
}

/// What was heard of the first round.
void keepFirstRound(HeardTempo& heard, double seconds) {
  constexpr double kLittle = 0.05;  // s
  std::erase_if(heard.beats, [&](double b) { return b >= seconds - kLittle; });
  std::erase_if(heard.downbeats, [&](double b) { return b >= seconds - kLittle; });
  const auto bars = static_cast<int>(heard.downbeats.size());
  std::erase_if(heard.changes, [&](const MeterEvent& e) { return e.bar >= bars; });
}

tl::unexpected<Error> nothingHeard(const std::string& why) {
  return fail(ErrorKind::notFound,
              why + ", so no tempo can be heard. Type the tempo, or choose a recording with a beat.");
}

}  // namespace

Meter HeardTempo::meterOfBar(int downbeat) const {
  Meter out = meter;
  for (const auto& c : changes)
    if (c.bar <= downbeat) out = c.meter;
  return out;
}

std::vector<MeterEvent> HeardTempo::meters() const {
  std::vector<MeterEvent> out;
  if (changes.empty() || changes.front().bar > 0) out.push_back({0, meter});
  out.insert(out.end(), changes.begin(), changes.end());
  return out;
}

Result<HeardTempo> hearTempo(std::span<const float> recorded, int recordedRate, const TempoSearch& search,
                             Progress& progress) {
  const double seconds = static_cast<double>(recorded.size()) / recordedRate;
  if (search.slowest >= search.fastest)
    return fail(ErrorKind::badInput, "The slowest tempo must be below the fastest.");
  if (seconds < kLeastSeconds) return nothingHeard("The recording is shorter than a second");
  const auto listened = Listening::to(recorded, recordedRate);
  if (!listened) return tl::unexpected(listened.error());
  const auto loop = loopOf(listened->samples(), kListeningRate, search.beats);
  // A short loop tells more when it goes round.
  const bool enough =
      static_cast<double>(onsetsOf(onsetCurves(listened->samples(), kListeningRate)).size()) >= kLeastOnsets;
  const auto round = enough ? goneRound(loop, listened->samples()) : std::vector<float>{};
  const auto samples = round.empty() ? listened->samples() : std::span<const float>(round);
  constexpr int rate = kListeningRate;
  const auto curves = onsetCurves(samples, rate);
  const auto onsets = onsetsOf(curves);
  if (static_cast<double>(onsets.size()) < kLeastOnsets) return nothingHeard("The recording has hardly any onsets");
  HeardTempo out;
  auto found = tempoReadings(curves, loop, search.slowest, search.fastest, progress);
  if (progress.cancelled()) return cancelledError();
  if (found.empty())
    return nothingHeard("No beat lies between " + std::to_string(static_cast<int>(search.slowest)) + " and " +
                        std::to_string(static_cast<int>(search.fastest)) + " BPM");
  double all = 0;
  for (const auto& r : found) all += std::exp(r.worth - found.front().worth);
  for (const auto& r : found) out.candidates.push_back({r.path.bpm, std::exp(r.worth - found.front().worth) / all});
  out.confidence = out.candidates.front().score;
  const BandEnergy energy(samples, rate, progress, 0.8, 0.95);
  if (progress.cancelled()) return cancelledError();
  auto beats = refinedBeats(curves, found.front().path.beats);
  trim(beats, onsets.front(), onsets.back());
  if (beats.size() < 3) return nothingHeard("The recording has hardly any beats");
  out.bpm = found.front().path.bpm;
  std::optional<double> start;
  if (search.beats) {
    out.bpm = *search.beats * 60 / seconds;
    out.steady = true;
    out.confidence = 1;
  } else if (const auto exact = exactLoopTempo(loop, 60 / secondsABeat(beats, 0, beats.size()))) {
    out.bpm = *exact;
    out.steady = true;
    if (const auto line = steadyLine(energy, curves, beats, *exact)) start = line->start;
  } else if (const auto line = steadyLine(energy, curves, beats)) {
    out.bpm = line->bpm;
    out.steady = true;
    start = line->start;
  } else if (auto mostly = mostlySteady(beats)) {
    beats = mostly->beats();
    out.bpm = 60 / mostly->step;
    out.steady = true;
    start = mostly->start;
    if (const auto exactly = steadyLine(energy, curves, beats)) {
      out.bpm = exactly->bpm;
      start = exactly->start;
    }
    out.away = std::move(mostly->away);
  } else {
    // As exact as its beats are.
    std::vector<double> steps;
    for (std::size_t i = 1; i < beats.size(); ++i) steps.push_back(beats[i] - beats[i - 1]);
    out.bpm = 60 / medianOf(std::move(steps));
  }
  if (out.steady) makeEven(beats, out.bpm, start);
  out.candidates.front().bpm = out.bpm;
  auto bars = barLines(curves, chromaOf(samples, rate), beats, isLoopAt(loop, out.bpm));
  out.meter = bars.meter;
  out.changes = std::move(bars.changes);
  out.barConfidence = bars.confidence;
  out.otherBar = bars.otherFirst;
  out.beats = std::move(bars.beats);
  out.downbeats = std::move(bars.downbeats);
  if (!round.empty()) keepFirstRound(out, seconds);
  progress.report(1);
  return out;
}

}  // namespace ochron
