#pragma once

#include <QTimer>
#include <QWidget>
#include <functional>

#include "document/document.h"

namespace ochron {

/// Repaints a widget while something is dragged. Not all that shows the song is painted at each move of the pointer:
/// what leads (the lanes) and what stands beside (graph, loupe, song strip) take turns, and what was passed by is
/// painted as soon as nothing else waits. A move never waits for more than half the window, however large the song.
class PreviewTurns : public QObject {
  Q_OBJECT
 public:
  struct Part {
    std::function<bool()> leads;  ///< painted at every first move, else at every second one
    std::function<bool()> held;   ///< what is dragged lies on the widget: painted at every move
  };
  PreviewTurns(Document& document, QWidget& widget, Part part) : QObject(&widget) {
    idle_.setInterval(0);  // a timer of no length waits until no event does
    idle_.setSingleShot(true);
    connect(&idle_, &QTimer::timeout, &widget, qOverload<>(&QWidget::update));
    connect(&document, &Document::songPreviewed, this, [this, &widget, part = std::move(part)] {
      first_ = !first_;
      if (part.held() || part.leads() == first_)
        idle_.stop(), widget.update();
      else
        idle_.start();
    });
  }

 private:
  QTimer idle_;
  bool first_ = false;
};

}  // namespace ochron
