#include "song/clip.h"

#include <algorithm>

namespace ochron {

std::vector<EvenPiece> Clip::pieces() const {
  auto out = map.pieces(window());
  for (auto& p : out) {
    if (!reversed) {
      p.range = {placed(p.range.start), placed(p.range.end)};
      continue;
    }
    const auto last = p.range.end - Frames{1};
    p = {{placed(last), placed(p.range.start) + Frames{1}}, map.take(last), -p.speed};
  }
  if (reversed) std::reverse(out.begin(), out.end());
  return out;
}

Clip shownOver(const Clip& clip, FrameRange song) {
  Clip out = clip;
  out.source = clip.unplaced(clip.reversed ? song.end - Frames{1} : song.start);
  out.start = song.start;
  out.length = song.length();
  return out;
}

}  // namespace ochron
