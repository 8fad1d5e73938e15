#include "feel/assign.h"

#include <algorithm>
#include <cmath>

namespace ochron {
namespace {

constexpr double kDistanceWeight = 0.5;  // low, so that a lasting lag does not win over steadiness
constexpr double kChangeWeight = 1.2;
constexpr double kMemorySteps = 16.0;    // a change costs half as much when this many steps lie between
constexpr double kUnplacedCost = 0.8;    // of a stroke at full strength
constexpr double kWeakestShare = 0.35;   // what a stroke without strength keeps of that cost
constexpr std::size_t kLinesAround = 2;  // candidates on either side
constexpr std::size_t kBeam = 16;

struct State {
  double cost = 0;
  std::size_t line = 0;  // last line used
  double deviation = 0;  // in frames, of the last placed stroke
  Frames at;             // of the last placed stroke
  bool placedAny = false;
  int before = -1;      // state in the previous column
  bool placed = false;  // this column's stroke was placed
};

/// The places a stroke may take: up to kLinesAround of its own grid on either side.
std::vector<std::size_t> candidatesFor(const Stroke& stroke, const std::vector<GridPlace>& places) {
  const auto next = std::lower_bound(places.begin(), places.end(), stroke.at,
                                     [](const GridPlace& l, Frames f) { return l.frame < f; });
  const auto middle = static_cast<std::size_t>(next - places.begin());
  const auto mine = [&](std::size_t i) { return (places[i].grids >> stroke.grid & 1u) != 0; };
  std::vector<std::size_t> out;
  for (std::size_t i = middle; i-- > 0 && out.size() < kLinesAround;)
    if (mine(i)) out.push_back(i);
  std::reverse(out.begin(), out.end());
  for (std::size_t i = middle, found = 0; i < places.size() && found < kLinesAround; ++i)
    if (mine(i)) {
      out.push_back(i);
      ++found;
    }
  return out;
}

}  // namespace

std::vector<std::optional<std::size_t>> assignToGrid(const std::vector<Stroke>& strokes,
                                                     const std::vector<GridPlace>& places) {
  std::vector<std::optional<std::size_t>> out(strokes.size());
  if (places.empty() || strokes.empty()) return out;
  std::vector<std::vector<State>> columns(strokes.size() + 1);
  columns[0].push_back({});
  for (std::size_t i = 0; i < strokes.size(); ++i) {
    const auto& stroke = strokes[i];
    const auto candidates = candidatesFor(stroke, places);
    auto& column = columns[i + 1];
    for (int s = 0; s < static_cast<int>(columns[i].size()); ++s) {
      const auto& from = columns[i][static_cast<std::size_t>(s)];
      for (const auto line : candidates) {
        if (from.placedAny && line <= from.line) continue;
        const auto deviation = static_cast<double>((stroke.at - places[line].frame).value);
        const double distance = deviation / stroke.step;
        double cost = from.cost + kDistanceWeight * distance * distance;
        if (from.placedAny) {
          const double gap = static_cast<double>((stroke.at - from.at).value) / stroke.step;
          const double change = (deviation - from.deviation) / stroke.step;
          cost += kChangeWeight * change * change / (1.0 + gap / kMemorySteps);
        }
        column.push_back({cost, line, deviation, stroke.at, true, s, true});
      }
      State free = from;
      free.cost += kUnplacedCost * (kWeakestShare + (1 - kWeakestShare) * std::clamp(stroke.strength, 0.0, 1.0));
      free.before = s;
      free.placed = false;
      column.push_back(free);
    }
    const auto keep = std::min(kBeam, column.size());
    std::partial_sort(column.begin(), column.begin() + static_cast<std::ptrdiff_t>(keep), column.end(),
                      [](const State& a, const State& b) { return a.cost < b.cost; });
    column.resize(keep);
  }
  int s = 0;
  for (std::size_t i = strokes.size(); i-- > 0;) {
    const auto& state = columns[i + 1][static_cast<std::size_t>(s)];
    if (state.placed) out[i] = state.line;
    s = state.before;
  }
  return out;
}

}  // namespace ochron
