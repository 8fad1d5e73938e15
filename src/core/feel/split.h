#pragma once

#include <vector>

namespace ochron {

/// One placed stroke as the feel split sees it.
struct Placement {
  double bar = 0;          ///< musical position in bars, fractional
  int place = 0;           ///< index of the grid place within the bar
  int group = 0;           ///< what has a pocket of its own: the drum class
  double deviationMs = 0;  ///< late positive

  bool operator==(const Placement&) const = default;
};

struct FeelSplit {
  std::vector<double> driftMs;
  std::vector<double> pocketMs;
  std::vector<double> scatterMs;
};

/// Splits deviations into drift (slow, over bars; mean 0), pocket (repeats at the same place of the bar) and scatter,
/// so that the three add up to each deviation exactly. Backfitting (Hastie & Tibshirani 1990) of a robust local line
/// (LOWESS, Cleveland 1979) reaching `driftBars` to either side, and of robust means per place, shrunk towards the
/// place's and the whole mean where there are few hits. `placements` sorted by bar.
FeelSplit splitFeel(const std::vector<Placement>& placements, double driftBars);

}  // namespace ochron
