#include "steps/timing/timing_graph.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <array>
#include <cmath>

#include "document/hit_desk.h"
#include "document/selection.h"
#include "document/thing_words.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "theme/theme.h"

namespace ochron {
namespace {
constexpr int kSideWidth = 84;
constexpr int kTitleHeight = 24;
}  // namespace

TimingGraph::TimingGraph(Document& document, ViewState& view, QWidget* parent) : Row(document, view, parent) {
  setMinimumHeight(110);
  setAccessibleName(tr("Timing graph"));
  connect(&document, &Document::stepChanged, this, qOverload<>(&QWidget::update));
  // What is planned is the timing desk's, and valid until the song changes.
  for (const auto signal : {&Document::songChanged, &Document::songPreviewed})
    connect(&document, signal, this, [this] { model_ = {}; });
}

QRectF TimingGraph::plot() const {
  return {static_cast<double>(kGutterWidth), static_cast<double>(kTitleHeight),
          static_cast<double>(width() - kGutterWidth - kSideWidth), static_cast<double>(height() - kTitleHeight - 8)};
}

const TimingGraph::Model& TimingGraph::model() const {
  const auto set = doc_.selection().set();
  if (model_.song == doc_.version() && model_.set == set) return model_;
  Model m;
  m.song = doc_.version();
  m.set = set;
  m.planned = &doc_.timingDesk().planned();
  m.stats = m.planned->stats();
  m.on = doc_.timingDesk().settings().on;
  double most = 12;
  for (const auto& h : m.planned->hits)
    if (h.line) most = std::max({most, std::abs(h.beforeMs), std::abs(h.afterMs)});
  m.reachMs = 260;
  for (const double r : {160.0, 100.0, 60.0, 40.0, 25.0, 15.0})
    if (most <= r * 0.95) m.reachMs = r;
  const auto bin = [&](double ms) {
    return static_cast<std::size_t>(
        std::clamp(static_cast<int>(std::lround((ms / m.reachMs + 1) / 2 * (kBins - 1))), 0, kBins - 1));
  };
  const auto& hits = m.planned->hits;
  for (std::size_t i = 0; i < hits.size(); ++i) {
    if (!hits[i].line || hits[i].leader != i) continue;
    m.most = std::max(m.most, ++m.before[bin(hits[i].beforeMs)]);
    m.most = std::max(m.most, ++m.after[bin(hits[i].afterMs)]);
  }
  return model_ = std::move(m);
}

double TimingGraph::reachMs() const { return heldReach_ > 0 ? heldReach_ : model().reachMs; }

double TimingGraph::yOf(double ms) const {
  const auto box = plot();
  return box.center().y() - ms / reachMs() * box.height() / 2;
}

void TimingGraph::paintEvent(QPaintEvent* event) {
  QPainter p(this);
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  paintEmptyRow(p, tr("Timing"));
  const auto& stats = model().stats;
  const auto box = plot();
  if (stats.count == 0) {
    p.setFont(theme.font(12));
    p.setPen(sheet.note);
    p.drawText(QRectF(kGutterWidth, 0, width() - kGutterWidth, height()), Qt::AlignCenter,
               doc_.song().tracks.empty() ? tr("The timing of every hit is drawn here")
               : doc_.hitDesk().finding() ? tr("Finding hits \u2026")
                                          : tr("No hits yet. Open the Hits step and find them"));
    return;
  }
  p.setFont(theme.font(11));
  p.setPen(sheet.note);
  const auto before =
      tr("before: mean %1, spread %2 ms").arg(signedMs(stats.meanBeforeMs)).arg(stats.spreadBeforeMs, 0, 'f', 1);
  p.drawText(QPointF(kGutterWidth + 10, 16), before);
  const double after = kGutterWidth + 34 + p.fontMetrics().horizontalAdvance(before);
  if (model().on) {
    p.setFont(theme.font(11, 500));
    p.setPen(sheet.ink);
    p.drawText(QPointF(after, 16),
               tr("after: mean %1, spread %2 ms").arg(signedMs(stats.meanAfterMs)).arg(stats.spreadAfterMs, 0, 'f', 1));
  }
  p.setPen(QPen(sheet.rule, 1));
  p.setBrush(pocket_ ? sheet.selectionSoft : sheet.paper);
  p.drawRoundedRect(pocketToggle().adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
  p.setPen(sheet.ink);
  p.setFont(theme.font(10.5, 500));
  p.drawText(pocketToggle(), Qt::AlignCenter, pocket_ ? tr("whole song") : tr("pocket in a bar"));
  const double tolerance = doc_.timingDesk().settings().toleranceMs;
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
  if (pocket_) {
    paintPocket(p);
  } else {
    paintRules(p, box.top(), box.bottom(), false);
    paintHits(p, event->rect());
    paintPlayLine(p, box.top(), box.bottom());
  }
  p.setClipping(false);
  if (event->rect().right() >= box.right()) paintHistogram(p);
  p.setPen(sheet.rule);
  p.drawLine(0, 0, width(), 0);
}

void TimingGraph::paintHits(QPainter& p, const QRectF& exposed) {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  const double ratio = devicePixelRatioF();
  const auto& hits = model().planned->hits;
  p.setRenderHint(QPainter::Antialiasing);
  const bool on = model().on;
  constexpr double kMark = 10;
  constexpr double kDriftStep = 3;
  const double left = exposed.left() - kMark;
  const double right = exposed.right() + kMark;
  // Whiskers first, then the drift curve, then the marks.
  auto faint = sheet.ink;
  faint.setAlphaF(0.16F);
  QPolygonF drift;
  std::vector<QLineF> whiskers;
  for (std::size_t i = 0; i < hits.size(); ++i) {
    const auto& h = hits[i];
    if (!h.line || h.leader != i) continue;
    const double x = view_.xOf(h.line->frame);
    // The curve from the last place before what is to be painted to the first one after it, a point each few pixels: it
    // is smooth.
    const QPointF point(x, yOf(h.driftMs));
    if (x < left)
      drift = {point};
    else if (drift.isEmpty() || (drift.back().x() <= right && x - drift.back().x() >= kDriftStep))
      drift << point;
    if (x < left || x > right || !on) continue;
    const double middle = std::floor(x) + 0.5;
    whiskers.emplace_back(middle, yOf(h.beforeMs), middle, yOf(h.afterMs));
  }
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setPen(QPen(faint, 1));
  p.drawLines(whiskers.data(), static_cast<int>(whiskers.size()));
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(sheet.inkSoft, 1.4));
  p.setBrush(Qt::NoBrush);
  p.drawPolyline(drift);
  const auto current = doc_.selection().hit();
  // Marks are looked up once, not for each of thousands of hits.
  const auto radius = [](bool leader) { return leader ? 2.8 : 1.8; };
  std::array<std::array<QPixmap, 2>, 2> rings;
  std::array<std::array<QPixmap, 2>, 2> dots;
  for (const std::size_t leader : {0U, 1U})
    for (const std::size_t other : {0U, 1U}) {
      const double r = radius(leader == 1);
      rings[leader][other] = theme.ring(other == 1 ? sheet.late : sheet.early, sheet.paper, r, ratio);
      dots[leader][other] = theme.dot(other == 1 ? sheet.selection : sheet.ink, r - 0.4, ratio);
    }
  for (std::size_t i = 0; i < hits.size(); ++i) {
    const auto& h = hits[i];
    if (!h.line) continue;
    const double x = view_.xOf(h.line->frame);
    if (x < left || x > right) continue;
    const std::size_t leader = h.leader == i ? 1 : 0;
    stamp(p, QPointF(x, yOf(h.beforeMs)), rings[leader][h.beforeMs >= 0 ? 1 : 0]);
    if (on) stamp(p, QPointF(x, yOf(h.afterMs)), dots[leader][h.byHand ? 1 : 0]);
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
  const auto& [song, set, planned, stats, reach, before, after, most, on] = model();
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
    if (!on) continue;
    p.setBrush(sheet.ink);
    p.drawRect(QRectF(left, y + tall * 0.25, length(after[static_cast<std::size_t>(i)]), tall * 0.5 - 0.5));
  }
}

const PlannedHit* TimingGraph::hitAt(QPointF point) const {
  const PlannedHit* best = nullptr;
  double bestDistance = 12;
  for (const auto& h : model().planned->hits) {
    if (!h.line) continue;
    const double dx = view_.xOf(h.line->frame) - point.x();
    if (std::abs(dx) >= bestDistance) continue;
    const double dy = std::min(std::abs(yOf(h.beforeMs) - point.y()), std::abs(yOf(h.afterMs) - point.y()));
    const double distance = std::hypot(dx, dy);
    if (distance < bestDistance) {
      bestDistance = distance;
      best = &h;
    }
  }
  return best;
}

void TimingGraph::mousePressEvent(QMouseEvent* event) {
  setFocus();
  if (pocketToggle().contains(event->position())) {
    pocket_ = !pocket_;
    return update();
  }
  const auto* hit = hitAt(event->position());
  if (!hit) return doc_.transport().setCursor(view_.frameAt(event->position().x()));
  doc_.selection().chooseHit(HitRef{hit->take, hit->hit.id});
  grabbed_ = HitRef{hit->take, hit->hit.id};
  line_ = hit->line->at;
  pressed_ = event->position();
  heldReach_ = reachMs();
}

/// Up is late: the target moves off its line by as many ms as the pointer stands above or below it.
void TimingGraph::mouseMoveEvent(QMouseEvent* event) {
  if (!(event->buttons() & Qt::LeftButton) || !grabbed_) {
    const bool over = hitAt(event->position()) || pocketToggle().contains(event->position());
    return setCursor(over ? Qt::PointingHandCursor : Qt::ArrowCursor);
  }
  if (!dragging_ && std::abs(event->position().y() - pressed_.y()) < 3) return;
  if (!doc_.timingDesk().settings().on || doc_.transport().original()) return;
  dragging_ = true;
  const auto box = plot();
  double ms =
      std::clamp((box.center().y() - event->position().y()) / (box.height() / 2) * reachMs(), -reachMs(), reachMs());
  if (std::abs(ms) < 0.6) ms = 0;  // the line itself draws near
  const auto map = doc_.song().tempo;
  const auto& overrides = doc_.song().find(doc_.selection().set())->plan->overrides;
  const auto found = overrides.find(grabbed_->hit);
  auto o = found == overrides.end() ? HitOverride{} : found->second;
  o.target = ms == 0 ? line_ : map.toTicks(map.toFrames(line_) + framesFromMs(ms, doc_.song().rate));
  o.frozen = false;
  doc_.timingDesk().overrideHit(tr("Move target"), grabbed_->hit, o, "target");
  emit gestureTold(tr("Target %1 ms off its line \u00b7 Escape takes it back").arg(signedMs(ms)));
}

void TimingGraph::dragEnded() {
  heldReach_ = 0;
  grabbed_.reset();
  dragging_ = false;
}

QRectF TimingGraph::pocketToggle() const {
  const auto& theme = Theme::get();
  return {width() - theme.px(90) - 6.0, 3, static_cast<double>(theme.px(90)), 18};
}

/// The pocket over one bar instead of the song: what the plan takes for the player's own placement.
void TimingGraph::paintPocket(QPainter& p) {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  const auto box = plot();
  const auto profile = doc_.timingDesk().planned().pocketProfile();
  if (profile.empty()) return;
  const auto meter = doc_.song().tempo.meterOfBar(0);
  const auto bar = static_cast<double>(meter.barLength().value);
  const auto xOf = [&](Ticks t) { return box.left() + 24 + static_cast<double>(t.value) / bar * (box.width() - 48); };
  p.setFont(theme.font(10.5));
  for (int beat = 0; beat < meter.beats; ++beat) {
    const double x = std::floor(xOf(meter.beatLength() * beat)) + 0.5;
    p.setPen(beat == 0 ? sheet.rule : sheet.hairline);
    p.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()));
    p.setPen(sheet.note);
    p.drawText(QPointF(x + 4, box.bottom() - 3), tr("beat %1").arg(beat + 1));
  }
  p.setRenderHint(QPainter::Antialiasing);
  const auto& s = doc_.timingDesk().settings();
  const auto most =
      std::max_element(profile.begin(), profile.end(), [](auto& a, auto& b) { return a.count < b.count; });
  for (const auto& place : profile) {
    if (static_cast<double>(place.inBar.value) >= bar) continue;
    const double x = xOf(place.inBar);
    const double y = yOf(std::clamp(place.meanMs, -reachMs(), reachMs()));
    const auto tone = place.meanMs >= 0 ? sheet.late : sheet.early;
    auto soft = tone;
    soft.setAlphaF(0.35F);
    p.setPen(Qt::NoPen);
    p.setBrush(soft);
    p.drawRect(QRectF(x - 3.5, std::min(yOf(0), y), 7, std::abs(y - yOf(0))));
    // Places that are played often stand out.
    const double r = 2.2 + 2.2 * std::sqrt(static_cast<double>(place.count) / most->count);
    p.setBrush(tone);
    p.drawEllipse(QPointF(x, y), r, r);
    if (!s.on) continue;
    p.setBrush(sheet.ink);
    p.drawEllipse(QPointF(x, yOf(place.meanMs * s.keepPocket / 100)), 2, 2);
  }
}

std::vector<ReadItem> TimingGraph::readItems() const {
  std::vector<ReadItem> out;
  const auto* chosen = doc_.selection().plannedHit();
  const auto shown = FrameRange{view_.frameAt(kGutterWidth), view_.frameAt(width())};
  for (const auto& h : model().planned->hits) {
    if (!h.line || !shown.contains(h.line->frame)) continue;
    constexpr double kHalf = 6;
    const QPointF at(view_.xOf(h.line->frame), yOf(h.beforeMs));
    out.push_back({hitWords(doc_.song(), h), QRectF(at.x() - kHalf, at.y() - kHalf, 2 * kHalf, 2 * kHalf),
                   chosen && chosen->hit.id == h.hit.id && chosen->take == h.take,
                   [this, ref = HitRef{h.take, h.hit.id}] { doc_.selection().chooseHit(ref); }});
  }
  return out;
}

}  // namespace ochron
