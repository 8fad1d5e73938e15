#include "canvas/timing_graph.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <array>
#include <cmath>

#include "theme/theme.h"

namespace ochron {
namespace {
constexpr int kSideWidth = 84;
constexpr int kTitleHeight = 24;
constexpr int kBins = 21;

QString signedMs(double ms) { return (ms >= 0 ? "+" : "\u2212") + QString::number(std::abs(ms), 'f', 1); }
}  // namespace

TimingGraph::TimingGraph(Document& document, ViewState& view, QWidget* parent) : Row(document, view, parent) {
  setMinimumHeight(110);
  setAccessibleName(tr("Timing graph"));
  connect(&document, &Document::stepChanged, this, qOverload<>(&QWidget::update));
}

QRectF TimingGraph::plot() const {
  return {static_cast<double>(kGutterWidth), static_cast<double>(kTitleHeight),
          static_cast<double>(width() - kGutterWidth - kSideWidth), static_cast<double>(height() - kTitleHeight - 8)};
}

double TimingGraph::reachMs() const {
  double most = 12;
  for (const auto& h : doc_.planned().hits)
    if (h.line) most = std::max({most, std::abs(h.beforeMs), std::abs(h.afterMs)});
  for (const double r : {15.0, 25.0, 40.0, 60.0, 100.0, 160.0})
    if (most <= r * 0.95) return r;
  return 260;
}

double TimingGraph::yOf(double ms) const {
  const auto box = plot();
  return box.center().y() - ms / reachMs() * box.height() / 2;
}

void TimingGraph::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  p.fillRect(rect(), sheet.paper);
  p.fillRect(QRect(0, 0, kGutterWidth, height()), sheet.panel);
  p.setFont(theme.font(12.5, 600));
  p.setPen(sheet.ink);
  p.drawText(QPointF(14, 17), tr("Timing"));
  const auto& planned = doc_.planned();
  const auto stats = planned.stats();
  const auto box = plot();
  if (stats.count == 0) {
    p.setFont(theme.font(12));
    p.setPen(sheet.note);
    p.drawText(QRectF(kGutterWidth, 0, width() - kGutterWidth, height()), Qt::AlignCenter,
               doc_.song().tracks.empty() ? tr("The timing of every hit is drawn here")
                                          : tr("No hits yet. Open step 3 and find them"));
    return;
  }
  p.setFont(theme.font(11));
  p.setPen(sheet.note);
  const auto before =
      tr("before: mean %1, spread %2 ms").arg(signedMs(stats.meanBeforeMs)).arg(stats.spreadBeforeMs, 0, 'f', 1);
  p.drawText(QPointF(kGutterWidth + 10, 16), before);
  const double after = kGutterWidth + 34 + p.fontMetrics().horizontalAdvance(before);
  if (doc_.timing().on) {
    p.setFont(theme.font(11, 500));
    p.setPen(sheet.ink);
    p.drawText(QPointF(after, 16),
               tr("after: mean %1, spread %2 ms").arg(signedMs(stats.meanAfterMs)).arg(stats.spreadAfterMs, 0, 'f', 1));
  }
  const double tolerance = doc_.timing().toleranceMs;
  p.fillRect(QRectF(box.left(), yOf(std::max(tolerance, 0.4)), width() - box.left(),
                    yOf(-std::max(tolerance, 0.4)) - yOf(std::max(tolerance, 0.4))),
             sheet.selectionSoft);
  const double step = reachMs() <= 25 ? 10 : reachMs() <= 60 ? 20 : 50;
  p.setFont(theme.font(10.5));
  for (double ms = -std::floor(reachMs() / step) * step; ms <= reachMs(); ms += step) {
    p.setPen(ms == 0 ? sheet.rule : sheet.hairline);
    p.drawLine(QPointF(box.left(), std::floor(yOf(ms)) + 0.5), QPointF(box.right(), std::floor(yOf(ms)) + 0.5));
    p.setPen(ms > 0 ? sheet.late : ms < 0 ? sheet.early : sheet.note);
    const auto text = ms > 0 ? tr("late %1").arg(ms) : ms < 0 ? tr("early %1").arg(-ms) : QString("0");
    p.drawText(QRectF(0, yOf(ms) - 8, kGutterWidth - 8, 16), Qt::AlignRight | Qt::AlignVCenter, text);
  }
  p.setClipRect(box);
  paintRules(p, box.top(), box.bottom(), false);
  paintHits(p);
  paintPlayLine(p, box.top(), box.bottom());
  p.setClipping(false);
  paintHistogram(p);
  p.setPen(sheet.rule);
  p.drawLine(0, 0, width(), 0);
}

void TimingGraph::paintHits(QPainter& p) {
  const auto& sheet = Theme::get().sheet();
  const auto& hits = doc_.planned().hits;
  p.setRenderHint(QPainter::Antialiasing);
  const bool on = doc_.timing().on;
  // Whiskers first, then the drift curve, then the marks.
  auto faint = sheet.ink;
  faint.setAlphaF(0.16F);
  QPolygonF drift;
  for (std::size_t i = 0; i < hits.size(); ++i) {
    const auto& h = hits[i];
    if (!h.line || h.leader != i) continue;
    const double x = view_.xOf(h.line->frame);
    drift << QPointF(x, yOf(h.driftMs));
    if (x < kGutterWidth - 10 || x > width() + 10 || !on) continue;
    p.setPen(QPen(faint, 1));
    p.drawLine(QPointF(x, yOf(h.beforeMs)), QPointF(x, yOf(h.afterMs)));
  }
  p.setPen(QPen(sheet.inkSoft, 1.4));
  p.setBrush(Qt::NoBrush);
  p.drawPolyline(drift);
  const auto current = doc_.currentHit();
  for (std::size_t i = 0; i < hits.size(); ++i) {
    const auto& h = hits[i];
    if (!h.line) continue;
    const double x = view_.xOf(h.line->frame);
    if (x < kGutterWidth - 10 || x > width() + 10) continue;
    const auto tone = h.beforeMs >= 0 ? sheet.late : sheet.early;
    const double r = h.leader == i ? 2.8 : 1.8;
    p.setBrush(sheet.paper);
    p.setPen(QPen(tone, 1.3));
    p.drawEllipse(QPointF(x, yOf(h.beforeMs)), r, r);
    if (on) {
      p.setBrush(h.byHand ? sheet.selection : sheet.ink);
      p.setPen(Qt::NoPen);
      p.drawEllipse(QPointF(x, yOf(h.afterMs)), r - 0.4, r - 0.4);
    }
    if (current && current->hit == h.hit.id) {
      p.setBrush(Qt::NoBrush);
      p.setPen(QPen(sheet.selection, 1.6));
      p.drawEllipse(QPointF(x, yOf(on ? h.afterMs : h.beforeMs)), 6, 6);
    }
  }
}

void TimingGraph::paintHistogram(QPainter& p) {
  const auto& sheet = Theme::get().sheet();
  const auto box = plot();
  std::array<int, kBins> before{};
  std::array<int, kBins> after{};
  const auto bin = [&](double ms) {
    return static_cast<std::size_t>(
        std::clamp(static_cast<int>(std::lround((ms / reachMs() + 1) / 2 * (kBins - 1))), 0, kBins - 1));
  };
  int most = 1;
  const auto& hits = doc_.planned().hits;
  for (std::size_t i = 0; i < hits.size(); ++i) {
    if (!hits[i].line || hits[i].leader != i) continue;
    most = std::max(most, ++before[bin(hits[i].beforeMs)]);
    most = std::max(most, ++after[bin(hits[i].afterMs)]);
  }
  const double left = box.right() + 8;
  const double wide = kSideWidth - 16;
  const double tall = box.height() / (kBins - 1);
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setPen(sheet.hairline);
  p.drawLine(QPointF(box.right() + 3.5, box.top()), QPointF(box.right() + 3.5, box.bottom()));
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  for (int i = 0; i < kBins; ++i) {
    const double y = yOf((2.0 * i / (kBins - 1) - 1) * reachMs()) - tall / 2 + 0.5;
    // The square root keeps small counts visible beside a tall middle.
    const auto length = [&](int n) { return wide * std::sqrt(static_cast<double>(n) / most); };
    auto soft = sheet.inkSoft;
    soft.setAlphaF(0.45F);
    p.setBrush(soft);
    p.drawRect(QRectF(left, y, length(before[static_cast<std::size_t>(i)]), tall - 1));
    if (!doc_.timing().on) continue;
    p.setBrush(sheet.ink);
    p.drawRect(QRectF(left, y + tall * 0.25, length(after[static_cast<std::size_t>(i)]), tall * 0.5 - 0.5));
  }
}

void TimingGraph::mousePressEvent(QMouseEvent* event) {
  const auto& hits = doc_.planned().hits;
  const PlannedHit* best = nullptr;
  double bestDistance = 12;
  for (const auto& h : hits) {
    if (!h.line) continue;
    const double dx = view_.xOf(h.line->frame) - event->position().x();
    const double dy =
        std::min(std::abs(yOf(h.beforeMs) - event->position().y()), std::abs(yOf(h.afterMs) - event->position().y()));
    const double distance = std::hypot(dx, dy);
    if (distance < bestDistance) bestDistance = distance, best = &h;
  }
  if (best)
    doc_.setCurrentHit(HitRef{best->take, best->hit.id});
  else
    doc_.setCursor(view_.frameAt(event->position().x()));
}

}  // namespace ochron
