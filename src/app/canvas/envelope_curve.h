#pragma once

#include <QPainter>
#include <functional>
#include <memory>
#include <optional>

#include "canvas/gesture.h"
#include "canvas/snap.h"
#include "edits/mark_edits.h"

namespace ochron {

/// One envelope as it stands on the canvas: which, in which box, and between which song times.
struct EnvelopeLane {
  EnvelopeRef ref;
  EnvelopeScale scale;
  QRectF box;
  std::optional<Clip> clip = {};  ///< of clip envelopes, whose places are take time

  Frames toSong(Frames at) const { return clip ? clip->toSong(at) : at; }
  Frames fromSong(Frames at) const { return clip ? clip->toTake(at) : at; }
  /// Height of a value, and the value at a height.
  double yOf(double value) const;
  double valueAtY(double y) const;
};

struct EnvelopeSpot {
  EnvelopeLane lane;
  std::optional<Frames> point;  ///< none: on the line, after `before`
  std::optional<Frames> before;
  bool operator==(const EnvelopeSpot& o) const {
    return lane.ref == o.lane.ref && point == o.point && before == o.before;
  }
};

/// "−6.0 dB", "120 %", "muted".
QString envelopeText(const EnvelopeScale& scale, double value);

void paintEnvelope(QPainter& p, Document& doc, ViewState& view, const EnvelopeLane& lane, bool active);
/// What of the envelope is under a point: a point of it, or its line.
std::optional<EnvelopeSpot> envelopeSpot(Document& doc, ViewState& view, const EnvelopeLane& lane, QPointF at);
/// Dragging a point moves it, dragging the line bends it.
std::unique_ptr<Gesture> envelopeDrag(Document& doc, ViewState& view, QPointF from, const EnvelopeSpot& spot,
                                      std::function<void(const QString&)> tell);
/// A double click: removes the point it hits, or puts one where it is.
void envelopeDoubleClick(Document& doc, ViewState& view, const EnvelopeLane& lane, QPointF at);

}  // namespace ochron
