#include "tune/melody.h"

#include <algorithm>
#include <cmath>

#include "base/median.h"

namespace ochron {
namespace {

constexpr double kTogether = 0.5;  // of the shorter note
constexpr double kOctave = 1200;   // cents

}  // namespace

std::vector<std::optional<double>> pitchesOf(std::span<const SungNote> melody, std::span<const SungNote> line) {
  std::vector<std::optional<double>> out(line.size());
  std::vector<double> off;
  std::size_t first = 0;
  for (std::size_t i = 0; i < line.size(); ++i) {
    const auto& n = line[i];
    while (first < melody.size() && melody[first].end <= n.start) ++first;
    double longest = 0;
    for (auto k = first; k < melody.size() && melody[k].start < n.end; ++k) {
      const auto& m = melody[k];
      const double together = std::min(n.end, m.end) - std::max(n.start, m.start);
      if (together <= longest || together < kTogether * std::min(n.end - n.start, m.end - m.start)) continue;
      longest = together;
      out[i] = centsOf(m.hertz);
    }
    if (out[i]) off.push_back(centsOf(n.hertz) - *out[i]);
  }
  if (off.empty()) return out;
  const double octaves = kOctave * std::round(medianOf(std::move(off)) / kOctave);
  for (auto& cents : out)
    if (cents) *cents += octaves;
  return out;
}

}  // namespace ochron
