#pragma once

#include <QWidget>

class QPainter;

namespace ochron {

/// Something of the kit in the panel: chosen by a click, Return or Space, with a frame that says whether it is.
class KitCard : public QWidget {
  Q_OBJECT
 public:
  KitCard(int height, QWidget* parent);
  QSize sizeHint() const override { return {176, height()}; }

 protected:
  virtual void choose() = 0;
  void paintFrame(QPainter& p, bool chosen) const;
  void mousePressEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
};

}  // namespace ochron
