#include "steps/kit/kit_overlay.h"

#include <QPainterPath>
#include <algorithm>
#include <cmath>

#include "canvas/lane_layout.h"
#include "canvas/say.h"
#include "document/kit_desk.h"
#include "document/selection.h"
#include "document/transport.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr double kQuietest = -36;  // dB: a stem of the least height
constexpr double kLoudest = 6;
constexpr double kStemReach = 6;  // px
constexpr double kWaveFrom = 14;  // px between strokes, from which on their sounds are drawn
constexpr double kDbPerPixel = 0.25;

/// How tall a stem is, 0 to 1.
double heightOf(double db) { return std::clamp((db - kQuietest) / (kLoudest - kQuietest), 0.08, 1.0); }

/// Dragging a stem up or down: the stroke's own level.
class LevelDrag : public Gesture {
 public:
  LevelDrag(Document& doc, QPointF from, HitId hit, double db, std::function<void(const QString&)> tell)
      : doc_(doc), from_(from), hit_(hit), db_(db), tell_(std::move(tell)) {}
  void move(QPointF point, Qt::KeyboardModifiers modifiers) override {
    const double fine = modifiers & Qt::ShiftModifier ? 0.2 : 1;
    const double by = (from_.y() - point.y()) * kDbPerPixel * fine;
    if (!moved_ && std::abs(from_.y() - point.y()) < 3) return;
    moved_ = true;
    const double db = kStrokeGainRange.clamp(std::round((db_ + by) * 10) / 10);
    doc_.kitDesk().wish(
        say("Change the level of a stroke"), hit_, [db](StrokeWish& w) { w.gainDb = db; },
        QStringLiteral("stroke level"));
    tell_(say("This stroke %1 dB").arg(db, 0, 'f', 1));
  }

 private:
  Document& doc_;
  QPointF from_;
  HitId hit_;
  double db_;
  std::function<void(const QString&)> tell_;
  bool moved_ = false;
};

}  // namespace

void KitOverlay::paint(QPainter& p) const {
  if (doc_.transport().original()) return;
  for (const auto& layer : doc_.song().layers) {
    const int lane = lanes_.laneOf(layer.track);
    if (lane < 0) continue;
    const auto box = lanes_.laneBox(lane);
    if (box.bottom() > 0 && box.top() < lanes_.height()) paintLayer(p, layer, box, view_.visible());
  }
}

void KitOverlay::paintLayer(QPainter& p, const Layer& layer, const QRectF& box, FrameRange seen) const {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  const auto& strokes = doc_.kitDesk().strokesOf(layer.id);
  const auto* current = doc_.kitDesk().layer();
  const bool worked = doc_.step() == Step::kit && current && current->id == layer.id;
  p.setRenderHint(QPainter::Antialiasing);
  if (strokes.empty()) {
    p.setFont(theme.font(11));
    p.setPen(sheet.note);
    p.drawText(box.adjusted(kGutterWidth + 10, 0, 0, 0), Qt::AlignVCenter,
               layer.sounds->sounds.empty() ? say("no sound yet") : say("no strokes of this drum yet"));
    return;
  }
  const double base = box.bottom() - 5;
  const double tall = box.height() - 12;
  const Frames before{static_cast<std::int64_t>(40 * view_.framesPerPixel())};
  auto s = std::lower_bound(strokes.begin(), strokes.end(), seen.start - before,
                            [](const LayerStroke& x, Frames f) { return x.at < f; });
  const auto chosen = doc_.selection().hit();
  double last = -1e9;
  for (; s != strokes.end() && s->at < seen.end; ++s) {
    const double x = view_.xOf(s->at);
    const bool isChosen = worked && chosen && chosen->hit == s->hit && chosen->take == s->take;
    const bool isHovered = hovered_ && hovered_->layer == layer.id && hovered_->hit == s->hit;
    auto ink = !layer.on ? sheet.inkSoft : worked ? sheet.selection : sheet.ink;
    if (!s->heard) ink.setAlphaF(0.45F);
    const double h = tall * heightOf(s->gainDb - layer.settings.gainDb);
    const double next = s + 1 == strokes.end() ? 1e9 : view_.xOf((s + 1)->at);
    const double room = std::min(34.0, next - x - 4);
    if (room > kWaveFrom && s->heard) {  // a ring that dies away, as wide as there is room
      auto soft = ink;
      soft.setAlphaF(0.55F);
      p.setPen(QPen(soft, 1));
      QPainterPath wave(QPointF(x, base));
      for (double t = 0; t <= room; t += 1)
        wave.lineTo(x + t, base - 0.32 * h * std::exp(-t / 11) * std::sin(t * 0.95) * (s->turned ? -1 : 1));
      p.setBrush(Qt::NoBrush);
      p.drawPath(wave);
    }
    p.setPen(QPen(ink, isChosen ? 2.2 : 1.5));
    if (x - last > 0.8 || isChosen) p.drawLine(QPointF(x, base), QPointF(x, base - h));
    last = x;
    p.setBrush(s->heard ? QBrush(ink) : QBrush(sheet.paper));
    p.setPen(QPen(ink, 1.2));
    const double radius = isChosen ? 4 : isHovered ? 3.6 : view_.framesPerPixel() > 2000 ? 1.6 : 2.6;
    p.drawEllipse(QPointF(x, base - h), radius, radius);
    if (s->byHand) {  // the user decided about it
      p.setPen(QPen(ink, 1));
      p.setBrush(Qt::NoBrush);
      p.drawEllipse(QPointF(x, base - h), radius + 2.5, radius + 2.5);
    }
  }
}

std::optional<StrokeSpot> KitOverlay::at(QPointF point) const {
  const int lane = lanes_.laneAt(point.y());
  if (lane < 0 || point.x() < kGutterWidth || doc_.transport().original()) return {};
  const auto* layer = doc_.song().layerOn(doc_.song().tracks[static_cast<std::size_t>(lane)].id);
  if (!layer) return {};
  std::optional<StrokeSpot> best;
  double nearest = kStemReach;
  const auto& strokes = doc_.kitDesk().strokesOf(layer->id);
  const auto around = [&](double x) { return view_.frameAt(x); };
  for (auto s = std::lower_bound(strokes.begin(), strokes.end(), around(point.x() - kStemReach),
                                 [](const LayerStroke&x, Frames f) { return x.at < f; });
       s != strokes.end() && s->at <= around(point.x() + kStemReach); ++s) {
    const double away = std::abs(view_.xOf(s->at) - point.x());
    if (away > nearest) continue;
    nearest = away;
    best = StrokeSpot{layer->id, s->take, s->hit};
  }
  return best;
}

void KitOverlay::chooseSpot(const StrokeSpot& spot) {
  doc_.kitDesk().choose(spot.layer);
  doc_.selection().chooseSet(doc_.song().find(spot.layer)->set);
  doc_.selection().chooseHit(HitRef{spot.take, spot.hit});
}

std::unique_ptr<Gesture> KitOverlay::take(const StrokeSpot& spot, const Press& press) {
  chooseSpot(spot);
  if (doc_.step() != Step::kit) return nullptr;
  const auto& wishes = doc_.song().find(spot.layer)->wishes;
  const auto wish = wishes.find(spot.hit);
  return std::make_unique<LevelDrag>(doc_, press.at, spot.hit, wish == wishes.end() ? 0 : wish->second.gainDb,
                                     press.tell);
}

Overlay::Look KitOverlay::lookOf(const StrokeSpot& spot) const {
  return {doc_.step() == Step::kit ? Qt::SizeVerCursor : Qt::PointingHandCursor, tipFor(spot)};
}

QString KitOverlay::tipFor(const StrokeSpot& spot) const {
  const auto* layer = doc_.song().find(spot.layer);
  for (const auto& s : doc_.kitDesk().strokesOf(spot.layer)) {
    if (s.hit != spot.hit || s.take != spot.take) continue;
    const auto sound = QString::fromStdString(layer->sounds->sounds[s.sound].name);
    if (!s.heard) return say("Strength %1, without the sound").arg(s.strength, 0, 'f', 2);
    return say("Strength %1 \u00b7 %2 \u00b7 %3 dB%4; drag up or down for its own level")
        .arg(s.strength, 0, 'f', 2)
        .arg(sound)
        .arg(s.gainDb, 0, 'f', 1)
        .arg(s.byHand ? say(" \u00b7 by hand") : QString());
  }
  return {};
}

}  // namespace ochron
