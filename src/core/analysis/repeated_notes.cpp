#include "analysis/repeated_notes.h"

#include <algorithm>
#include <cmath>

namespace ochron {
namespace {

constexpr double kOneOnset = 0.05;  // s between a break and the onset it belongs to
constexpr double kFromEnds = 0.06;  // s
constexpr double kRepeat = 0.09;    // s from one note to the next of its pitch

struct Joint {
  double at = 0;
  double score = 0;
};

/// The surest onset that may be the one of a break.
const NoteOnset* onsetOf(const std::vector<NoteOnset>& onsets, double at) {
  const NoteOnset* best = nullptr;
  for (const auto& o : onsets)
    if (std::abs(o.at - at) < kOneOnset && (best == nullptr || o.sure > best->sure)) best = &o;
  return best;
}

double scoreOf(const CycleBreak& b, const NoteOnset* onset) {
  constexpr double kOffset = -5.8;
  constexpr double kOfUsual = 1.5;
  constexpr double kOfMost = 1.5;
  constexpr double kOfSure = 4.9;
  return kOffset + b.weighed(kOfUsual, kOfMost) + kOfSure * (onset != nullptr ? onset->sure : 0.0);
}

}  // namespace

std::vector<double> repeatsWithin(const CycleBreaks& breaks, const std::vector<NoteOnset>& onsets, double start,
                                  double end) {
  std::vector<Joint> joints;
  const auto consider = [&](double at) {
    const auto broken = breaks.at(at);
    if (!broken) return;
    const auto* onset = onsetOf(onsets, at);
    const Joint j{onset != nullptr ? onset->at : at, scoreOf(*broken, onset)};
    if (j.score > 0 && j.at > start + kFromEnds && j.at < end - kFromEnds) joints.push_back(j);
  };
  for (const double at : breaks.places()) consider(at);
  for (const auto& o : onsets) consider(o.at);
  std::sort(joints.begin(), joints.end(), [](const Joint& a, const Joint& b) { return a.score > b.score; });
  std::vector<double> out;
  for (const auto& j : joints)
    if (std::none_of(out.begin(), out.end(), [&](double t) { return std::abs(t - j.at) < kRepeat; }))
      out.push_back(j.at);
  std::sort(out.begin(), out.end());
  return out;
}

}  // namespace ochron
