#pragma once

#include "canvas/envelope_curve.h"
#include "canvas/row.h"

namespace ochron {

/// The envelope of the whole song (gain or speed), or of an effect's control, under the ruler while it is shown.
class SongRow : public Row {
  Q_OBJECT
 public:
  SongRow(Document& document, ViewState& view, QWidget* parent);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;

 private:
  /// The envelope that is shown now.
  std::optional<EnvelopeRef> shown() const;
  EnvelopeLane lane() const;
  void refresh();
};

}  // namespace ochron
