#pragma once

#include <QPainter>
#include <QRectF>

#include "document/pitch_desk.h"

namespace ochron {

/// One note: what was sung, its wander, what becomes of it; and its wave, with what is left untouched.
class NoteLoupe {
 public:
  NoteLoupe(Document& document, const QRectF& box) : doc_(document), box_(box) {}
  void paint(QPainter& p, const PitchDesk::Note& note) const;

 private:
  void paintTraces(QPainter& p, const PitchDesk::Note& note, const SungLine& line, const QRectF& plot) const;
  void paintWave(QPainter& p, const PitchDesk::Note& note, const SungLine& line, const QRectF& plot) const;

  Document& doc_;
  QRectF box_;
};

}  // namespace ochron
