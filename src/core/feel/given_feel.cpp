#include "feel/given_feel.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace ochron {
namespace {

constexpr std::size_t kFewDeviations = 4;  // fewer at one place: the whole bar's are drawn from
constexpr std::size_t kMostDeviations = 64;

/// The groove's place that a line stands for, if it knows of it.
std::optional<std::size_t> placeOf(const Groove& g, const TempoMap& map, const GridLine& line) {
  if (g.offsetsMs.empty()) return {};
  const auto into = (line.at - map.barStart(line.bar)).value % g.meter.barLength().value;
  const auto step = g.grid.step().value;
  if (into % step > step / 8 && into % step < step - step / 8) return {};
  return static_cast<std::size_t>((into + step / 2) / step) % g.offsetsMs.size();
}

/// SplitMix64 (Steele, Lea & Flood 2014): mixes a number into one that looks drawn by chance.
std::uint64_t mixed(std::uint64_t x) {
  x += 0x9e3779b97f4a7c15;
  x = (x ^ (x >> 30)) * 0xbf58476d1ce4e5b9;
  x = (x ^ (x >> 27)) * 0x94d049bb133111eb;
  return x ^ (x >> 31);
}

/// 0 to 1.
double drawn(std::uint64_t draw, const GridLine& line, DrumClass drum) {
  auto h = mixed(draw);
  h = mixed(h ^ static_cast<std::uint64_t>(line.at.value));
  h = mixed(h ^ static_cast<std::uint64_t>(drum));
  return static_cast<double>(h >> 11) * 0x1p-53;
}

/// The value below which `share` of the sorted deviations lie, straight between them.
double quantile(const std::vector<double>& sorted, double share) {
  const double at =
      std::clamp(share * static_cast<double>(sorted.size()) - 0.5, 0.0, static_cast<double>(sorted.size() - 1));
  const auto i = std::min(static_cast<std::size_t>(at), sorted.size() - 1);
  const auto next = std::min(i + 1, sorted.size() - 1);
  return std::lerp(sorted[i], sorted[next], at - static_cast<double>(i));
}

}  // namespace

double grooveMs(const TimingSettings& s, const TempoMap& map, const GridLine& line) {
  const auto place = s.groove ? placeOf(*s.groove, map, line) : std::nullopt;
  return place ? s.groove->offsetsMs[*place] * s.grooveAmount / 100.0 : 0;
}

double givenScatterMs(const TimingSettings& s, const TempoMap& map, const GridLine& line, DrumClass drum) {
  if (!s.groove || s.givenScatter <= 0) return 0;
  const auto& known = s.groove->scatterMs;
  const auto place = placeOf(*s.groove, map, line);
  std::vector<double> deviations;
  if (place && *place < known.size()) deviations = known[*place];
  if (deviations.size() < kFewDeviations) {
    deviations.clear();
    for (const auto& at : known) deviations.insert(deviations.end(), at.begin(), at.end());
    std::sort(deviations.begin(), deviations.end());
  }
  if (deviations.empty()) return 0;
  return quantile(deviations, drawn(static_cast<std::uint64_t>(s.scatterDraw), line, drum)) * s.givenScatter / 100.0;
}

std::vector<double> scatterProfile(std::vector<double> v) {
  if (v.size() < 2) return {};
  const double mean = std::accumulate(v.begin(), v.end(), 0.0) / static_cast<double>(v.size());
  for (auto& d : v) d -= mean;
  std::sort(v.begin(), v.end());
  if (v.size() <= kMostDeviations) return v;
  std::vector<double> out(kMostDeviations);
  for (std::size_t i = 0; i < out.size(); ++i)
    out[i] = quantile(v, (static_cast<double>(i) + 0.5) / static_cast<double>(kMostDeviations));
  return out;
}

void average(Groove& groove, const std::vector<int>& count) {
  for (std::size_t i = 0; i < count.size(); ++i)
    if (count[i] > 0) {
      groove.offsetsMs[i] /= count[i];
      groove.loudness[i] = std::min(1.0, groove.loudness[i] / count[i]);
    }
  for (auto& s : groove.scatterMs) s = scatterProfile(std::move(s));
}

}  // namespace ochron
