#pragma once

#include <QToolButton>
#include <vector>

#include "document/document.h"
#include "steps/kit/kit_card.h"

namespace ochron {

/// One pattern in the panel: its name, how long it is, its strokes over its beats; chosen by a click or Return, laid at
/// the play line by its arrow.
class PatternCard : public KitCard {
  Q_OBJECT
 public:
  PatternCard(Document& document, PatternId pattern, QWidget* parent);
  PatternId pattern() const { return pattern_; }
  void refresh();

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void choose() override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;

 private:
  void paintStrokes(QPainter& p, const QRectF& into, const Pattern& pattern, bool chosen) const;

  void readStrengths(const Pattern& pattern);

  Document& doc_;
  PatternId pattern_;
  std::vector<double> strengths_;  ///< of the strokes, 0 to 1
  Shared<PatternStrokes> readOf_;  ///< the strokes and hits that they were read of
  Shared<HitList> readFrom_;
  QToolButton* lay_;
};

}  // namespace ochron
