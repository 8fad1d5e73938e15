#include "canvas/envelope_curve.h"

#include <QCoreApplication>
#include <algorithm>
#include <cmath>

#include "canvas/say.h"
#include "document/selection.h"
#include "edits/mark_edits.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr double kPointReach = 7;
constexpr double kLineReach = 5;
constexpr double kFullBend = 60;
constexpr double kStraightPixels = 3;  // of a bent line between two of its corners

bool steps(const EnvelopeScale& scale) { return scale.way == EnvelopeWay::steps; }

double valueOf(const EnvelopeLane& lane, const Envelope& e, Frames song) {
  return lane.scale.at(e, lane.fromSong(song));
}

class EnvelopeDrag : public Gesture {
 public:
  EnvelopeDrag(Document& doc, ViewState& view, QPointF from, EnvelopeSpot spot,
               std::function<void(const QString&)> tell)
      : doc_(doc), view_(view), from_(from), spot_(std::move(spot)), tell_(std::move(tell)), base_(doc.version()) {
    const auto* e = envelopeOf(*base_, spot_.lane.ref);
    if (!e) return;
    envelope_ = *e;
    const auto at = spot_.point ? spot_.point : spot_.before;
    for (const auto& p : envelope_)
      if (at && p.at == *at) grabbed_ = p;
  }

  void move(QPointF point, Qt::KeyboardModifiers modifiers) override {
    if (!moved_ && (point - from_).manhattanLength() < 3) return;
    moved_ = true;
    if (spot_.point)
      movePoint(point, modifiers.testFlag(Qt::ShiftModifier));
    else if (spot_.before)
      bend(point);
  }

 private:
  void set(const QString& name, const Envelope& e) {
    doc_.edit(name, setEnvelope(*base_, spot_.lane.ref, e), "envelope");
  }

  void movePoint(QPointF point, bool free) {
    const auto& lane = spot_.lane;
    auto song = view_.frameAt(view_.xOf(lane.toSong(grabbed_.at)) + point.x() - from_.x());
    if (!free)
      if (const auto found = Snapper(doc_, view_).nearest(song)) song = found->at;
    auto moved = grabbed_;
    moved.at = lane.fromSong(song);
    moved.value = lane.scale.range.clamp(lane.valueAtY(lane.yOf(grabbed_.value) + point.y() - from_.y()));
    if (steps(lane.scale)) moved.value = std::round(moved.value);
    // A point does not pass its neighbours.
    Envelope e = envelope_;
    const auto at = std::find(e.begin(), e.end(), grabbed_);
    if (at == e.end()) return;
    if (at != e.begin()) moved.at = std::max(moved.at, (at - 1)->at + Frames{1});
    if (at + 1 != e.end()) moved.at = std::min(moved.at, (at + 1)->at - Frames{1});
    *at = moved;
    set(say("Move an envelope point"), e);
    doc_.selection().choosePoint(PointRef{lane.ref, moved.at});
    tell_(say("%1 %2 \u00b7 Shift: free \u00b7 Escape takes it back")
              .arg(QString::fromStdString(lane.scale.name), envelopeText(lane.scale, moved.value)));
  }

  void bend(QPointF point) {
    Envelope e = envelope_;
    const auto at = std::find(e.begin(), e.end(), grabbed_);
    if (at == e.end() || at + 1 == e.end()) return;
    const bool rises = (at + 1)->value >= at->value;
    const double by = (from_.y() - point.y()) / kFullBend * (rises ? 1 : -1);
    at->bend = std::clamp(grabbed_.bend + by, -1.0, 1.0);
    set(say("Bend an envelope"), e);
    tell_(say("Bend %1 % \u00b7 Escape takes it back").arg(at->bend * 100, 0, 'f', 0));
  }

  Document& doc_;
  ViewState& view_;
  QPointF from_;
  EnvelopeSpot spot_;
  std::function<void(const QString&)> tell_;
  std::shared_ptr<const Song> base_;
  Envelope envelope_;
  EnvelopePoint grabbed_;
  bool moved_ = false;
};

}  // namespace

/// How values are spread over the height: gains with more room at the top, frequencies and speeds by octaves.
static double spread(const EnvelopeScale& scale, double v) {
  const auto& r = scale.range;
  if (scale.octaves) return std::log2(v / r.low) / std::log2(r.high / r.low);
  const double x = (v - r.low) / (r.high - r.low);
  return r.low == kSilentDb ? x * x : x;
}

double EnvelopeLane::yOf(double value) const {
  return box.bottom() - box.height() * spread(scale, scale.range.clamp(value));
}

double EnvelopeLane::valueAtY(double y) const {
  const auto& r = scale.range;
  const double x = std::clamp((box.bottom() - y) / box.height(), 0.0, 1.0);
  if (scale.octaves) return r.low * std::pow(r.high / r.low, x);
  const double v = r.low + (r.low == kSilentDb ? std::sqrt(x) : x) * (r.high - r.low);
  return std::round(v / r.step) * r.step;
}

QString envelopeText(const EnvelopeScale& scale, double value) {
  const auto& r = scale.range;
  if (scale.kind == EnvelopeKind::trackMute) return value >= 0.5 ? say("muted") : say("heard");
  if (r.low == kSilentDb && value <= kSilentDb) return say("silent");
  const int decimals = scale.octaves || r.step >= 1 ? 0 : r.high - r.low < 5 ? 2 : 1;
  const auto text = QString::number(value, 'f', decimals).replace('-', QChar(0x2212));
  return text + ' ' + QString::fromStdString(scale.unit);
}

void paintEnvelope(QPainter& p, Document& doc, ViewState& view, const EnvelopeLane& lane, bool active) {
  const auto* e = envelopeOf(doc.song(), lane.ref);
  if (!e) return;
  const auto& sheet = Theme::get().sheet();
  const double from = std::max<double>(lane.box.left(), kGutterWidth);
  const double to = std::min(lane.box.right(), static_cast<double>(kGutterWidth + view.width()));
  if (to <= from) return;
  QPolygonF line;
  for (double x = from; x <= to; x += kStraightPixels) {
    const double y = lane.yOf(valueOf(lane, *e, view.frameAt(x)));
    if (steps(lane.scale) && !line.empty() && line.back().y() != y) line << QPointF(x, line.back().y());
    line << QPointF(x, y);
  }
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  p.setClipRect(QRectF(from, lane.box.top() - 4, to - from + 1, lane.box.height() + 8), Qt::IntersectClip);
  auto tone = sheet.selection;
  if (!active) tone.setAlphaF(0.55F);
  p.setPen(QPen(tone, active ? 1.6 : 1.2, e->empty() ? Qt::DashLine : Qt::SolidLine));
  p.setBrush(Qt::NoBrush);
  p.drawPolyline(line);
  const auto chosen = doc.selection().point();
  for (const auto& point : *e) {
    const QPointF at(view.xOf(lane.toSong(point.at)), lane.yOf(point.value));
    const bool isChosen = chosen && chosen->envelope == lane.ref && chosen->at == point.at;
    p.setPen(QPen(tone, 1.5));
    p.setBrush(isChosen ? tone : sheet.paper);
    p.drawEllipse(at, isChosen ? 4.5 : 3.5, isChosen ? 4.5 : 3.5);
    if (!isChosen) continue;
    p.setFont(Theme::get().font(10.5, 600));
    const auto text = envelopeText(lane.scale, point.value);
    const double wide = p.fontMetrics().horizontalAdvance(text) + 8;
    const double left = at.x() + 8 + wide < to ? at.x() + 8 : at.x() - 8 - wide;
    const QRectF label(left, std::clamp(at.y() - 8, lane.box.top(), lane.box.bottom() - 14), wide, 15);
    p.setPen(Qt::NoPen);
    p.setBrush(sheet.paper);
    p.drawRoundedRect(label, 3, 3);
    p.setPen(sheet.ink);
    p.drawText(label, Qt::AlignCenter, text);
  }
  p.restore();
}

std::optional<EnvelopeSpot> envelopeSpot(Document& doc, ViewState& view, const EnvelopeLane& lane, QPointF at) {
  const auto* e = envelopeOf(doc.song(), lane.ref);
  if (!e || !lane.box.adjusted(-kPointReach, -kPointReach, kPointReach, kPointReach).contains(at)) return {};
  double nearest = kPointReach;
  std::optional<EnvelopeSpot> found;
  for (const auto& p : *e) {
    const double d = std::hypot(view.xOf(lane.toSong(p.at)) - at.x(), lane.yOf(p.value) - at.y());
    if (d < nearest) {
      nearest = d;
      found = EnvelopeSpot{lane, p.at, {}};
    }
  }
  if (found) return found;
  const auto song = view.frameAt(at.x());
  if (std::abs(lane.yOf(valueOf(lane, *e, song)) - at.y()) > kLineReach) return {};
  EnvelopeSpot spot{lane, {}, {}};
  for (const auto& p : *e)
    if (p.at <= lane.fromSong(song)) spot.before = p.at;
  return spot;
}

std::unique_ptr<Gesture> envelopeDrag(Document& doc, ViewState& view, QPointF from, const EnvelopeSpot& spot,
                                      std::function<void(const QString&)> tell) {
  doc.selection().choosePoint(spot.point ? std::optional(PointRef{spot.lane.ref, *spot.point}) : std::nullopt);
  return std::make_unique<EnvelopeDrag>(doc, view, from, spot, std::move(tell));
}

void envelopeDoubleClick(Document& doc, ViewState& view, const EnvelopeLane& lane, QPointF at) {
  const auto* e = envelopeOf(doc.song(), lane.ref);
  if (!e) return;
  const auto spot = envelopeSpot(doc, view, lane, at);
  if (spot && spot->point) {
    Envelope less = *e;
    std::erase_if(less, [&](auto& p) { return p.at == *spot->point; });
    doc.edit(say("Remove an envelope point"), setEnvelope(doc.song(), lane.ref, less));
    return;
  }
  auto song = view.frameAt(at.x());
  if (const auto found = Snapper(doc, view).nearest(song)) song = found->at;
  const double value = spot                ? valueOf(lane, *e, song)
                       : steps(lane.scale) ? std::round(lane.valueAtY(at.y()))
                                           : lane.valueAtY(at.y());
  if (doc.edit(say("Add an envelope point"),
               setEnvelope(doc.song(), lane.ref, withPoint(*e, {lane.fromSong(song), value, 0}))))
    doc.selection().choosePoint(PointRef{lane.ref, lane.fromSong(song)});
}

}  // namespace ochron
