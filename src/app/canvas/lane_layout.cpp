#include "canvas/lane_layout.h"

#include <algorithm>
#include <cmath>

#include "document/document.h"

namespace ochron {

QRectF LaneLayout::laneBox(int index) const {
  return {static_cast<double>(kGutterWidth), static_cast<double>(index * view_.laneHeight() - view_.laneScroll()),
          static_cast<double>(width() - kGutterWidth), static_cast<double>(view_.laneHeight())};
}

int LaneLayout::laneOf(TrackId track) const {
  const auto& tracks = doc_.song().tracks;
  const auto at = std::find_if(tracks.begin(), tracks.end(), [&](const Track& t) { return t.id == track; });
  return at == tracks.end() ? -1 : static_cast<int>(at - tracks.begin());
}

int LaneLayout::laneAt(double y) const {
  const int i = static_cast<int>(std::floor((y + view_.laneScroll()) / view_.laneHeight()));
  return i >= 0 && i < std::ssize(doc_.song().tracks) ? i : -1;
}

const MicSet* LaneLayout::setAt(double y) const {
  const int i = laneAt(y);
  return i < 0 ? nullptr : doc_.song().setOf(doc_.song().tracks[static_cast<std::size_t>(i)].id);
}

std::pair<double, double> LaneLayout::setBounds(const MicSet& set) const {
  double top = 1e9;
  double bottom = -1e9;
  for (const auto track : set.tracks) {
    const auto box = laneBox(laneOf(track));
    top = std::min(top, box.top());
    bottom = std::max(bottom, box.bottom());
  }
  return {top, bottom};
}

}  // namespace ochron
