#include "keys/regions.h"

#include <QApplication>

namespace ochron {

Regions::Regions(QWidget* window, QList<QWidget*> parts) : QObject(window), window_(window) {
  for (auto* p : parts) parts_.append(Part{p, {}});
  connect(qApp, &QApplication::focusChanged, this, [this](QWidget*, QWidget* to) {
    for (auto& p : parts_)
      if (to && (to == p.widget || p.widget->isAncestorOf(to))) p.last = to;
  });
}

bool Regions::takesKeys(const QWidget* w, const QWidget* in) {
  return (w == in || in->isAncestorOf(w)) && w->isVisible() && w->isEnabled() && w->focusPolicy() & Qt::TabFocus &&
         !w->focusProxy();
}

QWidget* Regions::firstIn(QWidget* part) {
  auto* w = part;
  do {
    if (takesKeys(w, part)) return w;
    w = w->nextInFocusChain();
  } while (w != part);
  return nullptr;
}

int Regions::current() const {
  const auto* focus = window_->focusWidget();
  for (int i = 0; i < parts_.size(); ++i)
    if (focus && (focus == parts_[i].widget || parts_[i].widget->isAncestorOf(focus))) return i;
  return -1;
}

void Regions::step(int by) {
  const int count = static_cast<int>(parts_.size());
  const int from = current() < 0 && by < 0 ? 0 : current();  // from outside: the first, or the last
  for (int k = 1; k <= count; ++k) {
    auto& part = parts_[((from + by * k) % count + count) % count];
    if (!part.widget->isVisible()) continue;
    auto* to = part.last && takesKeys(part.last, part.widget) ? part.last.data() : firstIn(part.widget);
    if (!to) continue;
    return to->setFocus(Qt::TabFocusReason);
  }
}

bool Regions::stepInside(bool next) {
  const int at = current();
  if (at < 0) return false;
  const auto* part = parts_[at].widget;
  auto* from = window_->focusWidget();
  for (auto* w = next ? from->nextInFocusChain() : from->previousInFocusChain(); w != from;
       w = next ? w->nextInFocusChain() : w->previousInFocusChain())
    if (takesKeys(w, part)) {
      w->setFocus(next ? Qt::TabFocusReason : Qt::BacktabFocusReason);
      return true;
    }
  return true;
}

}  // namespace ochron
