#include "dsp/steady_windows.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <complex>
#include <numeric>
#include <span>

#include "dsp/window.h"

namespace ochron {
namespace {

// Found on songs, guitars, strings, a violin and held chords with and without a hat over them: with these the sound is
// no more smeared than with the shortest window, and partials are parted where the material holds still. The spectra of
// two windows of noise have a likeness of pi / 4.
struct Bar {
  double whole;  // likeness of the magnitudes of two halves
  double band;   // of each band that counts
};
constexpr Bar kBecomesLong{0.97, 0.9};
constexpr Bar kStaysLong{0.95, 0.82};                                     // partials that beat come and go
constexpr Bar kKeepsPitch{0.9, 0.65};                                     // of what lies in the longest
constexpr double kBandCounts = 3e-5;                                      // of the whole power
constexpr std::array<double, 5> kBandEdges{600, 1200, 2400, 4800, 9600};  // Hz

/// Sums over bins: powers of both, and of each with the other.
struct Likeness {
  double a = 0;
  double b = 0;
  double both = 0;
  double value() const { return both / std::sqrt(a * b + 1e-30); }
};

Likeness likeness(std::span<const float> a, std::span<const float> b) {
  constexpr std::size_t kLanes = 8;
  std::array<float, kLanes> aa{};
  std::array<float, kLanes> bb{};
  std::array<float, kLanes> ab{};
  std::size_t i = 0;
  for (; i + kLanes <= a.size(); i += kLanes)
    for (std::size_t l = 0; l < kLanes; ++l) {
      aa[l] += a[i + l] * a[i + l];
      bb[l] += b[i + l] * b[i + l];
      ab[l] += a[i + l] * b[i + l];
    }
  for (; i < a.size(); ++i) {
    aa[0] += a[i] * a[i];
    bb[0] += b[i] * b[i];
    ab[0] += a[i] * b[i];
  }
  const auto sum = [](const std::array<float, kLanes>& x) { return std::accumulate(x.begin(), x.end(), 0.0); };
  return {sum(aa), sum(bb), sum(ab)};
}

/// Whether two spectra are alike, all in all and in every band.
bool alike(const std::vector<float>& a, const std::vector<float>& b, double binHz, Bar bar) {
  std::array<Likeness, kBandEdges.size() + 1> bands;
  std::size_t from = 0;
  for (std::size_t k = 0; k < bands.size(); ++k) {
    const auto to = k < kBandEdges.size()
                        ? std::min(a.size(), static_cast<std::size_t>(std::ceil(kBandEdges[k] / binHz)))
                        : a.size();
    bands[k] = likeness(std::span(a).subspan(from, to - from), std::span(b).subspan(from, to - from));
    from = to;
  }
  Likeness whole;
  for (const auto& l : bands) whole = {whole.a + l.a, whole.b + l.b, whole.both + l.both};
  if (whole.value() < bar.whole) return false;
  return std::all_of(bands.begin(), bands.end(), [&](const Likeness& l) {
    return l.a + l.b < kBandCounts * (whole.a + whole.b) || l.value() > bar.band;
  });
}

}  // namespace

SteadyWindows::SteadyWindows(int rate, int shortest, SlidingSource& source)
    : rate_(rate), shortest_(shortest), source_(source) {
  for (const int half : {shortest, 2 * shortest, 4 * shortest})
    scales_.push_back({RealFft(half), hannWindow(half), {}});
}

const SteadyWindows::Magnitudes& SteadyWindows::magnitudes(Scale& scale, std::int64_t step) {
  const auto [it, isNew] = scale.kept.try_emplace(step);
  if (!isNew) return it->second;
  auto& out = it->second;
  const auto size = scale.fft.size();
  out.assign(static_cast<std::size_t>(size) / 2 + 1, 0.0F);
  const auto from = step * (shortest_ / 2) - size / 2;
  for (std::size_t c = 0; c < source_.channels(); ++c) {
    const auto x = scale.fft.time();
    source_.read(c, from, x);
    for (std::size_t i = 0; i < x.size(); ++i) x[i] *= scale.window[i];
    scale.fft.forward();
    const auto bins = scale.fft.bins();
    for (std::size_t i = 0; i < out.size(); ++i) out[i] += std::norm(bins[i]);
  }
  for (auto& m : out) m = std::sqrt(m);
  // What lies a longest window back is not asked for again.
  scale.kept.erase(scale.kept.begin(), scale.kept.lower_bound(step - 32));
  return it->second;
}

/// Half of the longest window is as long as a swing of a vibrato: one swing looks like the next. So quarters of it are
/// held against each other, too.
bool SteadyWindows::keepsPitch(std::int64_t step) {
  auto& scale = scales_[scales_.size() - 2];
  for (std::int64_t at = step - 6; at <= step + 2; at += 2)
    if (!alike(magnitudes(scale, at), magnitudes(scale, at + 4), static_cast<double>(rate_) / scale.fft.size(),
               kKeepsPitch))
      return false;
  return true;
}

int SteadyWindows::at(std::int64_t frame) {
  const auto step = std::llround(static_cast<double>(frame) / (shortest_ / 2.0));
  for (std::size_t i = scales_.size(); i-- > 0;) {
    auto& scale = scales_[i];
    const auto half = scale.fft.size();
    const auto off = half / shortest_;  // half of a half, in steps
    const auto& before = magnitudes(scale, step - off);
    const auto& after = magnitudes(scale, step + off);
    const auto bar = last_ >= 2 * half ? kStaysLong : kBecomesLong;
    if (!alike(before, after, static_cast<double>(rate_) / half, bar)) continue;
    if (i + 1 == scales_.size() && !keepsPitch(step)) continue;
    return last_ = 2 * half;
  }
  return last_ = shortest_;
}

}  // namespace ochron
