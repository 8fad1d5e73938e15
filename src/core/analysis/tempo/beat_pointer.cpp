#include "analysis/tempo/beat_pointer.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

#include "analysis/tempo/onset_curves.h"
#include "base/median.h"

namespace ochron {
namespace {

constexpr int kPerSecond = 100;
constexpr double kSteady = 100;   // exp(-100 |ln ratio|) from interval to interval
constexpr double kSeen = 0.9;     // of an activation of 1
constexpr double kUnseen = 0.02;  // a beat may have no onset at all
constexpr double kOffBeat = 0.6;  // how much an onset off the beat tells against it
constexpr int kBeside = 2;        // frames around a beat that belong to it
constexpr float kFirstOnset = 0.15F;
constexpr double kNever = -1e18;

/// The search near one tempo.
class Pointer {
 public:
  Pointer(std::span<const float> activation, double bpm) {
    const auto frames = activation.size() / 2;
    on_.resize(frames);
    off_.assign(frames + 1, 0.0);
    for (std::size_t t = 0; t < frames; ++t) {
      const double a = kSeen * static_cast<double>(std::max(activation[2 * t], activation[2 * t + 1])) + kUnseen;
      on_[t] = std::log(a);
      off_[t + 1] = off_[t] + std::log(1 - kOffBeat * a);
    }
    shortest_ = std::max(8, static_cast<int>(std::floor(60.0 * kPerSecond / (bpm * (1 + kPointerWidth)))));
    const int longest = static_cast<int>(std::ceil(60.0 * kPerSecond / (bpm * (1 - kPointerWidth))));
    count_ = static_cast<std::size_t>(std::max(1, longest - shortest_ + 1));
    change_.assign(count_, 0.0);
    for (std::size_t j = 1; j < count_; ++j)
      change_[j] = kSteady * std::log(static_cast<double>(interval(j)) / interval(j - 1));
    // The first beat lies by the first onset: what comes later must be walked through.
    const auto first = std::find_if(activation.begin(), activation.end(), [](float a) { return a > kFirstOnset; });
    latestStart_ = (first - activation.begin()) / 2 + longest;
  }

  BeatPath run() {
    const auto frames = on_.size();
    if (frames < 2 * static_cast<std::size_t>(shortest_)) return {};
    arrive_.assign(kept() * count_, kNever);
    leave_.assign(kept() * count_, kNever);
    from_.assign(frames * count_, -1);
    for (std::size_t t = 0; t < frames; ++t) step(t);
    return best();
  }

 private:
  /// Cost of what lies off the beat between two beats.
  double between(std::int64_t a, std::int64_t b) const {
    const auto from = std::max<std::int64_t>(0, a + kBeside + 1);
    const auto to = std::clamp<std::int64_t>(b - kBeside, from, std::ssize(on_));
    return off_[static_cast<std::size_t>(to)] - off_[static_cast<std::size_t>(std::min(from, to))];
  }
  /// Scores are kept for so many frames only: memory grows with the length by two bytes a state.
  std::size_t kept() const { return 2 * static_cast<std::size_t>(interval(count_ - 1)) + 1; }
  std::size_t row(std::int64_t t) const { return static_cast<std::size_t>(t) % kept() * count_; }
  int interval(std::size_t i) const { return shortest_ + static_cast<int>(i); }

  void step(std::size_t t) {
    const auto at = static_cast<std::int64_t>(t);
    double* arrive = &arrive_[row(at)];
    std::fill_n(arrive, count_, kNever);
    for (std::size_t j = 0; j < count_; ++j) {
      const auto before = at - interval(j);
      if (before < 0) break;
      const double come = leave_[row(before) + j];
      if (come > kNever / 2) arrive[j] = come + on_[t] + between(before, at);
    }
    const double fresh = at <= latestStart_ ? on_[t] + between(-kBeside - 1, at) : kNever;
    // What a change costs grows with the distance of the logarithms, so the best way in is the neighbour's or its own.
    double* leave = &leave_[row(at)];
    std::int16_t* from = &from_[t * count_];
    for (std::size_t j = 0; j < count_; ++j) {
      leave[j] = arrive[j];
      from[j] = static_cast<std::int16_t>(j);
      if (j == 0 || leave[j - 1] - change_[j] <= leave[j]) continue;
      leave[j] = leave[j - 1] - change_[j];
      from[j] = from[j - 1];
    }
    for (auto j = count_ - 1; j-- > 0;) {
      if (leave[j + 1] - change_[j + 1] <= leave[j]) continue;
      leave[j] = leave[j + 1] - change_[j + 1];
      from[j] = from[j + 1];
    }
    for (std::size_t j = 0; j < count_; ++j) {
      if (leave[j] > fresh && leave[j] > kNever / 2) continue;
      leave[j] = fresh;
      from[j] = -1;
    }
  }

  BeatPath best() const {
    const auto frames = std::ssize(on_);
    double top = kNever;
    std::int64_t at = -1;
    std::size_t with = 0;
    for (auto t = std::max<std::int64_t>(0, frames - 2 * interval(count_ - 1)); t < frames; ++t)
      for (std::size_t j = 0; j < count_; ++j) {
        const double s = arrive_[row(t) + j];
        if (s <= kNever / 2) continue;
        const double all = s + between(t, frames + kBeside);
        if (all > top) {
          top = all;
          at = t;
          with = j;
        }
      }
    BeatPath out;
    if (at < 0) return out;
    out.score = top / static_cast<double>(frames);
    for (;;) {
      out.beats.push_back(static_cast<double>(at) / kPerSecond);
      at -= interval(with);
      if (at < 0) break;
      const auto who = from_[static_cast<std::size_t>(at) * count_ + with];
      if (who < 0) {
        out.beats.push_back(static_cast<double>(at) / kPerSecond);
        break;
      }
      with = static_cast<std::size_t>(who);
    }
    std::reverse(out.beats.begin(), out.beats.end());
    std::vector<double> gaps;
    for (std::size_t i = 1; i < out.beats.size(); ++i) gaps.push_back(out.beats[i] - out.beats[i - 1]);
    if (gaps.empty()) return {};
    out.bpm = 60 / medianOf(std::move(gaps));
    return out;
  }

  std::vector<double> on_;
  std::vector<double> off_;  // summed up
  int shortest_ = 1;         // frames
  std::size_t count_ = 1;    // of intervals
  std::int64_t latestStart_ = 0;
  std::vector<double> change_;  // what it costs from the interval before to each
  std::vector<double> arrive_;
  std::vector<double> leave_;
  std::vector<std::int16_t> from_;
};

}  // namespace

BeatPath beatsNear(std::span<const float> activation, double bpm) { return Pointer(activation, bpm).run(); }

}  // namespace ochron
