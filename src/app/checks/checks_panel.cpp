#include "checks/checks_panel.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>

#include "seams/fix.h"
#include "theme/theme.h"

namespace ochron {
namespace {
constexpr int kTitle = 36;
constexpr int kRow = 38;
constexpr int kButtons = 26;  // under the current row
}  // namespace

ChecksPanel::ChecksPanel(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  setMinimumHeight(110);
  setFocusPolicy(Qt::TabFocus);
  setAccessibleName(tr("To look at"));
  setMouseTracking(true);
  for (auto signal : {&Document::songChanged, &Document::selectionChanged, &Document::seamsMeasured})
    connect(&doc_, signal, this, &ChecksPanel::refresh);
  connect(&Theme::get(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void ChecksPanel::refresh() {
  checks_ = doc_.checks();
  const auto now = doc_.currentHit();
  if (current_ >= std::ssize(checks_) ||
      (current_ >= 0 && (!now || checks_[static_cast<std::size_t>(current_)].hit != now->hit)))
    current_ = -1;
  if (current_ < 0 && now)
    for (std::size_t i = 0; i < checks_.size(); ++i)
      if (checks_[i].hit == now->hit) current_ = static_cast<int>(i);
  scroll_ =
      std::clamp(scroll_, 0, std::max(0, static_cast<int>(checks_.size()) * kRow + kButtons - (height() - kTitle)));
  update();
}

void ChecksPanel::go(int index) {
  if (index < 0 || index >= std::ssize(checks_)) return;
  current_ = index;
  const auto c = checks_[static_cast<std::size_t>(index)];
  scroll_ =
      std::clamp(scroll_, std::min(index * kRow, (index + 1) * kRow + kButtons - (height() - kTitle)), index * kRow);
  scroll_ = std::max(0, scroll_);
  doc_.setActiveSet(c.set);
  doc_.setCurrentHit(HitRef{c.take, c.hit});
  doc_.setCursor(c.at);
  if (doc_.hearing().whileStepping) doc_.hear();
  update();
}

const Check* ChecksPanel::current() const {
  return current_ < 0 || current_ >= std::ssize(checks_) ? nullptr : &checks_[static_cast<std::size_t>(current_)];
}

void ChecksPanel::accept() {
  const auto at = current_;
  if (!current()) return doc_.tell(tr("Step to a check first (N)."));
  doc_.acceptCheck(Check(*current()));
  settle(at);
}

void ChecksPanel::fix() {
  const auto at = current_;
  if (!current()) return doc_.tell(tr("Step to a check first (N)."));
  const Check check = *current();
  if (!doc_.edit(tr("Fix \"%1\"").arg(QString::fromStdString(check.title)),
                 fixCheck(doc_.song(), check.set, check, doc_.pool())))
    return;
  doc_.tell(tr("Done: %1. Undo takes it back.").arg(QString::fromStdString(fixName(check.kind))));
  settle(at);
}

/// The list goes on with what stands where the settled check stood.
void ChecksPanel::settle(int at) {
  if (checks_.empty()) return doc_.tell(tr("Nothing needs a look any more."));
  go(std::min(at, static_cast<int>(checks_.size()) - 1));
}

QRectF ChecksPanel::buttonBox(int index, bool fixButton) const {
  const double y = rowTop(index) + kRow - 2;
  const double right = width() - 14.0;
  return fixButton ? QRectF(30, y, right - 30 - 58, 20) : QRectF(right - 52, y, 52, 20);
}

void ChecksPanel::step(int by) {
  if (checks_.empty()) return doc_.tell(tr("Nothing needs a look."));
  go(std::clamp(current_ + by, 0, static_cast<int>(checks_.size()) - 1));
}

void ChecksPanel::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  paintGround(p, *this, sheet.panel);
  p.setFont(theme.font(13, 600));
  p.setPen(sheet.ink);
  p.drawText(QPointF(14, 23), tr("To look at"));
  p.setPen(checks_.empty() ? sheet.note : sheet.alarm);
  p.drawText(QRectF(0, 8, width() - 14, 20), Qt::AlignRight | Qt::AlignVCenter, QString::number(checks_.size()));
  if (checks_.empty()) {
    p.setFont(theme.font(12));
    p.setPen(sheet.note);
    p.drawText(QRectF(14, kTitle, width() - 28, 40), Qt::AlignLeft | Qt::TextWordWrap, tr("Nothing needs a look"));
    return;
  }
  p.setRenderHint(QPainter::Antialiasing);
  p.setClipRect(0, kTitle, width(), height() - kTitle);
  const auto& map = doc_.song().tempo;
  for (int i = 0; i < std::ssize(checks_); ++i) {
    const QRectF row(6, rowTop(i), width() - 12, kRow - 2 + (i == current_ ? kButtons : 0));
    if (row.bottom() < kTitle || row.top() > height()) continue;
    const auto& c = checks_[static_cast<std::size_t>(i)];
    if (i == current_) {
      p.setPen(Qt::NoPen);
      p.setBrush(sheet.selectionSoft);
      p.drawRoundedRect(row, 4, 4);
    }
    if (i == current_) {
      const auto button = [&](const QRectF& box, const QString& text) {
        p.setPen(QPen(box.contains(pointer_) ? sheet.selection : sheet.rule, 1));
        p.setBrush(sheet.paper);
        p.drawRoundedRect(box.adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
        p.setPen(sheet.ink);
        p.setFont(theme.font(11, 500));
        p.drawText(box, Qt::AlignCenter, text);
      };
      button(buttonBox(i, true), QString::fromStdString(fixName(c.kind)));
      button(buttonBox(i, false), tr("good"));
    }
    p.setPen(Qt::NoPen);
    p.setBrush(sheet.alarm);
    p.drawEllipse(QPointF(row.left() + 12, row.top() + 11), 3.5, 3.5);
    const auto at = map.position(map.toTicks(c.at));
    p.setPen(sheet.ink);
    p.setFont(theme.font(12, 500));
    p.drawText(QRectF(row.left() + 24, row.top() + 2, row.width() - 28, 17), Qt::AlignVCenter,
               QStringLiteral("%1.%2  %3").arg(at.bar + 1).arg(at.beat + 1).arg(QString::fromStdString(c.title)));
    p.setPen(sheet.note);
    p.setFont(theme.font(11));
    p.drawText(QRectF(row.left() + 24, row.top() + 18, row.width() - 28, 16), Qt::AlignVCenter,
               p.fontMetrics().elidedText(detailOf(c), Qt::ElideRight, static_cast<int>(row.width()) - 28));
  }
}

/// With the set's name where the song has several.
QString ChecksPanel::detailOf(const Check& check) const {
  const auto& song = doc_.song();
  const auto detail = QString::fromStdString(check.detail);
  const auto* set = song.find(check.set);
  return set && song.sets.size() > 1 && check.set != doc_.activeSet()
             ? QString::fromStdString(set->name) + ": " + detail
             : detail;
}

double ChecksPanel::rowTop(int index) const {
  return kTitle + index * kRow - scroll_ + (current_ >= 0 && index > current_ ? kButtons : 0);
}

void ChecksPanel::mousePressEvent(QMouseEvent* event) {
  const auto point = event->position();
  if (point.y() < kTitle) return;
  if (current() && buttonBox(current_, true).contains(point)) return fix();
  if (current() && buttonBox(current_, false).contains(point)) return accept();
  for (int i = 0; i < std::ssize(checks_); ++i)
    if (point.y() >= rowTop(i) && point.y() < rowTop(i) + kRow) return go(i);
}

void ChecksPanel::mouseMoveEvent(QMouseEvent* event) {
  pointer_ = event->position();
  update();
}

void ChecksPanel::wheelEvent(QWheelEvent* event) {
  scroll_ = std::clamp(scroll_ - event->angleDelta().y() / 2, 0,
                       std::max(0, static_cast<int>(checks_.size()) * kRow + kButtons - (height() - kTitle)));
  update();
}

void ChecksPanel::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Down)
    step(1);
  else if (event->key() == Qt::Key_Up)
    step(-1);
  else
    QWidget::keyPressEvent(event);
}

}  // namespace ochron
