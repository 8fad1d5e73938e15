#pragma once

#include <QWidget>
#include <utility>

#include "canvas/view_state.h"
#include "song/song.h"

namespace ochron {

class Document;

/// Where the lanes are: one a track, one under the other, in the pixels of the widget they stand on.
class LaneLayout {
 public:
  LaneLayout(const Document& document, const ViewState& view, const QWidget& on)
      : doc_(document), view_(view), on_(on) {}

  int width() const { return on_.width(); }
  int height() const { return on_.height(); }
  double devicePixelRatio() const { return on_.devicePixelRatioF(); }
  QRectF laneBox(int index) const;
  /// Index of a track's lane, or of the lane at a height; -1 when there is none.
  int laneOf(TrackId track) const;
  int laneAt(double y) const;
  /// The set whose lane is at a height; null when there is none.
  const MicSet* setAt(double y) const;
  /// Top and bottom of a set's lanes.
  std::pair<double, double> setBounds(const MicSet& set) const;

 private:
  const Document& doc_;
  const ViewState& view_;
  const QWidget& on_;
};

}  // namespace ochron
