#include "guide/tour.h"

#include <QEvent>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>

#include "theme/theme.h"

namespace ochron {
namespace {

constexpr int kWide = 300;
constexpr int kMargin = 18;
constexpr int kBeside = 14;  // pixels from what it speaks of

/// A line around what is spoken of; clicks go through it.
class Outline : public QWidget {
 public:
  explicit Outline(QWidget* window) : QWidget(window) {
    setAttribute(Qt::WA_TransparentForMouseEvents);
    setAttribute(Qt::WA_NoSystemBackground);
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    auto glow = Theme::get().sheet().selection;
    p.setBrush(Qt::NoBrush);
    glow.setAlphaF(0.25F);
    p.setPen(QPen(glow, 6));
    p.drawRoundedRect(QRectF(rect()).adjusted(3, 3, -3, -3), 7, 7);
    p.setPen(QPen(Theme::get().sheet().selection, 2));
    p.drawRoundedRect(QRectF(rect()).adjusted(3, 3, -3, -3), 6, 6);
  }
};

}  // namespace

Tour::Tour(QWidget* window, std::vector<Stop> stops) : QFrame(window), stops_(std::move(stops)) {
  setObjectName("tour");
  setAccessibleName(tr("A look around"));
  setFixedWidth(kWide);
  setFocusPolicy(Qt::StrongFocus);
  outline_ = new Outline(window);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(kMargin, 14, kMargin, 14);
  column->setSpacing(8);
  const auto label = [&](double px, int weight) {
    auto* l = new QLabel(this);
    l->setFont(Theme::get().font(px, weight));
    l->setWordWrap(true);
    column->addWidget(l);
    return l;
  };
  title_ = label(14.5, 600);
  text_ = label(12.5, 400);
  column->addSpacing(4);
  auto* line = new QHBoxLayout;
  line->setSpacing(8);
  count_ = new QLabel(this);
  count_->setProperty("note", true);
  line->addWidget(count_, 1);
  auto* skip = new QPushButton(tr("Skip"), this);
  skip->setObjectName("tour skip");
  back_ = new QPushButton(tr("Back"), this);
  back_->setObjectName("tour back");
  next_ = new QPushButton(this);
  next_->setObjectName("tour next");
  next_->setProperty("primary", true);
  for (auto* b : {skip, back_, next_}) {
    b->setProperty("small", true);
    line->addWidget(b);
  }
  column->addLayout(line);
  connect(skip, &QPushButton::clicked, this, &Tour::leave);
  connect(back_, &QPushButton::clicked, this, [this] { go(at_ - 1); });
  connect(next_, &QPushButton::clicked, this, [this] { at_ + 1 < count() ? go(at_ + 1) : leave(); });
  window->installEventFilter(this);
  go(0);
}

void Tour::go(int stop) {
  at_ = std::clamp(stop, 0, count() - 1);
  const auto& s = stops_[static_cast<std::size_t>(at_)];
  if (s.before) s.before();
  title_->setText(s.title);
  text_->setText(s.text);
  count_->setText(tr("%1 of %2").arg(at_ + 1).arg(count()));
  back_->setEnabled(at_ > 0);
  next_->setText(at_ + 1 < count() ? tr("Next") : tr("Done"));
  settle();
  next_->setFocus();
}

/// Beside its place, where there is room.
void Tour::settle() {
  for (auto* label : {title_, text_}) label->setFixedHeight(label->heightForWidth(kWide - 2 * kMargin));
  layout()->activate();
  adjustSize();
  const auto all = parentWidget()->rect().adjusted(8, 8, -8, -8);
  const auto place = stops_[static_cast<std::size_t>(at_)].place();
  outline_->setVisible(!place.isEmpty());
  outline_->setGeometry(place.adjusted(-4, -4, 4, 4).intersected(parentWidget()->rect()));
  outline_->raise();
  QPoint to = all.center() - rect().center();
  if (!place.isEmpty()) {
    const int middle = place.center().y() - height() / 2;
    if (place.right() + kBeside + width() < all.right())
      to = {place.right() + kBeside, middle};
    else if (place.left() - kBeside - width() > all.left())
      to = {place.left() - kBeside - width(), middle};
    else if (place.bottom() + kBeside + height() < all.bottom())
      to = {place.center().x() - width() / 2, place.bottom() + kBeside};
    else
      to = {place.center().x() - width() / 2, place.top() - kBeside - height()};
  }
  to.setX(std::clamp(to.x(), all.left(), std::max(all.left(), all.right() - width())));
  to.setY(std::clamp(to.y(), all.top(), std::max(all.top(), all.bottom() - height())));
  move(to);
  show();
  raise();
}

void Tour::leave() {
  hide();
  outline_->hide();
  outline_->deleteLater();
  deleteLater();
}

bool Tour::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::Resize && isVisible()) settle();
  return QFrame::eventFilter(watched, event);
}

/// Its keys are no commands while it has the focus.
bool Tour::event(QEvent* event) {
  if (event->type() == QEvent::ShortcutOverride) {
    const int key = static_cast<QKeyEvent*>(event)->key();
    if (key == Qt::Key_Escape || key == Qt::Key_Left || key == Qt::Key_Right || key == Qt::Key_Return) event->accept();
  }
  return QFrame::event(event);
}

void Tour::keyPressEvent(QKeyEvent* event) {
  switch (event->key()) {
    case Qt::Key_Escape: return leave();
    case Qt::Key_Right:
    case Qt::Key_Return: return at_ + 1 < count() ? go(at_ + 1) : leave();
    case Qt::Key_Left: return go(at_ - 1);
    default: QFrame::keyPressEvent(event);
  }
}

void Tour::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const auto& sheet = Theme::get().sheet();
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(sheet.rule, 1));
  p.setBrush(sheet.field);
  p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 8, 8);
}

}  // namespace ochron
