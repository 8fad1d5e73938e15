#include "song/take_map.h"

#include <algorithm>
#include <cmath>

namespace ochron {
namespace {

double ratio(Frames a, Frames b) { return static_cast<double>(a.value) / static_cast<double>(b.value); }
Frames scaled(Frames x, double by) { return Frames{std::llround(static_cast<double>(x.value) * by)}; }

double speedBetween(const Pin& a, const Pin& b) { return ratio(b.take - a.take, b.stretched - a.stretched); }

}  // namespace

bool TakeMap::valid() const {
  const auto& p = *pins_;
  for (std::size_t i = 1; i < p.size(); ++i)
    if (p[i].take <= p[i - 1].take || p[i].stretched <= p[i - 1].stretched) return false;
  return p.size() != 1;
}

Frames TakeMap::toStretched(Frames take) const {
  const auto& p = *pins_;
  const auto b = std::upper_bound(p.begin(), p.end(), take, [](Frames f, const Pin& x) { return f < x.take; });
  if (b == p.begin()) return take + (b->stretched - b->take);
  const auto a = b - 1;
  if (b == p.end()) return take + (a->stretched - a->take);
  return a->stretched + scaled(take - a->take, ratio(b->stretched - a->stretched, b->take - a->take));
}

Frames TakeMap::toTake(Frames stretched) const {
  const auto& p = *pins_;
  const auto b =
      std::upper_bound(p.begin(), p.end(), stretched, [](Frames f, const Pin& x) { return f < x.stretched; });
  if (b == p.begin()) return stretched - (b->stretched - b->take);
  const auto a = b - 1;
  if (b == p.end()) return stretched - (a->stretched - a->take);
  return a->take + scaled(stretched - a->stretched, speedBetween(*a, *b));
}

std::vector<EvenPiece> TakeMap::pieces(FrameRange range) const {
  if (identity()) return {{range, range.start, 1.0}};
  std::vector<EvenPiece> out;
  const auto& p = *pins_;
  auto at = range.start;
  auto next = std::upper_bound(p.begin(), p.end(), at, [](Frames f, const Pin& x) { return f < x.stretched; });
  while (at < range.end) {
    const auto end = next == p.end() ? range.end : std::min(range.end, next->stretched);
    const bool between = next != p.begin() && next != p.end();
    out.push_back({{at, end}, take(at), between ? speedBetween(*(next - 1), *next) : 1.0});
    at = end;
    if (next != p.end()) ++next;
  }
  return out;
}

}  // namespace ochron
