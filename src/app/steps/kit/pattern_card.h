#pragma once

#include <QToolButton>
#include <QWidget>

#include "document/document.h"

namespace ochron {

/// One pattern in the panel: its name, how long it is, its strokes over its beats; chosen by a click or Return, laid at
/// the play line by its arrow.
class PatternCard : public QWidget {
  Q_OBJECT
 public:
  PatternCard(Document& document, PatternId pattern, QWidget* parent);
  PatternId pattern() const { return pattern_; }
  void refresh();
  QSize sizeHint() const override { return {176, 62}; }

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;

 private:
  void paintStrokes(QPainter& p, const QRectF& into, const Pattern& pattern, bool chosen) const;

  Document& doc_;
  PatternId pattern_;
  QToolButton* lay_;
};

}  // namespace ochron
