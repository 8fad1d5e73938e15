#pragma once

#include <QPainter>
#include <QRectF>

#include "document/document.h"

namespace ochron {

/// A bar line against the attack nearest to it, in every mic of the active set.
class BarLoupe {
 public:
  BarLoupe(Document& document, const QRectF& plot, double halfMs) : doc_(document), plot_(plot), halfMs_(halfMs) {}
  void paint(QPainter& p, int bar) const;

 private:
  Document& doc_;
  QRectF plot_;
  double halfMs_;
};

}  // namespace ochron
