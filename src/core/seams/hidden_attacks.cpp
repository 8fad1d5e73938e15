#include "seams/hidden_attacks.h"

#include <algorithm>

#include "base/units.h"

namespace ochron {
namespace {

constexpr double kBlockMs = 3;
constexpr int kBlocksBefore = 2;
constexpr double kRise = 8;
constexpr double kOfMean = 0.1;

}  // namespace

std::vector<Frames> attacksHeard(Frames from, Frames to, int rate, const EnergySums& sums) {
  const Frames block = framesFromMs(kBlockMs, rate);
  std::vector<Frames> out;
  for (std::size_t m = 0; m < sums.mics().size(); ++m) {
    double before = sums.energy(m, from - block * kBlocksBefore, from);
    double last = sums.energy(m, from - block, from);
    for (auto at = from; at + block <= to; at += block) {
      const double here = sums.energy(m, at, at + block);
      if (here > kRise * before && here > kOfMean * sums.mics()[m].power) out.push_back(at);
      before = (last + here) / kBlocksBefore;
      last = here;
    }
  }
  std::sort(out.begin(), out.end());
  return out;
}

}  // namespace ochron
