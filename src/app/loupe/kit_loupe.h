#pragma once

#include <QPainter>
#include <QRectF>

#include "document/document.h"
#include "kit/layer_sounds.h"

namespace ochron {

/// A stroke as its mic hears it, the layer's sound, and both together, on one scale; with what they do to each other in
/// three bands.
class KitLoupe {
 public:
  KitLoupe(Document& document, const QRectF& box, double halfMs) : doc_(document), box_(box), halfMs_(halfMs) {}
  /// Of the stroke that is looked at (KitDesk::stroke).
  void paint(QPainter& p) const;

 private:
  const PlayedSound* playedNow(TrackId track, std::size_t sound) const;
  void paintStrip(QPainter& p, const QRectF& strip, const QString& name, const std::vector<float>& samples, float peak,
                  const QColor& ink) const;

  Document& doc_;
  QRectF box_;
  double halfMs_;
};

}  // namespace ochron
