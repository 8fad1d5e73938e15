#include "analysis/tempo/bar_changes.h"

#include <algorithm>
#include <functional>
#include <limits>

namespace ochron {
namespace {

constexpr double kChangePrice = 3;    // of a bar whose length is not the one's before
constexpr double kOddPrice = 0.3;     // of each bar of another length than the usual one
constexpr double kPatternWeight = 1;  // of how much more a step is like its place in the bar than like others
constexpr double kEchoWeight = 1;     // of how much more it is like what was played a bar before
constexpr int kChangeRounds = 3;
constexpr std::size_t kLeastBars = 12;
constexpr std::size_t kWindowBars = 16;  // that the first idea of a bar is taken from
constexpr double kNone = -std::numeric_limits<double>::infinity();

/// Lengths that bars may have beside the usual one: whole beats.
std::vector<int> lengthsBeside(int usual, int division) {
  std::vector<int> out{usual};
  for (int beats = 1; beats * division <= usual * 3 / 2; ++beats)
    if (beats * division != usual && (beats > 1 || division == 3)) out.push_back(beats * division);
  return out;
}

class Course {
 public:
  Course(const BarSteps& steps, int usual, const std::vector<double>& begins)
      : s_(steps),
        usual_(static_cast<std::size_t>(usual)),
        lengths_(lengthsBeside(usual, steps.division)),
        begins_(begins) {}

  BarCourse run() {
    if (s_.size() < kLeastBars * usual_) return {};
    hearEchoes();
    auto course = firstIdea();
    for (int round = 0; round < kChangeRounds; ++round) {
      learn(course);
      course = likeliest();
    }
    const bool plain = std::all_of(course.lengths.begin(), course.lengths.end(),
                                   [&](int l) { return static_cast<std::size_t>(l) == usual_; });
    return plain ? BarCourse{} : course;
  }

 private:
  /// How much each step is like the one so many before it, against its likeness to those at the other lengths.
  void hearEchoes() {
    echo_.assign(lengths_.size(), std::vector<double>(s_.size(), 0.0));
    for (std::size_t i = 0; i < s_.size(); ++i) {
      double sum = 0;
      int n = 0;
      for (std::size_t l = 0; l < lengths_.size(); ++l) {
        const auto lag = static_cast<std::size_t>(lengths_[l]);
        if (i < lag) continue;
        sum += echo_[l][i] = i < s_.patterns.size() ? likeness(s_.patterns.at(i), s_.patterns.at(i - lag)) : 0;
        ++n;
      }
      for (std::size_t l = 0; l < lengths_.size(); ++l)
        echo_[l][i] = i < static_cast<std::size_t>(lengths_[l]) ? 0 : echo_[l][i] - sum / n;
    }
  }

  /// Usual bars throughout, from where they begin most clearly in some part of the recording.
  BarCourse firstIdea() const {
    const auto wide = kWindowBars * usual_;
    double top = kNone;
    BarCourse out;
    for (std::size_t from = 0; from == 0 || from + wide <= s_.size(); from += wide / 2) {
      const auto to = std::min(s_.size(), from + wide);
      std::vector<double> sums(usual_, 0.0);
      for (auto i = from; i < to; ++i) sums[i % usual_] += begins_[i];
      const auto best = std::max_element(sums.begin(), sums.end());
      double second = kNone;
      for (auto x = sums.begin(); x != sums.end(); ++x)
        if (x != best) second = std::max(second, *x);
      if (*best - second <= top) continue;
      top = *best - second;
      out = {};
      for (auto i = from; i + usual_ <= to; ++i)
        if (i % usual_ == static_cast<std::size_t>(best - sums.begin())) {
          out.starts.push_back(i);
          out.lengths.push_back(static_cast<int>(usual_));
        }
    }
    return out;
  }

  /// What the usual bars of a course sound like: the pattern of each of their steps, and how they begin.
  void learn(const BarCourse& course) {
    std::vector<StepPatterns::Pattern> pattern(usual_, StepPatterns::Pattern(s_.patterns.at(0).size(), 0.0));
    double down = 0;
    double other = 0;
    int n = 0;
    for (std::size_t b = 0; b < course.starts.size(); ++b) {
      if (course.lengths[b] != static_cast<int>(usual_) || course.starts[b] + usual_ > s_.size()) continue;
      ++n;
      for (std::size_t k = 0; k < usual_; ++k) {
        const auto i = course.starts[b] + k;
        if (i < s_.patterns.size())
          std::transform(pattern[k].begin(), pattern[k].end(), s_.patterns.at(i).begin(), pattern[k].begin(),
                         std::plus<>());
        if (k == 0)
          down += begins_[i];
        else if (k % static_cast<std::size_t>(s_.division) == 0)
          other += begins_[i] * s_.division / static_cast<double>(usual_ - static_cast<std::size_t>(s_.division));
      }
    }
    between_ = n > 0 ? (down + other) / (2 * n) : 0;
    placed_.assign(usual_, std::vector<double>(s_.size(), 0.0));
    for (std::size_t i = 0; i < s_.patterns.size(); ++i) {
      double sum = 0;
      for (std::size_t k = 0; k < usual_; ++k) sum += placed_[k][i] = likeness(pattern[k], s_.patterns.at(i));
      for (std::size_t k = 0; k < usual_; ++k) placed_[k][i] -= sum / static_cast<double>(usual_);
    }
  }

  /// How well a bar of that length fits there; what lies beyond the end of the recording says nothing.
  double fits(std::size_t at, std::size_t l) const {
    double out = begins_[at] - between_;
    const auto end = std::min(s_.size(), at + static_cast<std::size_t>(lengths_[l]));
    for (auto i = at; i < end; ++i) out += kPatternWeight * placed_[(i - at) % usual_][i];
    return out;
  }

  /// Two bars of half the usual length are one of the usual length.
  bool neverTwice(std::size_t l) const { return l > 0 && static_cast<int>(usual_) % lengths_[l] == 0; }

  /// How much a bar is like the one before it, of its length.
  double echoes(std::size_t at, std::size_t l) const {
    double out = 0;
    const auto end = std::min(s_.size(), at + static_cast<std::size_t>(lengths_[l]));
    for (auto i = at; i < end; ++i) out += kEchoWeight * echo_[l][i];
    return out;
  }

  /// The best course of bars of these lengths (the first is the usual one), by dynamic programming over the steps.
  BarCourse likeliest() const {
    struct Bar {
      double worth = kNone;    ///< of the course up to its end
      std::size_t before = 0;  ///< index of the length of the bar before
      bool first = false;
    };
    const auto count = lengths_.size();
    std::vector<std::vector<Bar>> bars(s_.size(), std::vector<Bar>(count));
    double top = kNone;
    std::size_t lastAt = 0;
    std::size_t lastLength = 0;
    for (std::size_t at = 0; at < s_.size(); ++at)
      for (std::size_t l = 0; l < count; ++l) {
        Bar bar;
        if (at < usual_) {
          // What lies before the first bar is the end of a usual one.
          double part = l == 0 ? 0 : -kChangePrice;
          for (std::size_t i = 0; i < at; ++i) part += kPatternWeight * placed_[usual_ - at + i][i];
          bar = {part, 0, true};
        }
        for (std::size_t p = 0; p < count; ++p) {
          const auto length = static_cast<std::size_t>(lengths_[p]);
          if (at < length || (p == l && neverTwice(l))) continue;
          const double worth = bars[at - length][p].worth + (p == l ? echoes(at, l) : -kChangePrice);
          if (worth > bar.worth) bar = {worth, p, false};
        }
        if (bar.worth == kNone) continue;
        bar.worth += fits(at, l) - (l == 0 ? 0 : kOddPrice);
        bars[at][l] = bar;
        if (at + static_cast<std::size_t>(lengths_[l]) >= s_.size() && bar.worth > top) {
          top = bar.worth;
          lastAt = at;
          lastLength = l;
        }
      }
    BarCourse out;
    for (auto at = lastAt, l = lastLength;;) {
      out.starts.push_back(at);
      out.lengths.push_back(lengths_[l]);
      const auto& bar = bars[at][l];
      if (bar.first) break;
      l = bar.before;
      at -= static_cast<std::size_t>(lengths_[l]);
    }
    std::reverse(out.starts.begin(), out.starts.end());
    std::reverse(out.lengths.begin(), out.lengths.end());
    return out;
  }

  const BarSteps& s_;
  const std::size_t usual_;
  const std::vector<int> lengths_;
  const std::vector<double>& begins_;
  double between_ = 0;                       // a downbeat's worth and another beat's
  std::vector<std::vector<double>> placed_;  // by place in the bar and step: how much it sounds like that place
  std::vector<std::vector<double>> echo_;    // by length and step
};

}  // namespace

BarCourse changedBars(const BarSteps& steps, int usual, const std::vector<double>& begins) {
  return Course(steps, usual, begins).run();
}

}  // namespace ochron
