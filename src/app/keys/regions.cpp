#include "keys/regions.h"

#include <QApplication>
#include <QEvent>
#include <QPainter>

#include "theme/theme.h"

namespace ochron {
namespace {

/// Drawn over a part of the window, and in nobody's way.
class Ring : public QWidget {
 public:
  explicit Ring(QWidget* window) : QWidget(window) {
    setObjectName("keys here");
    setAttribute(Qt::WA_TransparentForMouseEvents);
    setFocusPolicy(Qt::NoFocus);
    hide();
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    constexpr double kWide = 2;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(Theme::get().sheet().selection, kWide));
    p.drawRoundedRect(QRectF(rect()).adjusted(kWide / 2, kWide / 2, -kWide / 2, -kWide / 2), 3, 3);
  }
};

}  // namespace

Regions::Regions(QWidget* window, QList<QWidget*> parts) : QObject(window), window_(window), ring_(new Ring(window)) {
  qApp->installEventFilter(this);
  for (auto* p : parts) parts_.append(Part{p, {}});
  connect(qApp, &QApplication::focusChanged, this, [this](QWidget*, QWidget* to) {
    for (auto& p : parts_)
      if (to && (to == p.widget || p.widget->isAncestorOf(to))) p.last = to;
    if (!to || current() < 0 || ring_->geometry() != placeOf(parts_[current()].widget)) ring_->hide();
  });
}

QRect Regions::placeOf(const QWidget* part) const { return {part->mapTo(window_, QPoint()), part->size()}; }

void Regions::showRing(const QWidget* around) {
  ring_->setGeometry(placeOf(around));
  ring_->raise();
  ring_->show();
}

bool Regions::eventFilter(QObject* watched, QEvent* event) {
  const bool moved = event->type() == QEvent::Resize && watched == window_;
  if (moved || event->type() == QEvent::MouseButtonPress) ring_->hide();
  return false;
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
    to->setFocus(Qt::TabFocusReason);
    return showRing(part.widget);
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
