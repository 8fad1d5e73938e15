#pragma once

#include <array>
#include <vector>

#include "analysis/tempo/onset_curves.h"

namespace ochron {

/// The strongest value of a curve of 200 values a second within `reach` values of a time; 0 outside.
double strongest(const std::vector<float>& curve, double seconds, int reach);

/// Where onsets are: peaks of the activation, at least 30 ms apart; seconds.
std::vector<double> onsetsOf(const OnsetCurves& curves);

/// The mean of the top two bands at a share of each beat (two beats and more).
double highPlaced(const OnsetCurves& curves, const std::vector<double>& beats, double share);

/// What is played from each place of a row to the next one, in all bands at a few places in between.
class StepPatterns {
 public:
  using Pattern = std::vector<double>;

  StepPatterns() = default;
  /// `steps`: rising, seconds; `places`: in each step.
  StepPatterns(const OnsetCurves& curves, const std::vector<double>& steps, int places);
  std::size_t size() const { return patterns_.size(); }
  const Pattern& at(std::size_t step) const { return patterns_[step]; }
  /// How alike the steps are to those `lag` before, -1 to 1; 0 when there are none.
  double repetition(std::size_t lag) const;

 private:
  std::vector<Pattern> patterns_;
};

/// The cosine between two patterns of one length, 0 when there is nothing in one of them.
double likeness(const StepPatterns::Pattern& a, const StepPatterns::Pattern& b);

}  // namespace ochron
