#include "steps/kit/strength_graph.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <array>
#include <cmath>

#include "document/kit_desk.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr double kLowest = -42;  // dB, at the plot's foot
constexpr double kHighest = 6;
constexpr std::size_t kBars = 25;
constexpr double kNear = 8;  // px
constexpr double kDraggedOut = 26;
constexpr double kLeastFollow = 0.05;  // below which heights say nothing about points

}  // namespace

StrengthGraph::StrengthGraph(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setAccessibleName(tr("Level by strength"));
  setToolTip(
      tr("Drag the line of the threshold, or points of the curve; double-click adds a point, dragging it out or "
         "Delete takes it away"));
}

QRectF StrengthGraph::plot() const { return QRectF(rect()).adjusted(30, 8, -10, -20); }
double StrengthGraph::xOf(double strength) const { return plot().left() + strength * plot().width(); }
double StrengthGraph::yOf(double db) const {
  return plot().bottom() - (std::clamp(db, kLowest, kHighest) - kLowest) / (kHighest - kLowest) * plot().height();
}
double StrengthGraph::strengthAt(double x) const { return std::clamp((x - plot().left()) / plot().width(), 0.0, 1.0); }
double StrengthGraph::dbAt(double y) const {
  return std::clamp(kLowest + (plot().bottom() - y) / plot().height() * (kHighest - kLowest), kLowest, kHighest);
}

/// A point's own level where it is drawn at a height: what follows the strength by half is drawn half as low.
double StrengthGraph::pointDbAt(double y) const {
  const double follow = std::max(kLeastFollow, doc_.kitDesk().layer()->settings.follow / 100);
  return kCurveRange.clamp(std::round(dbAt(y) / follow * 10) / 10);
}

/// Those of the curve; of one that was not drawn yet, four that say the same.
std::vector<CurvePoint> StrengthGraph::points() const {
  const auto* l = doc_.kitDesk().layer();
  if (!l) return {};
  if (!l->curve.empty()) return l->curve;
  std::vector<CurvePoint> out;
  for (const double s : {0.05, 0.2, 0.5, 1.0}) out.push_back({s, std::round(curveDb(*l, s) * 10) / 10});
  return out;
}

void StrengthGraph::paintEvent(QPaintEvent*) {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const auto box = plot();
  const auto* l = doc_.kitDesk().layer();
  p.fillRect(box, sheet.paper);
  p.setFont(theme.font(10));
  for (const int db : {0, -12, -24, -36}) {
    p.setPen(sheet.hairline);
    p.drawLine(QPointF(box.left(), yOf(db)), QPointF(box.right(), yOf(db)));
    p.setPen(sheet.note);
    p.drawText(QRectF(0, yOf(db) - 7, 25, 14), Qt::AlignRight | Qt::AlignVCenter,
               db == 0 ? QStringLiteral("0") : QStringLiteral("\u2212%1").arg(-db));
  }
  p.setPen(sheet.note);
  p.drawText(QRectF(box.left(), box.bottom() + 4, box.width(), 14), Qt::AlignLeft, tr("soft"));
  p.drawText(QRectF(box.left(), box.bottom() + 4, box.width(), 14), Qt::AlignRight, tr("hard"));
  if (!l) {
    p.drawText(box, Qt::AlignCenter | Qt::TextWordWrap, emptyText());
    return;
  }
  std::array<int, kBars> bars{};
  int most = 1;
  for (const auto& s : doc_.kitDesk().strokesOf(l->id)) {
    auto& bar = bars[std::min(kBars - 1, static_cast<std::size_t>(s.strength * kBars))];
    most = std::max(most, ++bar);
  }
  const double wide = box.width() / kBars;
  for (std::size_t i = 0; i < kBars; ++i) {
    if (bars[i] == 0) continue;
    const double h = 0.62 * box.height() * bars[i] / most;
    const bool below = (static_cast<double>(i) + 0.5) / kBars < l->settings.threshold;
    auto ink = below ? sheet.hairline : sheet.inkSoft;
    ink.setAlphaF(below ? 1.0F : 0.55F);
    p.fillRect(QRectF(box.left() + static_cast<double>(i) * wide + 1, box.bottom() - h, wide - 2, h), ink);
  }
  if (l->settings.threshold > 0 || held_ == Held::threshold) {
    auto veil = sheet.panel;
    veil.setAlphaF(0.5F);
    p.fillRect(QRectF(box.left(), box.top(), xOf(l->settings.threshold) - box.left(), box.height()), veil);
  }
  p.setPen(QPen(sheet.late, held_ == Held::threshold ? 2.2 : 1.4));
  p.drawLine(QPointF(xOf(l->settings.threshold), box.top()), QPointF(xOf(l->settings.threshold), box.bottom()));
  QPainterPath curve;
  for (int i = 0; i <= 100; ++i) {
    const double s = i / 100.0;
    const QPointF at(xOf(s), yOf(l->settings.follow / 100 * curveDb(*l, s)));
    i == 0 ? curve.moveTo(at) : curve.lineTo(at);
  }
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(sheet.selection, 1.8));
  p.drawPath(curve);
  const auto all = points();
  for (std::size_t i = 0; i < all.size(); ++i) {
    const bool chosen = point_ == i;
    p.setPen(QPen(sheet.selection, 1.4));
    p.setBrush(chosen ? sheet.selection : sheet.paper);
    p.drawEllipse(QPointF(xOf(all[i].strength), yOf(l->settings.follow / 100 * all[i].db)), chosen ? 4.5 : 3.6,
                  chosen ? 4.5 : 3.6);
  }
  if (const auto* s = doc_.kitDesk().stroke()) {
    p.setPen(QPen(sheet.ink, 1, Qt::DotLine));
    p.drawLine(QPointF(xOf(s->strength), box.top()), QPointF(xOf(s->strength), box.bottom()));
  }
  if (hasFocus()) {
    p.setPen(QPen(sheet.selection, 1.5));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(box.adjusted(-2, -2, 2, 2), 3, 3);
  }
}

std::optional<std::size_t> StrengthGraph::pointAt(QPointF at) const {
  const auto* l = doc_.kitDesk().layer();
  if (!l) return {};
  const auto all = points();
  for (std::size_t i = 0; i < all.size(); ++i)
    if (std::hypot(xOf(all[i].strength) - at.x(), yOf(l->settings.follow / 100 * all[i].db) - at.y()) <= kNear)
      return i;
  return {};
}

void StrengthGraph::put(std::vector<CurvePoint> points, const QString& name, const QString& gesture) {
  doc_.kitDesk().change(
      name, [&](Layer& l) { l.curve = std::move(points); }, gesture);
}

void StrengthGraph::mousePressEvent(QMouseEvent* event) {
  const auto* l = doc_.kitDesk().layer();
  if (!l || event->button() != Qt::LeftButton) return;
  setFocus();
  point_ = pointAt(event->position());
  if (point_)
    held_ = Held::point;
  else if (std::abs(xOf(l->settings.threshold) - event->position().x()) <= kNear)
    held_ = Held::threshold;
  if (held_ != Held::nothing) grip_ = doc_.takeHold();
  update();
}

void StrengthGraph::mouseMoveEvent(QMouseEvent* event) {
  const auto* l = doc_.kitDesk().layer();
  if (!l) return;
  const auto at = event->position();
  if (held_ == Held::nothing) {
    const bool line = std::abs(xOf(l->settings.threshold) - at.x()) <= kNear;
    setCursor(pointAt(at) ? Qt::SizeAllCursor : line ? Qt::SplitHCursor : Qt::ArrowCursor);
    return;
  }
  if (held_ == Held::threshold) {
    const double s = std::round(strengthAt(at.x()) * 100) / 100;
    doc_.kitDesk().change(
        tr("Change from which strength on"), [s](Layer& x) { x.settings.threshold = s; }, QStringLiteral("threshold"));
    doc_.tell(tr("From strength %1 on").arg(s, 0, 'f', 2));
    return;
  }
  auto all = points();
  if (*point_ >= all.size()) return;
  auto& moved = all[*point_];
  const double low = *point_ > 0 ? all[*point_ - 1].strength + 0.01 : 0;
  const double high = *point_ + 1 < all.size() ? all[*point_ + 1].strength - 0.01 : 1;
  moved.strength = std::clamp(strengthAt(at.x()), low, std::max(low, high));
  moved.db = pointDbAt(at.y());
  doc_.tell(tr("Strength %1: %2 dB").arg(moved.strength, 0, 'f', 2).arg(moved.db, 0, 'f', 1));
  put(std::move(all), tr("Draw the level curve"), QStringLiteral("level curve"));
}

void StrengthGraph::mouseReleaseEvent(QMouseEvent* event) {
  const bool out =
      held_ == Held::point &&
      !QRectF(rect()).adjusted(-kDraggedOut, -kDraggedOut, kDraggedOut, kDraggedOut).contains(event->position());
  auto all = points();
  if (out && point_ && all.size() > 1) {
    all.erase(all.begin() + static_cast<std::ptrdiff_t>(*point_));
    put(std::move(all), tr("Draw the level curve"), QStringLiteral("level curve"));
    point_.reset();
  }
  held_ = Held::nothing;
  grip_ = {};
  update();
}

void StrengthGraph::mouseDoubleClickEvent(QMouseEvent* event) {
  const auto* l = doc_.kitDesk().layer();
  if (!l || pointAt(event->position())) return;
  auto all = points();
  const double s = strengthAt(event->position().x());
  const CurvePoint fresh{s, pointDbAt(event->position().y())};
  const auto at = std::lower_bound(all.begin(), all.end(), s,
                                   [](const CurvePoint& p, double strength) { return p.strength < strength; });
  point_ = static_cast<std::size_t>(at - all.begin());
  all.insert(at, fresh);
  put(std::move(all), tr("Add a point to the level curve"), {});
}

bool StrengthGraph::event(QEvent* event) {
  // The window's own keys for these are not meant while a point is chosen here.
  if (event->type() == QEvent::ShortcutOverride && point_) {
    const auto key = static_cast<QKeyEvent*>(event)->key();
    if (key == Qt::Key_Delete || key == Qt::Key_Up || key == Qt::Key_Down || key == Qt::Key_Left ||
        key == Qt::Key_Right)
      return event->accept(), true;
  }
  return QWidget::event(event);
}

void StrengthGraph::keyPressEvent(QKeyEvent* event) {
  auto all = points();
  if (!point_ || *point_ >= all.size()) {
    if (all.empty() || event->key() != Qt::Key_Return) return QWidget::keyPressEvent(event);
    point_ = 0;
    return update();
  }
  switch (event->key()) {
    case Qt::Key_Return: point_ = (*point_ + 1) % all.size(); return update();
    case Qt::Key_Delete:
      if (all.size() < 2) return;
      all.erase(all.begin() + static_cast<std::ptrdiff_t>(*point_));
      point_.reset();
      return put(std::move(all), tr("Take a point off the level curve"), {});
    case Qt::Key_Up: all[*point_].db = kCurveRange.clamp(all[*point_].db + 1); break;
    case Qt::Key_Down: all[*point_].db = kCurveRange.clamp(all[*point_].db - 1); break;
    default: return QWidget::keyPressEvent(event);
  }
  put(std::move(all), tr("Draw the level curve"), {});
}

QString StrengthGraph::emptyText() { return tr("Add a layer to see how loud it answers"); }

std::vector<ReadItem> StrengthGraph::readItems() const {
  std::vector<ReadItem> out;
  const auto* l = doc_.kitDesk().layer();
  if (!l) return {{emptyText(), QRectF(rect()), false, {}}};
  const auto box = plot();
  out.push_back({tr("from strength %1 on").arg(l->settings.threshold, 0, 'f', 2),
                 QRectF(xOf(l->settings.threshold) - kNear, box.top(), 2 * kNear, box.height())});
  const auto all = points();
  for (std::size_t i = 0; i < all.size(); ++i) {
    const double db = l->settings.follow / 100 * all[i].db;
    out.push_back({tr("point: strength %1, %2 dB").arg(all[i].strength, 0, 'f', 2).arg(db, 0, 'f', 1),
                   QRectF(xOf(all[i].strength) - kNear, yOf(db) - kNear, 2 * kNear, 2 * kNear), point_ == i});
  }
  return out;
}

}  // namespace ochron
