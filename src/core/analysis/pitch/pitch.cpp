#include "analysis/pitch/pitch.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>

#include "analysis/pitch/harmonics.h"
#include "analysis/pitch/pitch_slips.h"
#include "analysis/pitch/voiced.h"
#include "base/hop.h"
#include "base/median.h"
#include "dsp/dot.h"
#include "dsp/fft.h"
#include "dsp/listening.h"
#include "dsp/peak.h"

namespace ochron {
namespace {

constexpr double kBinCents = 20;
constexpr int kThresholds = 100;
constexpr double kNoneBelow = 0.01;  // what the deepest dip gets where none is below a threshold
constexpr int kGlideBins = 6;        // from one value to the next
constexpr double kJump = 1e-5;       // any other pitch at once
constexpr double kTurn = 0.01;       // from voiced to not, and back
constexpr double kSilentDb = -52;    // against the loudest 40 ms
constexpr double kNoPath = -1e30;
constexpr double kFinePeriods = 4.5;
constexpr double kFineSeconds = 0.012;  // at least
constexpr double kAlikeEnough = 0.1;

/// Weight of each threshold: a Beta(2, 34) distribution, whose mean is 0.056. A higher mean takes a strong second
/// harmonic for the pitch.
std::array<double, kThresholds> thresholdWeights() {
  std::array<double, kThresholds> w{};
  double all = 0;
  for (int i = 0; i < kThresholds; ++i) {
    const double s = (i + 0.5) / kThresholds;
    w[static_cast<std::size_t>(i)] = s * std::pow(1 - s, 33);
    all += w[static_cast<std::size_t>(i)];
  }
  for (auto& x : w) x /= all;
  return w;
}

struct PeriodCandidate {
  double hertz = 0;
  double likely = 0;
};

/// The pitches that a moment may have.
class Candidates {
 public:
  Candidates(std::span<const float> samples, int rate, const PitchSettings& s)
      : samples_(samples),
        rate_(rate),
        shortest_(std::max(2, static_cast<int>(rate / s.highest))),
        longest_(static_cast<int>(rate / s.lowest) + 2),
        window_(windowFor(rate)),
        short_(sizeFor(window_ + longest_)),
        long_(sizeFor(window_ + longest_)),
        weights_(thresholdWeights()) {}

  /// Mean square of the moment's sound.
  double at(std::int64_t centre, std::vector<PeriodCandidate>& out) {
    out.clear();
    const auto total = window_ + longest_;
    const auto first = centre - total / 2;
    const auto sample = [&](std::int64_t i) {
      const auto k = first + i;
      return k < 0 || k >= std::ssize(samples_) ? 0.0F : samples_[static_cast<std::size_t>(k)];
    };
    auto a = short_.time();
    auto b = long_.time();
    std::fill(a.begin(), a.end(), 0.0F);
    std::fill(b.begin(), b.end(), 0.0F);
    std::vector<double> squares(static_cast<std::size_t>(total) + 1, 0.0);
    for (int i = 0; i < total; ++i) {
      const float x = sample(i);
      b[static_cast<std::size_t>(i)] = x;
      if (i < window_) a[static_cast<std::size_t>(i)] = x;
      squares[static_cast<std::size_t>(i) + 1] = squares[static_cast<std::size_t>(i)] + static_cast<double>(x) * x;
    }
    const double power = squares.back() / total;
    if (power < 1e-12) return power;
    short_.forward();
    long_.forward();
    const auto x = short_.bins();
    const auto y = long_.bins();
    for (std::size_t k = 0; k < y.size(); ++k) y[k] *= std::conj(x[k]);
    long_.inverse();
    const auto correlation = long_.time();
    const double size = long_.size();
    std::vector<double> dip(static_cast<std::size_t>(longest_), 1.0);
    double sum = 0;
    for (int lag = 1; lag < longest_; ++lag) {
      const auto k = static_cast<std::size_t>(lag);
      const double d = squares[static_cast<std::size_t>(window_)] +
                       (squares[static_cast<std::size_t>(window_) + k] - squares[k]) -
                       2 * static_cast<double>(correlation[k]) / size;
      sum += std::max(0.0, d);
      dip[k] = sum > 0 ? std::max(0.0, d) * lag / sum : 1.0;
    }
    addDips(dip, out);
    return power;
  }

  struct Heard {
    double hertz = 0;
    double unlike = 1;  ///< of two periods, against their power: 0 the same, 1 nothing in common
  };

  /// By how many frames at() hears a pitch before the centre it was asked about.
  std::int64_t heardEarly(double hertz) const { return std::llround((longest_ - rate_ / hertz) / 2); }

  /// Frames of a window that a pitch is told from others in, and of one that it is measured in: a few periods, so that
  /// it follows a vibrato.
  int wide() const { return window_; }
  int fine(double hertz) const {
    return std::min(window_, static_cast<int>(std::max(kFinePeriods * rate_ / hertz, kFineSeconds * rate_)));
  }

  /// A pitch heard about `centre`, heard again in two windows that lie about it evenly: `at` compares a window with all
  /// later ones, so that a short period is heard up to half the longest one too early. None near by: as it was.
  Heard heardAbout(std::int64_t centre, double hertz, int window) const {
    constexpr double kReach = 1.05;  // some 85 cents
    const auto low =
        std::max(2, std::min(static_cast<int>(rate_ / (hertz * kReach)), static_cast<int>(rate_ / hertz) - 2));
    const auto high = std::max(static_cast<int>(rate_ * kReach / hertz), static_cast<int>(rate_ / hertz) + 2) + 1;
    const auto size = static_cast<std::size_t>(window);
    const auto reach = size + static_cast<std::size_t>(high);
    const auto first = centre - (window + high) / 2;
    std::vector<float> near(reach, 0.0F);
    std::vector<double> squares(reach + 1, 0.0);
    for (std::size_t i = 0; i < reach; ++i) {
      if (const auto k = first + static_cast<std::int64_t>(i); k >= 0 && k < std::ssize(samples_))
        near[i] = samples_[static_cast<std::size_t>(k)];
      squares[i + 1] = squares[i] + static_cast<double>(near[i]) * near[i];
    }
    const auto part = [&](std::size_t from) { return std::span(near).subspan(from, size); };
    const auto power = [&](std::size_t from) { return squares[from + size] - squares[from]; };
    std::vector<double> dip;
    for (int lag = low; lag <= high; ++lag) {
      const auto a = static_cast<std::size_t>(centre - (window + lag) / 2 - first);
      const auto b = a + static_cast<std::size_t>(lag);
      const double all = power(a) + power(b) + 1e-12;
      dip.push_back(std::max(0.0, all - 2 * dot(part(a), part(b))) / all);
    }
    const auto k = static_cast<std::size_t>(std::min_element(dip.begin(), dip.end()) - dip.begin());
    if (k == 0 || k + 1 == dip.size()) return {hertz, dip[k]};
    const double shift = peakOf(-dip[k - 1], -dip[k], -dip[k + 1]).shift;
    return {rate_ / (static_cast<double>(low) + static_cast<double>(k) + shift), dip[k]};
  }

 private:
  static int windowFor(int rate) {
    int size = 256;
    while (size < rate / 28) size *= 2;
    return size;
  }
  static int sizeFor(int least) {
    int size = 256;
    while (size < least) size *= 2;
    return size;
  }

  void addDips(const std::vector<double>& dip, std::vector<PeriodCandidate>& out) const {
    struct Dip {
      int lag;
      double depth;
      double likely;
    };
    std::vector<Dip> dips;
    for (int lag = shortest_; lag + 1 < longest_; ++lag) {
      const auto k = static_cast<std::size_t>(lag);
      if (dip[k] < 0.9 && dip[k] <= dip[k - 1] && dip[k] < dip[k + 1]) dips.push_back({lag, dip[k], 0});
    }
    if (dips.empty()) return;
    const auto deepest =
        std::min_element(dips.begin(), dips.end(), [](const Dip& a, const Dip& b) { return a.depth < b.depth; });
    for (int i = 0; i < kThresholds; ++i) {
      const double threshold = (i + 0.5) / kThresholds;
      const auto below = std::find_if(dips.begin(), dips.end(), [&](const Dip& d) { return d.depth < threshold; });
      if (below != dips.end())
        below->likely += weights_[static_cast<std::size_t>(i)];
      else
        deepest->likely += weights_[static_cast<std::size_t>(i)] * kNoneBelow;
    }
    for (const auto& d : dips) {
      if (d.likely <= 0) continue;
      const auto k = static_cast<std::size_t>(d.lag);
      const double shift = peakOf(-dip[k - 1], -dip[k], -dip[k + 1]).shift;
      out.push_back({rate_ / (d.lag + shift), d.likely});
    }
  }

  std::span<const float> samples_;
  int rate_;
  int shortest_;
  int longest_;
  int window_;
  RealFft short_;
  RealFft long_;
  std::array<double, kThresholds> weights_;
};

/// The likeliest path through the candidates: states are pitches, voiced or not.
class Path {
 public:
  Path(const PitchSettings& s)
      : lowest_(s.lowest), bins_(static_cast<std::size_t>(1200 * std::log2(s.highest / s.lowest) / kBinCents) + 1) {
    for (std::size_t i = 0; i < glide_.size(); ++i) {
      const double nearer = kGlideBins + 1 - std::abs(static_cast<double>(i) - kGlideBins);
      glide_[i] = std::log(nearer / ((kGlideBins + 1) * (kGlideBins + 1)));
    }
    score_.assign(2 * bins_, 0.0);
  }

  void step(const std::vector<PeriodCandidate>& candidates) {
    std::vector<double> seen(bins_, 0.0);
    double all = 0;
    for (const auto& c : candidates) {
      const auto bin = std::llround(1200 * std::log2(c.hertz / lowest_) / kBinCents);
      if (bin < 0 || bin >= static_cast<std::int64_t>(bins_)) continue;
      seen[static_cast<std::size_t>(bin)] += c.likely;
      all += c.likely;
    }
    const double none = std::log(std::max(1e-9, 1 - all) / static_cast<double>(bins_));
    std::vector<double> next(2 * bins_, kNoPath);
    auto& from = from_.emplace_back(2 * bins_);
    const double stay = std::log(1 - kTurn);
    const double turn = std::log(kTurn);
    const double jump = std::log(kJump / static_cast<double>(bins_));
    const auto best = static_cast<std::size_t>(
        std::max_element(score_.begin(), score_.begin() + static_cast<std::ptrdiff_t>(bins_)) - score_.begin());
    for (std::size_t b = 0; b < bins_; ++b) {
      double voiced = score_[best] + jump;
      double silent = kNoPath;
      auto voicedFrom = static_cast<std::uint16_t>(best);
      std::uint16_t silentFrom = 0;
      const auto low = b >= kGlideBins ? b - kGlideBins : 0;
      const auto high = std::min(bins_ - 1, b + kGlideBins);
      for (auto i = low; i <= high; ++i) {
        const double move = glide_[i + kGlideBins - b];
        const auto consider = [&](double s, std::size_t who, double& top, std::uint16_t& whom) {
          if (s <= top) return;
          top = s;
          whom = static_cast<std::uint16_t>(who);
        };
        consider(score_[i] + move + stay, i, voiced, voicedFrom);
        consider(score_[bins_ + i] + move + turn, bins_ + i, voiced, voicedFrom);
        consider(score_[i] + move + turn, i, silent, silentFrom);
        consider(score_[bins_ + i] + move + stay, bins_ + i, silent, silentFrom);
      }
      next[b] = voiced + std::log(seen[b] + 1e-6);
      next[bins_ + b] = silent + none;
      from[b] = voicedFrom;
      from[bins_ + b] = silentFrom;
    }
    const double top = *std::max_element(next.begin(), next.end());
    for (auto& s : next) s -= top;
    score_ = std::move(next);
  }

  /// For each step the bin, and whether it is voiced.
  std::vector<std::pair<std::size_t, bool>> result() const {
    std::vector<std::pair<std::size_t, bool>> out(from_.size());
    auto state = static_cast<std::size_t>(std::max_element(score_.begin(), score_.end()) - score_.begin());
    for (auto t = from_.size(); t-- > 0;) {
      out[t] = {state % bins_, state < bins_};
      state = from_[t][state];
    }
    return out;
  }
  double hertzOf(std::size_t bin) const { return lowest_ * std::exp2(static_cast<double>(bin) * kBinCents / 1200); }

 private:
  double lowest_;
  std::size_t bins_;
  std::array<double, 2 * kGlideBins + 1> glide_{};
  std::vector<double> score_;  // voiced bins, then unvoiced ones
  std::vector<std::vector<std::uint16_t>> from_;
};

/// `Candidates::at` compares a window with all later ones, so that a period is heard the earlier the shorter it is:
/// brings each candidate to the value whose time it was heard at.
void retime(std::vector<std::vector<PeriodCandidate>>& all, const Candidates& finder, const Hop& hop) {
  std::vector<std::vector<PeriodCandidate>> out(all.size());
  for (std::size_t t = 0; t < all.size(); ++t)
    for (const auto& c : all[t]) {
      const auto early = hop.nearest(finder.heardEarly(c.hertz));
      const auto to = std::clamp<std::int64_t>(static_cast<std::int64_t>(t) - early, 0, std::ssize(all) - 1);
      out[static_cast<std::size_t>(to)].push_back(c);
    }
  all = std::move(out);
}

}  // namespace

Result<PitchTrack> pitchOf(std::span<const float> samples, int rate, const PitchSettings& settings,
                           Progress& progress) {
  PitchTrack out;
  const Hop hop(PitchTrack::kPerSecond, rate);
  const auto count = static_cast<std::size_t>(hop.count(std::ssize(samples) + 1));
  Candidates finder(samples, rate, settings);
  std::vector<std::vector<PeriodCandidate>> all(count);
  std::vector<double> powers(count);
  for (std::size_t t = 0; t < count; ++t) {
    if (progress.cancelled()) return cancelledError();
    powers[t] = finder.at(hop.frame(static_cast<std::int64_t>(t)), all[t]);
    if (t % 64 == 0) progress.report(0.75 * kPitchShare * static_cast<double>(t) / static_cast<double>(count));
  }
  retime(all, finder, hop);
  const double least = *std::max_element(powers.begin(), powers.end()) * std::pow(10, kSilentDb / 10);
  Path path(settings);
  for (std::size_t t = 0; t < count; ++t) {
    if (progress.cancelled()) return cancelledError();
    if (powers[t] < least) all[t].clear();
    path.step(all[t]);
  }
  const auto heardAt = [&](std::size_t t, double hertz, int window) {
    return finder.heardAbout(hop.frame(static_cast<std::int64_t>(t)), hertz, window);
  };
  // Two notes that sound at once beat against each other in a short window.
  const auto exactly = [&](std::size_t t, double hertz) {
    const auto fine = heardAt(t, hertz, finder.fine(hertz));
    return fine.unlike < kAlikeEnough ? fine.hertz : heardAt(t, hertz, finder.wide()).hertz;
  };
  const auto states = path.result();
  for (std::size_t t = 0; t < count; ++t) {
    if (progress.cancelled()) return cancelledError();
    if (t % 64 == 0) progress.report(kPitchShare * (0.75 + 0.25 * static_cast<double>(t) / static_cast<double>(count)));
    const double centre = path.hertzOf(states[t].first);
    PitchTrack::Value v{centre, states[t].second ? 0.5 : 0.0};
    double nearest = 1.5 * kBinCents;
    for (const auto& c : all[t]) {
      const double off = std::abs(centsOf(c.hertz) - centsOf(centre));
      if (off >= nearest) continue;
      nearest = off;
      v.hertz = c.hertz;
    }
    if (all[t].empty()) v = {};
    out.values.push_back(v);
  }
  const Periodicity sound(samples, rate);
  markVoiced(out.values, heardPeriods(sound, out.values));
  for (std::size_t t = 0; t < count; ++t) {
    if (t % 64 == 0 && progress.cancelled()) return cancelledError();
    if (auto& v = out.values[t]; v.sounds()) v.hertz = exactly(t, v.hertz);
  }
  liftUndertones(out.values);
  const auto unlike = [&](std::size_t t, double hertz) { return heardAt(t, hertz, finder.wide()).unlike; };
  dropOctaves(out.values, settings.lowest, unlike);
  dropOddOctaves(out.values, settings.lowest,
                 {[&](std::size_t t, double hertz) { return 1 - sound.likeness(t, hertz); },
                  [&](std::size_t t, double hertz) {
                    return oddHarmonics(samples, rate, hop.frame(static_cast<std::int64_t>(t)), hertz / 2);
                  },
                  [&](std::size_t t) { return sound.level(t); }});
  // An attack's first periods lie alone in a long window.
  liftOctaves(out.values,
              [&](std::size_t t, double hertz) { return std::min(unlike(t, hertz), 1 - sound.likeness(t, hertz)); });
  progress.report(kPitchShare);
  return out;
}

std::optional<double> pitchOfMoment(std::span<const float> recorded, int recordedRate, const PitchSettings& settings) {
  const auto listened = Listening::to(recorded, recordedRate);
  if (!listened) return {};
  const auto samples = listened->samples();

  constexpr double kSilence = 1e-6;  // power, -60 dB of full scale
  double power = 0;
  for (const float x : samples) power += static_cast<double>(x) * x;
  if (samples.empty() || power < kSilence * static_cast<double>(samples.size())) return {};
  Progress progress;
  const auto track = pitchOf(samples, kListeningRate, settings, progress);
  if (!track) return {};
  std::vector<double> sounding;
  for (const auto& v : track->values)
    if (v.sounds()) sounding.push_back(v.hertz);
  if (sounding.empty() || 2 * sounding.size() < track->values.size()) return {};
  return medianOf(std::move(sounding));
}

}  // namespace ochron
