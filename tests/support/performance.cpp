#include "support/performance.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ochron::test {
namespace {

constexpr double kTau = 2 * std::numbers::pi;

std::vector<float> strike(DrumClass drum, double velocity, const Style& s, std::mt19937_64& dice) {
  std::uniform_real_distribution<double> noise(-1, 1);
  const double seconds = drum == DrumClass::hat ? 0.12 : 0.35;
  std::vector<float> out(static_cast<std::size_t>(seconds * s.rate));
  double phase = 0;
  double before = 0;
  for (std::size_t i = 0; i < out.size(); ++i) {
    const double t = static_cast<double>(i) / s.rate;
    const double n = noise(dice);
    const double bright = n - before;
    before = n;
    const double start = std::min(1.0, (static_cast<double>(i) + 1) / (0.0004 * s.rate));
    double v = 0;
    if (drum == DrumClass::kick) {
      phase += kTau * (s.kickHz + 110 * std::exp(-t / 0.018)) / s.rate;
      v = std::sin(phase + 0.9) * std::exp(-t / 0.11) + 0.25 * bright * std::exp(-t / 0.003);
    } else if (drum == DrumClass::snare) {
      phase += kTau * s.snareHz / s.rate;
      v = 0.6 * std::sin(phase + 0.7) * std::exp(-t / 0.06) + 0.4 * n * std::exp(-t / 0.07);
    } else {
      v = 0.5 * bright * std::exp(-t / 0.035);
    }
    out[i] = static_cast<float>(v * velocity * start * 0.7);
  }
  return out;
}

}  // namespace

std::ostream& operator<<(std::ostream& out, const Style& s) {
  return out << s.bpm << " BPM " << s.meter.beats << "/" << s.meter.unit << " at " << s.rate << " Hz, seed " << s.seed;
}

std::vector<PlayedHit> Performance::of(std::initializer_list<DrumClass> drums) const {
  std::vector<PlayedHit> out;
  for (const auto& h : hits)
    if (std::find(drums.begin(), drums.end(), h.drum) != drums.end()) out.push_back(h);
  return out;
}

Performance perform(const Style& s) {
  std::mt19937_64 dice(s.seed);
  std::normal_distribution<double> scatter(0, s.scatterMs);
  std::uniform_real_distribution<double> chance(0, 1);
  Performance p;
  p.map = *TempoMap::steady(s.rate, s.bpm, s.meter, Frames{s.rate / 2});
  const auto sixteenth = kTicksPerQuarter / 4;
  const auto play = [&](int bar, std::int64_t into, DrumClass drum, double velocity, double lateMs) {
    PlayedHit h;
    h.intended = p.map.barStart(bar) + Ticks{into};
    h.drum = drum, h.velocity = velocity;
    const double bars = bar + static_cast<double>(into) / static_cast<double>(s.meter.barLength().value);
    h.driftMs = s.driftMs * std::sin(kTau * bars / s.driftBars);
    h.pocketMs = lateMs;
    h.scatterMs = std::clamp(scatter(dice), -2.5 * s.scatterMs, 2.5 * s.scatterMs);
    h.at = p.map.toFrames(h.intended) + Frames{std::llround((h.driftMs + h.pocketMs + h.scatterMs) * s.rate / 1000)};
    p.hits.push_back(h);
  };
  const auto eighths = s.meter.barLength().value / (sixteenth * 2);
  for (int bar = 0; bar < s.bars; ++bar) {
    for (std::int64_t e = 0; e < eighths; ++e) {
      const auto into = e * 2 * sixteenth;
      // Swing moves the second eighth of each pair.
      const auto swung = e % 2 == 0 ? into : (e - 1) * 2 * sixteenth + std::llround(4 * sixteenth * s.swing / 100);
      const bool back = e % 4 == 2;
      if (back)
        play(bar, into, DrumClass::snare, 0.8 + 0.2 * chance(dice), s.snareLateMs);
      else if (e % 4 == 0 || (e % 8 == 5 && s.swing == 50))
        play(bar, into, DrumClass::kick, 0.75 + 0.25 * chance(dice), 0);
      else if (chance(dice) < s.ghostShare)
        play(bar, swung, DrumClass::snare, 0.10 + 0.04 * chance(dice), s.snareLateMs / 2);
      (void)swung;
    }
    for (std::int64_t e = 0; e < eighths; ++e)
      play(bar, e % 2 == 0 ? e * 2 * sixteenth : (e - 1) * 2 * sixteenth + std::llround(4 * sixteenth * s.swing / 100),
           DrumClass::hat, e % 2 == 0 ? 0.9 : 0.6, s.hatLateMs);
  }
  std::sort(p.hits.begin(), p.hits.end(), [](auto& a, auto& b) { return a.at < b.at; });
  const auto frames = static_cast<std::size_t>(p.map.toFrames(p.map.barStart(s.bars)).value + s.rate);
  p.mics.assign(4, std::vector<float>(frames, 0.0f));
  // Level in dB and distance in ms of each drum in each mic.
  struct Ear {
    double db, ms;
  };
  const Ear ears[4][3] = {{{0, 0}, {-26, 2.4}, {-36, 3}},
                          {{-22, 2.4}, {0, 0}, {-26, 1}},
                          {{-30, 3}, {-18, 1.2}, {0, 0}},
                          {{-12, 3.4}, {-8, 2.9}, {-8, 2.4}}};
  std::uniform_real_distribution<float> hiss(-1e-4f, 1e-4f);
  for (const auto& h : p.hits) {
    const auto sound = strike(h.drum, h.velocity, s, dice);
    const int drum = h.drum == DrumClass::kick ? 0 : h.drum == DrumClass::snare ? 1 : 2;
    for (std::size_t m = 0; m < 4; ++m) {
      const auto& ear = ears[m][drum];
      const auto gain = static_cast<float>(std::pow(10.0, ear.db / 20));
      const auto at = static_cast<std::size_t>(h.at.value + std::llround(ear.ms * s.rate / 1000));
      for (std::size_t i = 0; i < sound.size() && at + i < frames; ++i) p.mics[m][at + i] += gain * sound[i];
    }
  }
  for (auto& mic : p.mics)
    for (auto& v : mic) v = std::clamp(v * 0.7f + hiss(dice), -1.0f, 1.0f);
  return p;
}

Score compare(const std::vector<Frames>& truth, const std::vector<Frames>& found, int rate, double toleranceMs) {
  struct Pair {
    std::int64_t distance;
    std::size_t t, f;
  };
  std::vector<Pair> pairs;
  const auto reach = static_cast<std::int64_t>(toleranceMs * rate / 1000);
  for (std::size_t t = 0; t < truth.size(); ++t)
    for (std::size_t f = 0; f < found.size(); ++f)
      if (const auto d = std::abs((truth[t] - found[f]).value); d <= reach) pairs.push_back({d, t, f});
  std::sort(pairs.begin(), pairs.end(), [](auto& a, auto& b) { return a.distance < b.distance; });
  std::vector<bool> usedT(truth.size()), usedF(found.size());
  std::vector<double> errors;
  for (const auto& p : pairs)
    if (!usedT[p.t] && !usedF[p.f])
      usedT[p.t] = usedF[p.f] = true, errors.push_back(static_cast<double>(p.distance) * 1000 / rate);
  Score s;
  const auto hits = static_cast<double>(errors.size());
  s.precision = found.empty() ? 0 : hits / static_cast<double>(found.size());
  s.recall = truth.empty() ? 0 : hits / static_cast<double>(truth.size());
  s.f1 = hits > 0 ? 2 * s.precision * s.recall / (s.precision + s.recall) : 0;
  std::sort(errors.begin(), errors.end());
  if (!errors.empty()) s.medianMs = errors[errors.size() / 2], s.p95Ms = errors[errors.size() * 95 / 100];
  return s;
}

}  // namespace ochron::test
