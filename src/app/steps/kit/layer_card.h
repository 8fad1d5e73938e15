#pragma once

#include <QToolButton>
#include <functional>

#include "document/document.h"
#include "steps/kit/kit_card.h"

namespace ochron {

/// One layer in the panel: its name, what it is made of, how it sounds; chosen by a click or Return, other sounds by
/// its arrows or by dropping a file on it.
class LayerCard : public KitCard {
  Q_OBJECT
 public:
  LayerCard(Document& document, LayerId layer, QWidget* parent);
  LayerId layer() const { return layer_; }
  void refresh();

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void choose() override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dropEvent(QDropEvent* event) override;

 private:
  Document& doc_;
  LayerId layer_;
  QToolButton* previous_;
  QToolButton* next_;
  QToolButton* on_;
};

}  // namespace ochron
