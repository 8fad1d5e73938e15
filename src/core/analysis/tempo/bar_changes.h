#pragma once

#include <vector>

#include "analysis/tempo/bar_steps.h"

namespace ochron {

/// Bars one after the other, in steps.
struct BarCourse {
  std::vector<std::size_t> starts;
  std::vector<int> lengths;
};

/// The bars of a recording some of whose bars are shorter or longer than most of them: a bar of two beats before a
/// chorus, a part in three. Found as the likeliest course of bar lengths, each change of length at a price; what bars
/// sound like is learned from the recording itself. Empty where bars of one length explain it about as well.
///
/// `usual`: steps of most bars; `begins`: how much each step sounds as if a bar began there, in units of log
/// likelihood.
BarCourse changedBars(const BarSteps& steps, int usual, const std::vector<double>& begins);

}  // namespace ochron
