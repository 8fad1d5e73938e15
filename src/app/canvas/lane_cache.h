#pragma once

#include <QImage>
#include <map>
#include <set>
#include <vector>

#include "canvas/lane_painter.h"

namespace ochron {

/// Pictures of the lanes, kept between repaints: a lane is drawn again when the view, its track or its recordings
/// changed, and where its clips did.
class LaneCache {
 public:
  LaneCache(Document& document, ViewState& view) : doc_(document), view_(view), painter_(document, view) {}

  /// A repaint begins: where recordings begin in their takes may have changed.
  void begin();
  /// Shows what a track plays of `clips` in its lane's box, whole pixels of the lanes at `ratio` device pixels each.
  void paint(QPainter& p, const QRect& box, const Track& track, const MicSet& set, const Shared<ClipList>& clips,
             double ratio);
  /// Other recordings are at hand, or other colours.
  void forget() { drawn_.clear(); }
  /// Lanes out of sight take no room.
  void keepOnly(const std::set<TrackId>& tracks);

 private:
  /// What a picture was made of.
  struct Look {
    double first = 0;
    double perPixel = 0;
    QSize size;
    double ratio = 0;
    bool muted = false;
    std::ptrdiff_t place = 0;  // of the track in its set: the first has the names

    bool operator==(const Look&) const = default;
  };
  struct Drawn {
    Look look;
    Shared<ClipList> clips;
    QImage image;
  };
  void draw(Drawn& drawn, const QRect& part, const Track& track, const MicSet& set) const;

  Document& doc_;
  ViewState& view_;
  LanePainter painter_;
  std::map<TrackId, Drawn> drawn_;
  std::vector<std::vector<TakeMic>> mics_;  // of all takes, as drawn
};

}  // namespace ochron
