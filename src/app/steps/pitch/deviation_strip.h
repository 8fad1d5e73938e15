#pragma once

#include <QRectF>

class QPainter;

namespace ochron {

class Document;
class ViewState;

/// How far each note lies off the scale over time, as sung and as it is heard now: a light bar and an ink bar. `box` is
/// the strip without its gutter, whose figures stand to the left of it.
void paintDeviations(QPainter& p, const QRectF& box, Document& doc, const ViewState& view);

}  // namespace ochron
