#include "kit/drum_lowering.h"

#include <algorithm>
#include <bit>
#include <cmath>

#include "base/median.h"
#include "dsp/fft.h"
#include "dsp/window.h"

namespace ochron {
namespace {

constexpr double kWindowSeconds = 0.0213;  // 1024 frames at 48 kHz
constexpr int kOverlap = 4;
constexpr std::size_t kMostStrokes = 64;  // that its decay is learned from
constexpr double kOverTaken = 2;          // of the drum's expected power: strokes differ
constexpr double kOccupied = 0.1;         // of what was there before: less of the drum there is let be
constexpr double kDown = 3e-5;            // of its power, where it has decayed: -45 dB
constexpr double kJoinMs = 0.5;           // into what is lowered, from the attack on
constexpr double kBackMs = 12;            // back to the recording
constexpr int kBefore = 4;                // windows before a stroke that say what was there
constexpr int kLoudness = 4;              // steps from the attack on that say how loud a stroke is

int windowFor(int rate) { return static_cast<int>(std::bit_ceil(static_cast<unsigned>(kWindowSeconds * rate * 0.75))); }

/// Spectra of a mic around any frame.
class Spectra {
 public:
  Spectra(const Samples& mic, int size) : mic_(mic), fft_(size), window_(hannWindow(size)) {
    for (auto& w : window_) w = std::sqrt(w);
  }
  std::span<std::complex<float>> at(std::int64_t centre) {
    auto in = fft_.time();
    mic_.readAround(centre - fft_.size() / 2, in);
    for (std::size_t i = 0; i < in.size(); ++i) in[i] *= window_[i];
    fft_.forward();
    return fft_.bins();
  }
  std::vector<float> powerAt(std::int64_t centre) {
    const auto bins = at(centre);
    std::vector<float> out(bins.size());
    for (std::size_t b = 0; b < bins.size(); ++b) out[b] = std::norm(bins[b]);
    return out;
  }
  /// The spectrum's sound, windowed again, added to `out`, which begins at a frame of the mic.
  void addBack(std::int64_t centre, std::int64_t start, std::span<float> out) {
    fft_.inverse();
    const auto sound = fft_.time();
    const float scale = 2.0F / static_cast<float>(kOverlap) / static_cast<float>(fft_.size());
    const auto from = centre - fft_.size() / 2 - start;
    for (std::int64_t i = 0; i < fft_.size(); ++i)
      if (from + i >= 0 && from + i < std::ssize(out))
        out[static_cast<std::size_t>(from + i)] +=
            sound[static_cast<std::size_t>(i)] * window_[static_cast<std::size_t>(i)] * scale;
  }
  std::size_t bins() const { return static_cast<std::size_t>(fft_.size() / 2 + 1); }
  std::int64_t step() const { return fft_.size() / kOverlap; }

 private:
  Samples mic_;
  RealFft fft_;
  std::vector<float> window_;
};

/// What sounded before a stroke.
std::vector<float> beforeStroke(Spectra& spectra, std::int64_t at, int size) {
  std::vector<float> out(spectra.bins(), 0.0F);
  for (int k = 0; k < kBefore; ++k) {
    const auto p = spectra.powerAt(at - size / 2 - k * spectra.step());
    for (std::size_t b = 0; b < out.size(); ++b) out[b] += p[b] / kBefore;
  }
  return out;
}

std::vector<float> added(const std::vector<float>& power, const std::vector<float>& before) {
  std::vector<float> out(power.size());
  for (std::size_t b = 0; b < out.size(); ++b) out[b] = std::max(0.0F, power[b] - before[b]);
  return out;
}

double sumOf(const std::vector<float>& x) {
  double sum = 0;
  for (const float v : x) sum += static_cast<double>(v);
  return sum;
}

/// Neighbouring bins taken together: single bins of a few strokes say little.
std::vector<float> smooth(const std::vector<float>& x) {
  std::vector<float> out(x.size());
  for (std::size_t b = 0; b < x.size(); ++b) {
    const auto low = b > 0 ? b - 1 : b;
    const auto high = std::min(b + 1, x.size() - 1);
    out[b] = (x[low] + 2 * x[b] + x[high]) / 4;
  }
  return out;
}

/// One stroke while it rings.
struct Ringing {
  std::int64_t at;
  double level;
  std::vector<float> before;
};

double levelOf(Spectra& spectra, std::int64_t at, const std::vector<float>& before, const DrumDecay& decay) {
  double heard = 0;
  double expected = 0;
  for (int k = 1; k <= kLoudness && k < std::ssize(decay.power); ++k) {
    heard += sumOf(added(spectra.powerAt(at + k * spectra.step()), before));
    expected += sumOf(decay.power[static_cast<std::size_t>(k)]);
  }
  return expected > 0 ? heard / expected : 0;
}

/// What is left of each band at a place, a factor of amplitude.
void gainsAt(std::int64_t centre, const std::vector<float>& power, const std::vector<Ringing>& strokes,
             const DrumDecay& decay, std::int64_t step, std::vector<float>& gain) {
  for (std::size_t b = 0; b < gain.size(); ++b) {
    double drum = 0;
    double floor = 0;
    for (const auto& s : strokes) {
      const auto k = std::max<std::int64_t>(0, (centre - s.at + step / 2) / step);
      if (centre < s.at - 2 * step || k >= std::ssize(decay.power)) continue;
      const double d = s.level * static_cast<double>(decay.power[static_cast<std::size_t>(k)][b]);
      const auto n = static_cast<double>(s.before[b]);
      if (d < kOccupied * n) continue;
      drum += d;
      floor = std::max(floor, n);
    }
    const auto p = static_cast<double>(power[b]);
    if (drum == 0 || p == 0) {
      gain[b] = 1;
      continue;
    }
    const double left = std::min(p, std::max(p - kOverTaken * drum, floor));
    gain[b] = static_cast<float>(std::sqrt(left / p));
  }
}

}  // namespace

DrumDecay decayOf(const Samples& mic, std::span<const std::int64_t> strokes, int rate) {
  DrumDecay out;
  out.size = windowFor(rate);
  if (strokes.empty()) return out;
  Spectra spectra(mic, out.size);
  const auto steps = static_cast<std::size_t>(kDrumRingsSeconds * rate / static_cast<double>(spectra.step()));
  const auto every = std::max<std::size_t>(1, strokes.size() / kMostStrokes);
  std::vector<std::vector<std::vector<float>>> all;  // stroke, step, bin
  for (std::size_t i = 0; i < strokes.size() && all.size() < kMostStrokes; i += every) {
    const auto before = beforeStroke(spectra, strokes[i], out.size);
    auto& one = all.emplace_back();
    double loud = 0;
    for (std::size_t k = 0; k < steps; ++k) {
      one.push_back(added(spectra.powerAt(strokes[i] + static_cast<std::int64_t>(k) * spectra.step()), before));
      if (k >= 1 && k <= kLoudness) loud += sumOf(one.back());
    }
    if (loud <= 0) {
      all.pop_back();
      continue;
    }
    for (auto& step : one)
      for (auto& v : step) v /= static_cast<float>(loud);
  }
  if (all.empty()) return out;
  double most = 0;
  std::vector<double> column(all.size());
  for (std::size_t k = 0; k < steps; ++k) {
    std::vector<float> middle(spectra.bins());
    for (std::size_t b = 0; b < middle.size(); ++b) {
      for (std::size_t i = 0; i < all.size(); ++i) column[i] = static_cast<double>(all[i][k][b]);
      middle[b] = static_cast<float>(medianOf(column));
    }
    out.power.push_back(smooth(middle));
    most = std::max(most, sumOf(out.power.back()));
    if (sumOf(out.power.back()) < kDown * most) break;
  }
  out.length = std::ssize(out.power) * spectra.step();
  return out;
}

std::vector<float> withoutDrum(const Samples& mic, std::span<const std::int64_t> strokes, const DrumDecay& decay,
                               FrameRange range, int rate) {
  Spectra spectra(mic, decay.size);
  std::vector<Ringing> ringing;
  for (const auto at : strokes) {
    auto before = beforeStroke(spectra, at, decay.size);
    const double level = levelOf(spectra, at, before, decay);
    // What strokes before it still add there is to go, too.
    for (const auto& earlier : ringing) {
      const auto k = (at - decay.size / 2 - earlier.at) / spectra.step();
      if (k < 0 || k >= std::ssize(decay.power)) continue;
      for (std::size_t b = 0; b < before.size(); ++b)
        before[b] = std::max(0.0F, before[b] - static_cast<float>(kOverTaken * earlier.level) *
                                                   decay.power[static_cast<std::size_t>(k)][b]);
    }
    ringing.push_back({at, level, std::move(before)});
  }
  std::vector<float> made(static_cast<std::size_t>(range.length().value), 0.0F);
  std::vector<float> gain(spectra.bins());
  const auto step = spectra.step();
  // Before what is kept of the sum, so that every frame has all its windows.
  for (auto centre = range.start.value - decay.size; centre < range.end.value + decay.size; centre += step) {
    const auto power = spectra.powerAt(centre);
    gainsAt(centre, power, ringing, decay, step, gain);
    auto bins = spectra.at(centre);
    for (std::size_t b = 0; b < bins.size(); ++b) bins[b] *= gain[b];
    spectra.addBack(centre, range.start.value, made);
  }
  std::vector<float> out(made.size());
  mic.readAround(range.start.value, out);
  const auto first = strokes.empty() ? range.end.value : strokes.front();
  const auto join = static_cast<double>(framesFromMs(kJoinMs, rate).value);
  const auto back = static_cast<double>(framesFromMs(kBackMs, rate).value);
  for (std::size_t i = 0; i < out.size(); ++i) {
    const auto at = range.start.value + static_cast<std::int64_t>(i);
    if (at < first) continue;
    const double in = std::min(1.0, static_cast<double>(at - first) / join);
    const double until = std::min(1.0, static_cast<double>(range.end.value - at) / back);
    const auto share = static_cast<float>(std::min(in, until));
    out[i] += share * (made[i] - out[i]);
  }
  return out;
}

std::vector<RingingStrokes> ringing(std::span<const std::int64_t> strokes, std::int64_t length) {
  std::vector<RingingStrokes> out;
  for (const auto at : strokes) {
    if (out.empty() || Frames{at} >= out.back().range.end) out.push_back({{}, {Frames{at}, Frames{at}}});
    out.back().strokes.push_back(at);
    out.back().range.end = Frames{at + length};
  }
  return out;
}

}  // namespace ochron
