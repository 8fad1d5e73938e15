#include "song/pins.h"

#include <algorithm>
#include <cmath>

namespace ochron {

std::vector<EvenPiece> evenPieces(const Clip& clip) {
  const auto& pins = *clip.pins;
  if (pins.size() < 2) return {{clip.range(), clip.toTake(clip.start), clip.reversed ? -1.0 : 1.0}};
  std::vector<EvenPiece> out;
  for (std::size_t i = 0; i + 1 < pins.size(); ++i) {
    const auto& a = pins[i];
    const auto& b = pins[i + 1];
    const auto start = std::max(a.song, clip.start);
    const auto end = std::min(b.song, clip.end());
    if (end <= start) continue;
    const double speed = static_cast<double>((b.take - a.take).value) / static_cast<double>((b.song - a.song).value);
    out.push_back(
        {{start, end}, a.take + Frames{std::llround(static_cast<double>((start - a.song).value) * speed)}, speed});
  }
  return out;
}

}  // namespace ochron
