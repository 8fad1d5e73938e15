#pragma once

#include <QEvent>
#include <QWidget>
#include <functional>

#include "document/document.h"
#include "document/selection.h"

namespace ochron {

/// Keeps a widget as what it shows is: at once while it is in sight, else when it comes into sight. A drag costs
/// nothing in pages that nobody sees. For a widget that hides itself `widget` is the one it stands in.
class Fresh : public QObject {
 public:
  Fresh(QWidget* widget, std::function<void()> refresh)
      : QObject(widget), widget_(widget), refresh_(std::move(refresh)) {
    widget->installEventFilter(this);
  }
  template <class Sender, class Signal>
  Fresh& on(const Sender* sender, Signal signal) {
    connect(sender, signal, this, &Fresh::changed);
    return *this;
  }
  Fresh& onSong(const Document& doc) { return on(&doc, &Document::songChanged).on(&doc, &Document::songPreviewed); }
  Fresh& on(Selection& selection, Selection::Parts parts) {
    selection.watch(parts, this, [this] { changed(); });
    return *this;
  }
  void changed() {
    stale_ = !widget_->isVisible();
    if (!stale_) refresh_();
  }

 protected:
  bool eventFilter(QObject*, QEvent* event) override {
    if (event->type() == QEvent::Show && stale_) {
      stale_ = false;
      refresh_();
    }
    return false;
  }

 private:
  QWidget* widget_;
  std::function<void()> refresh_;
  bool stale_ = false;
};

}  // namespace ochron
