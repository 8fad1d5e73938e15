#include "time/grid.h"

#include <charconv>
#include <cmath>
#include <cstdlib>

namespace ochron {
namespace {

bool readFraction(std::string_view text, int& top, int& bottom, std::string_view& rest) {
  const auto* end = text.data() + text.size();
  auto a = std::from_chars(text.data(), end, top);
  if (a.ec != std::errc{} || a.ptr == end || *a.ptr != '/') return false;
  auto b = std::from_chars(a.ptr + 1, end, bottom);
  rest = std::string_view(b.ptr, static_cast<std::size_t>(end - b.ptr));
  return b.ec == std::errc{};
}

void appendBar(const TempoMap& map, const Grid& grid, int bar, std::vector<GridLine>& out) {
  const auto start = map.barStart(bar);
  const auto length = map.barStart(bar + 1) - start;
  const auto step = grid.step();
  for (int place = 0; step * place < length; ++place) {
    auto into = step * place;
    if (place % 2 == 1)
      into = step * (place - 1) + Ticks{std::llround(static_cast<double>(step.value) * grid.swing / 50.0)};
    if (into >= length) break;
    out.push_back({start + into, map.toFrames(start + into), bar, place});
  }
}

}  // namespace

Ticks Grid::step() const {
  const std::int64_t straight = 4 * kTicksPerQuarter / denominator;
  switch (kind) {
    case StepKind::straight: return Ticks{straight};
    case StepKind::triplet: return Ticks{straight * 2 / 3};
    case StepKind::dotted: return Ticks{straight * 3 / 2};
  }
  std::abort();
}

Result<Grid> parseGrid(std::string_view text) {
  Grid grid;
  int top = 0;
  std::string_view rest;
  const bool ok = readFraction(text, top, grid.denominator, rest) && top == 1 && grid.denominator >= 1 &&
                  grid.denominator <= 64 && (grid.denominator & (grid.denominator - 1)) == 0;
  if (ok && rest.empty()) return grid;
  if (ok && (rest == "t" || rest == "T")) {
    grid.kind = StepKind::triplet;
    return grid;
  }
  if (ok && (rest == "d" || rest == "D")) {
    grid.kind = StepKind::dotted;
    return grid;
  }
  return fail(ErrorKind::badInput,
              "\"" + std::string(text) + "\" is not a grid: write 1/1 to 1/64, with t for triplets or d for dotted.");
}

std::string toText(const Grid& grid) {
  const char* suffix = grid.kind == StepKind::triplet ? "t" : grid.kind == StepKind::dotted ? "d" : "";
  return "1/" + std::to_string(grid.denominator) + suffix;
}

Result<Meter> parseMeter(std::string_view text) {
  Meter meter;
  std::string_view rest;
  if (!readFraction(text, meter.beats, meter.unit, rest) || !rest.empty() || meter.beats < 1 || meter.beats > 64 ||
      meter.unit < 1 || meter.unit > 64 || (meter.unit & (meter.unit - 1)) != 0)
    return fail(ErrorKind::badInput, "\"" + std::string(text) + "\" is not a meter: write for example 4/4 or 7/8.");
  return meter;
}

std::string toText(Meter meter) { return std::to_string(meter.beats) + "/" + std::to_string(meter.unit); }

std::vector<GridLine> gridLines(const TempoMap& map, const Grid& grid, Ticks from, Ticks to) {
  std::vector<GridLine> lines;
  if (to <= from) return lines;
  const int last = map.barAt(to);
  for (int bar = map.barAt(from); bar <= last; ++bar) appendBar(map, grid, bar, lines);
  std::erase_if(lines, [&](const GridLine& l) { return l.at < from || l.at >= to; });
  return lines;
}

GridLine nearestLine(const TempoMap& map, const Grid& grid, Ticks t) {
  const int bar = map.barAt(t);
  std::vector<GridLine> lines;
  appendBar(map, grid, bar, lines);
  appendBar(map, grid, bar + 1, lines);
  GridLine best = lines.front();
  for (const auto& l : lines)
    if (std::abs((l.at - t).value) < std::abs((best.at - t).value)) best = l;
  return best;
}

}  // namespace ochron
