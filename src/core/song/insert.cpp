#include "song/insert.h"

#include <algorithm>
#include <cmath>

#include "terms/bend.h"

namespace ochron {

double MovedControl::at(Frames place) const {
  const auto next =
      std::upper_bound(points.begin(), points.end(), place, [](Frames f, const EnvelopePoint& p) { return f < p.at; });
  if (next == points.begin()) return next == points.end() ? low : next->value;
  const auto& a = *(next - 1);
  if (next == points.end() || way == ControlWay::steps) return a.value;
  const double x =
      bent(static_cast<double>((place - a.at).value) / static_cast<double>((next->at - a.at).value), a.bend);
  return way == ControlWay::octaves ? a.value * std::pow(next->value / a.value, x)
                                    : a.value + (next->value - a.value) * x;
}

}  // namespace ochron
