#pragma once

#include <QWidget>
#include <vector>

#include "document/document.h"
#include "seams/checks.h"

namespace ochron {

/// What deserves a look, the riskiest first. Click or step through with a key.
class ChecksPanel : public QWidget {
  Q_OBJECT
 public:
  ChecksPanel(Document& document, QWidget* parent);
  /// Goes to the next (or an earlier) check.
  void step(int by);
  /// The current check is good as it is, or is to be fixed in the plain way.
  void accept();
  void fix();
  int count() const { return static_cast<int>(checks_.size()); }

 protected:
  void paintEvent(QPaintEvent*) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  void refresh();
  void go(int index);
  void settle(int at);
  const Check* current() const;
  QString detailOf(const Check& check) const;
  double rowTop(int index) const;
  QRectF buttonBox(int index, bool fixButton) const;
  Document& doc_;
  std::vector<Check> checks_;
  int current_ = -1;
  int scroll_ = 0;
  QPointF pointer_;
};

}  // namespace ochron
