#include "analysis/tempo/bar_lines.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

#include "analysis/levels/weighed.h"
#include "analysis/tempo/bar_changes.h"
#include "analysis/tempo/bar_steps.h"

namespace ochron {
namespace {

/// Found by bench/tempo_fit.py (docs/figures.md, "Tempo").
constexpr BarClues kWeights{1.563,  0.332, 0.161, 0.188, 1.791, 2.887,  1.962, -1.473, -1.846,
                            -2.331, 3.392, 4.014, 0.395, 0.836, -0.628, 1.846, 6.289};

constexpr double kEnough = 8;  // bars; what more of them say counts no more than twice that

using Values = std::vector<double>;

bool seven(const BarReading& r) { return r.steps == 7; }

/// Steps since the bar began.
int phaseOf(const BarSteps& s, std::size_t i, const BarReading& r) {
  return ((s.first + static_cast<int>(i) - r.first) % r.steps + r.steps) % r.steps;
}

bool onBeat(int phase, const BarReading& r) { return phase % (seven(r) ? 2 : r.division) == 0; }

BarLines linesOf(const BarSteps& s, const BarReading& r) {
  BarLines out;
  out.meter = r.division == 3 ? Meter{6, 8} : seven(r) ? Meter{7, 8} : Meter{r.steps / 2, 4};
  for (std::size_t i = 0; i < s.size(); ++i) {
    const int phase = phaseOf(s, i, r);
    if (phase == 0) out.downbeats.push_back(s.places[i]);
    // The beats of 7/8 are quarters that go on over its bar lines.
    if (seven(r) ? (s.first + static_cast<int>(i) - r.first) % 2 == 0 : onBeat(phase, r))
      out.beats.push_back(s.places[i]);
  }
  return out;
}

template <class Where>
double meanOf(const BarSteps& s, const Values& v, const BarReading& r, Where&& where) {
  double sum = 0;
  int n = 0;
  for (std::size_t i = 0; i < v.size(); ++i)
    if (where(phaseOf(s, i, r))) {
      sum += v[i];
      ++n;
    }
  return n > 0 ? sum / n : 0.0;
}

BarClues cluesOf(const BarSteps& s, const BarReading& r, std::size_t bars, const std::array<double, 9>& repeats) {
  const auto down = [](int phase) { return phase == 0; };
  const double surer = std::sqrt(std::min(static_cast<double>(bars), 2 * kEnough) / kEnough);
  const double low = surer * meanOf(s, s.bands[0], r, down);
  const double fresh = surer * meanOf(s, s.harmony, r, down);
  const double middle = meanOf(s, s.bands[2], r, down);
  const double otherMiddle = meanOf(s, s.bands[2], r, [&](int phase) { return phase != 0 && onBeat(phase, r); });
  const bool begins = phaseOf(s, 0, r) == 0;
  return {low,
          surer * middle,
          fresh,
          r.steps == 8 ? surer * meanOf(s, s.bands[0], r, [](int phase) { return phase == 4; }) : 0.0,
          begins ? 1.0 : 0.0,
          begins && s.loop ? 1.0 : 0.0,
          repeats[static_cast<std::size_t>(r.steps)],
          seven(r) ? 1.0 : 0.0,
          r.division == 3 ? 1.0 : 0.0,
          r.division == 2 && r.steps == 6 ? 1.0 : 0.0,
          s.thirds,
          seven(r) ? repeats[7] - repeats[8] : 0.0,
          surer * meanOf(s, s.activation, r, down),
          surer * meanOf(s, s.bands[0], r, [&](int phase) { return phase == r.steps - 1; }),
          surer * (middle - otherMiddle),
          s.tonal * low,
          s.tonal * fresh};
}

void addReadings(const BarSteps& s, std::initializer_list<int> lengths, int firstStep, std::vector<BarCandidate>& to) {
  if (s.empty()) return;
  std::array<double, 9> repeats{};  // how alike steps are so many apart
  for (const std::size_t lag : {6, 7, 8}) repeats[lag] = s.patterns.repetition(lag);
  for (const int steps : lengths)
    for (int first = 0; first < steps; first += firstStep) {
      const BarReading r{s.division, steps, first};
      auto lines = linesOf(s, r);
      if (lines.downbeats.empty()) continue;
      const auto clues = cluesOf(s, r, lines.downbeats.size(), repeats);
      to.push_back({r, clues, std::move(lines)});
    }
}

/// A recording's beats in halves and in thirds.
struct BeatSteps {
  BarSteps halves;
  BarSteps thirds;

  BeatSteps(const OnsetCurves& curves, const Chroma& chroma, const std::vector<double>& beats, bool loop)
      : halves(curves, chroma, beats, 2, loop), thirds(curves, chroma, beats, 3, loop) {}
  std::vector<BarCandidate> candidates() const {
    std::vector<BarCandidate> out;
    addReadings(halves, {8, 6, 7}, 1, out);
    addReadings(thirds, {6}, 3, out);
    return out;
  }
  const BarSteps& of(const BarReading& r) const { return r.division == 3 ? thirds : halves; }
};

/// How much each step sounds as if a bar began there, in a bar's share of log likelihood.
Values beginnings(const BarSteps& s, const BarReading& r) {
  Values out;
  for (std::size_t i = 0; i < s.size(); ++i) {
    BarClues c{};
    const auto set = [&](BarClue clue, double value) { c[static_cast<std::size_t>(clue)] = value; };
    set(BarClue::lowDrums, s.bands[0][i]);
    set(BarClue::middle, s.bands[2][i]);
    set(BarClue::newHarmony, s.harmony[i]);
    if (r.steps == 8 && i + 4 < s.size()) set(BarClue::lowHalfway, s.bands[0][i + 4]);
    set(BarClue::onsets, s.activation[i]);
    if (i > 0) set(BarClue::lowBefore, s.bands[0][i - 1]);
    set(BarClue::middleContrast, s.bands[2][i]);
    set(BarClue::tonalLow, s.tonal * s.bands[0][i]);
    set(BarClue::tonalHarmony, s.tonal * s.harmony[i]);
    out.push_back(barWorth(c) / kEnough);
  }
  return out;
}

/// The lines of bars of several lengths; those of the usual length have the given meter.
void putChanges(const BarSteps& s, const BarReading& r, const BarCourse& course, BarLines& lines) {
  lines.beats.clear();
  lines.downbeats.clear();
  const auto meterOf = [&](int steps) { return s.division == 3 ? Meter{steps, 8} : Meter{steps / 2, 4}; };
  // What lies before the first bar is on its beats, too.
  for (auto i = course.starts.front() % static_cast<std::size_t>(s.division); i < course.starts.front();
       i += static_cast<std::size_t>(s.division))
    lines.beats.push_back(s.places[i]);
  int steps = r.steps;
  for (std::size_t b = 0; b < course.starts.size(); ++b) {
    lines.downbeats.push_back(s.places[course.starts[b]]);
    for (int k = 0; k < course.lengths[b]; k += s.division)
      if (const auto i = course.starts[b] + static_cast<std::size_t>(k); i < s.size())
        lines.beats.push_back(s.places[i]);
    if (course.lengths[b] != steps) lines.changes.push_back({static_cast<int>(b), meterOf(course.lengths[b])});
    steps = course.lengths[b];
  }
}

}  // namespace

std::vector<BarCandidate> barCandidates(const OnsetCurves& curves, const Chroma& chroma,
                                        const std::vector<double>& beats, bool loop) {
  if (beats.size() < 2) return {};
  return BeatSteps(curves, chroma, beats, loop).candidates();
}

double barWorth(const BarClues& clues) { return weighed(clues, kWeights); }

BarLines barLines(const OnsetCurves& curves, const Chroma& chroma, const std::vector<double>& beats, bool loop) {
  BarLines out;
  out.beats = beats;
  if (beats.size() < 2) return out;
  const BeatSteps steps(curves, chroma, beats, loop);
  auto candidates = steps.candidates();
  if (candidates.empty()) return out;
  const auto best = std::max_element(candidates.begin(), candidates.end(), [](const auto& a, const auto& b) {
    return barWorth(a.clues) < barWorth(b.clues);
  });
  double all = 0;
  double next = 0;
  std::optional<double> other;
  for (const auto& c : candidates) {
    const double likely = std::exp(barWorth(c.clues) - barWorth(best->clues));
    all += likely;
    if (&c == &*best || c.lines.meter != best->lines.meter || likely <= next) continue;
    next = likely;
    other = c.lines.downbeats.front();
  }
  out = std::move(best->lines);
  out.otherFirst = other;
  out.confidence = 1 / all;
  // Bars of seven have no change of whole beats.
  const auto& s = steps.of(best->reading);
  if (seven(best->reading)) return out;
  if (const auto course = changedBars(s, best->reading.steps, beginnings(s, best->reading)); !course.starts.empty())
    putChanges(s, best->reading, course, out);
  return out;
}

}  // namespace ochron
