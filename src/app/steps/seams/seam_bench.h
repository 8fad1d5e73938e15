#pragma once

#include <QToolButton>
#include <QWidget>

#include "canvas/read_items.h"
#include "document/document.h"

namespace ochron {

/// The chosen seam drawn large: both pieces, the gains of the crossfade and how the level comes out, on the mic where
/// it comes out worst or on every mic.
class SeamBench : public QWidget, public ReadItems {
  Q_OBJECT
 public:
  SeamBench(Document& document, QWidget* parent);

  std::vector<ReadItem> readItems() const override;

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void wheelEvent(QWheelEvent* event) override;

 private:
  const Clip* seam() const;
  const Clip* first() const;
  TrackId worst(const Clip& later) const;

  Document& doc_;
  QToolButton* every_;
  double halfMs_ = 20;
};

}  // namespace ochron
