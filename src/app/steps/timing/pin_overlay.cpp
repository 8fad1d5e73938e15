#include "steps/timing/pin_overlay.h"

#include <algorithm>
#include <cmath>

#include "canvas/lane_layout.h"
#include "canvas/place_drag.h"
#include "canvas/say.h"
#include "canvas/snap.h"
#include "document/pin_desk.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "document/wording.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr double kPinReach = 7;        // pixels
constexpr double kLimitHeight = 0.28;  // of the lane, from its middle to the limit
constexpr double kMostHeight = 0.38;

/// How far above the middle a stretch by a ratio is drawn, -1 to 1; the limit at kLimitHeight.
double heightOf(double ratio, double limitPercent) {
  const double limit = std::log2(1 + limitPercent / 100);
  return std::clamp(std::log2(ratio) / limit * kLimitHeight, -kMostHeight, kMostHeight);
}

class PinDrag : public PlaceDrag {
 public:
  PinDrag(Document& doc, ViewState& view, QPointF from, const PinRef& place, Tell tell)
      : PlaceDrag(doc, view, from, std::move(tell)), place_(place), takes_{place.take} {
    if (doc.selection().isChosen(place))
      for (const auto& p : doc.selection().pins())
        if (p.clip == place.clip && p.take != place.take) takes_.push_back(p.take);
  }
  /// What was pinned by the drag is chosen once it is let go.
  ~PinDrag() override {
    if (began() && takes_.size() == 1) doc_.selection().choosePins({place_});
  }

 protected:
  void drag(double pixels, Qt::KeyboardModifiers modifiers) override {
    const auto* clip = base_->find(place_.clip);
    if (!clip) return;
    const auto was = clip->toSong(place_.take);
    auto to = moved(was, pixels);
    if (!modifiers.testFlag(Qt::ShiftModifier)) to = gridLineNear(doc_, view_, to).value_or(to);
    const auto reach = modifiers.testFlag(Qt::AltModifier)       ? PinReach::following
                       : modifiers.testFlag(Qt::ControlModifier) ? PinReach::ends
                                                                 : PinReach::neighbours;
    const auto next = movePins(*base_, place_.clip, takes_, to - was, reach);
    if (!next) return refuse(next.error());
    if (!doc_.edit(takes_.size() == 1 ? say("Move a pin") : say("Move pins"), next, "pin")) return;
    const auto now = doc_.pinDesk().placeOf(place_.set, clip->take, place_.take);
    const auto* put = now ? doc_.song().find(now->clip) : nullptr;
    if (!put) return;
    const auto place = doc_.song().tempo.position(put->toSong(place_.take));
    tell_(say("Pin to %1.%2, %3 ms \u00b7 %4 \u00b7 %5 \u00b7 Shift: no grid")
              .arg(place.bar + 1)
              .arg(place.beat + 1)
              .arg(signedMs(msFromFrames(put->toSong(place_.take) - was, base_->rate)))
              .arg(doc_.pinDesk().wordsFor(*put, place_.take))
              .arg(reach == PinReach::following ? say("what follows comes along")
                   : reach == PinReach::ends    ? say("both sides give way")
                                                : say("neighbours hold (Alt: what follows comes, Ctrl: all)")));
  }

 private:
  PinRef place_;
  std::vector<Frames> takes_;
};

}  // namespace

QRectF PinOverlay::laneOf(const MicSet& set) const {
  const bool active = std::find(set.tracks.begin(), set.tracks.end(), doc_.selection().track()) != set.tracks.end();
  return lanes_.laneBox(lanes_.laneOf(active ? doc_.selection().track() : set.tracks.front()));
}

void PinOverlay::paint(QPainter& p) const {
  if (!doc_.pinDesk().shown()) return;
  const auto seen = exposed(p);
  p.setRenderHint(QPainter::Antialiasing);
  for (const auto& set : doc_.song().sets) {
    if (!exposes(p, set)) continue;
    const auto& clips = *set.clips;
    const auto first =
        std::partition_point(clips.begin(), clips.end(), [&](const Clip& c) { return c.end() <= seen.start; });
    const auto box = laneOf(set);
    for (auto c = first; c != clips.end() && c->start < seen.end; ++c)
      if (!c->map.identity()) paintClip(p, set, *c, box);
  }
}

void PinOverlay::paintClip(QPainter& p, const MicSet& set, const Clip& clip, const QRectF& box) const {
  const auto& sheet = Theme::get().sheet();
  const bool active = set.id == doc_.selection().set();
  const double limit = set.plan->settings.stretchLimit;
  const double middle = box.center().y();
  const double left = std::max<double>(kGutterWidth, view_.xOf(clip.start));
  const double right = std::min<double>(lanes_.width(), view_.xOf(clip.end()));
  if (right <= left) return;
  auto faint = sheet.inkSoft;
  faint.setAlphaF(active ? 0.55F : 0.3F);
  p.setPen(QPen(faint, 1, Qt::DotLine));
  for (const double at : {1 + limit / 100, 1 / (1 + limit / 100)}) {
    const double y = middle - heightOf(at, limit) * box.height();
    p.drawLine(QPointF(left, y), QPointF(right, y));
  }
  QPolygonF curve;
  QPolygonF beyond;
  double lastX = -1e9;
  for (const auto& piece : clip.pieces()) {
    const double a = view_.xOf(piece.range.start);
    const double b = view_.xOf(piece.range.end);
    if (b < left || a > right || b - lastX < 0.5) continue;
    lastX = b;
    const double ratio = 1 / std::abs(piece.speed);
    const double y = middle - heightOf(ratio, limit) * box.height();
    curve << QPointF(std::max(a, left), y) << QPointF(std::min(b, right), y);
    if (std::abs(ratio - 1) * 100 > limit && b - a > 2) beyond << QPointF(a, y) << QPointF(b, y);
  }
  auto halo = sheet.field;
  halo.setAlphaF(0.7F);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(halo, 4));
  p.drawPolyline(curve);
  p.setPen(QPen(active ? sheet.selection : sheet.inkSoft, 1.5));
  p.drawPolyline(curve);
  p.setPen(QPen(sheet.alarm, 2));
  for (int i = 0; i + 1 < beyond.size(); i += 2) p.drawLine(beyond[i], beyond[i + 1]);
  for (const auto take : handPins(clip)) {
    const double x = view_.xOf(clip.toSong(take));
    if (x < left - 6 || x > right + 6) continue;
    const PinRef place{set.id, clip.id, take};
    const bool chosen = doc_.selection().isChosen(place);
    const bool hovered = hovered_ == place;
    if (chosen || hovered) {
      const auto [top, bottom] = lanes_.setBounds(set);
      p.setPen(QPen(sheet.selection, 1));
      p.drawLine(QPointF(x, top), QPointF(x, bottom));
    }
    p.setPen(QPen(active ? sheet.selection : sheet.inkSoft, 1.6));
    p.setBrush(chosen ? sheet.selection : sheet.field);
    const double r = hovered || chosen ? 4.6 : 3.8;
    p.drawRect(QRectF(x - r * 0.62, middle - r, r * 1.24, 2 * r));
  }
}

std::optional<PinRef> PinOverlay::at(QPointF point) const {
  if (!doc_.pinDesk().shown() || point.x() < kGutterWidth) return {};
  std::optional<PinRef> best;
  double nearest = kPinReach;
  for (const auto& set : doc_.song().sets) {
    if (set.tracks.empty()) continue;
    const auto box = laneOf(set);
    if (std::abs(point.y() - box.center().y()) > kPinReach) continue;
    const FrameRange near{view_.frameAt(point.x() - kPinReach), view_.frameAt(point.x() + kPinReach)};
    const auto& clips = *set.clips;
    const auto first =
        std::partition_point(clips.begin(), clips.end(), [&](const Clip& c) { return c.end() <= near.start; });
    for (auto clip = first; clip != clips.end() && clip->start < near.end; ++clip) {
      const auto& c = *clip;
      for (const auto take : handPins(c)) {
        const double away = std::abs(view_.xOf(c.toSong(take)) - point.x());
        if (away >= nearest) continue;
        nearest = away;
        best = PinRef{set.id, c.id, take};
      }
    }
  }
  return best;
}

void PinOverlay::chooseSpot(const PinRef& place) {
  doc_.selection().chooseSet(place.set);
  if (!doc_.selection().isChosen(place)) doc_.selection().choosePins({place});
}

std::unique_ptr<Gesture> PinOverlay::take(const PinRef& place, const Press& press) {
  doc_.selection().chooseSet(place.set);
  if (press.modifiers == Qt::ControlModifier)
    doc_.selection().toggle(place);
  else
    chooseSpot(place);
  return pinDrag(doc_, view_, place, press);
}

bool PinOverlay::doubleClick(QPointF point) {
  const auto* set = lanes_.setAt(point.y());
  if (doc_.step() != Step::timing || !doc_.pinDesk().shown() || !set) return false;
  const Frames reach{std::llround(6 * view_.framesPerPixel())};
  if (at(point)) return true;
  if (const auto place = doc_.pinDesk().placeAt(set->id, view_.frameAt(point.x()), reach)) doc_.pinDesk().add(*place);
  return true;
}

Overlay::Look PinOverlay::lookOf(const PinRef& place) const {
  const auto* clip = doc_.song().find(place.clip);
  if (!clip) return {Qt::SizeHorCursor, {}};
  return {Qt::SizeHorCursor,
          say("Pin, %1 \u00b7 drag: neighbours hold \u00b7 Alt: what follows comes along \u00b7 Ctrl: all gives way")
              .arg(doc_.pinDesk().wordsFor(*clip, place.take))};
}

std::unique_ptr<Gesture> pinDrag(Document& doc, ViewState& view, const PinRef& place, const Press& press) {
  return std::make_unique<PinDrag>(doc, view, press.at, place, press.tell);
}

}  // namespace ochron
