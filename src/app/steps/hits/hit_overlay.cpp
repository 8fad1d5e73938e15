#include "steps/hits/hit_overlay.h"

#include <QCoreApplication>
#include <algorithm>
#include <cmath>
#include <map>
#include <utility>

#include "canvas/lane_layout.h"
#include "canvas/say.h"
#include "canvas/snap.h"
#include "document/hit_desk.h"
#include "document/pin_desk.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "edits/hit_edits.h"
#include "edits/pieces.h"
#include "feel/standing.h"
#include "steps/timing/pin_overlay.h"
#include "theme/theme.h"
#include "time/grid.h"

namespace ochron {
namespace {

constexpr double kGrab = 6;     // pixels
constexpr double kMarkY = 4.5;  // of a hit's mark under its lane's top
constexpr double kOnGridMs = 0.5;
constexpr double kDenseRadius = 1.8;  // of marks that stand close
constexpr double kLeastApart = 0.5;   // pixels

QColor colourOf(double ms) {
  const auto& sheet = Theme::get().sheet();
  return ms > kOnGridMs ? sheet.late : ms < -kOnGridMs ? sheet.early : sheet.ink;
}

class TargetDrag : public Gesture {
 public:
  TargetDrag(Document& doc, ViewState& view, HitRef hit, const Press& press)
      : doc_(doc), view_(view), from_(press.at), hit_(hit), tell_(press.tell) {}

  void move(QPointF point, Qt::KeyboardModifiers modifiers) override {
    if (!moved_ && std::abs(point.x() - from_.x()) < 3) return;
    moved_ = true;
    const auto map = doc_.song().tempo;  // a copy: the song changes below
    const auto at = view_.frameAt(point.x());
    const auto& overrides = doc_.song().find(doc_.selection().set())->plan->overrides;
    const auto found = overrides.find(hit_.hit);
    auto o = found == overrides.end() ? HitOverride{} : found->second;
    const bool free = modifiers.testFlag(Qt::ShiftModifier);
    o.target = map.toTicks(free ? at : gridLineNear(doc_, view_, at).value_or(at));
    o.frozen = false;
    doc_.timingDesk().overrideHit(say("Move target"), hit_.hit, o, "target");
    const auto* planned = doc_.selection().plannedHit();
    if (!planned) return;
    const auto where = map.position(*o.target);
    const double ms = msFromFrames(planned->now - planned->home, doc_.song().rate);
    tell_(say("Target to %1.%2, %3 ms %4 than it was played \u00b7 Shift: free of the grid \u00b7 Escape takes it back")
              .arg(where.bar + 1)
              .arg(where.beat + 1)
              .arg(std::abs(ms), 0, 'f', 1)
              .arg(ms < 0 ? say("earlier") : say("later")));
  }

 private:
  Document& doc_;
  ViewState& view_;
  QPointF from_;
  HitRef hit_;
  std::function<void(const QString&)> tell_;
  bool moved_ = false;
};

}  // namespace

void HitOverlay::paint(QPainter& p) const {
  const auto* set = doc_.song().find(doc_.selection().set());
  if (!set) return;
  if (doc_.step() == Step::clips) return paintStanding(p);
  const auto& sheet = Theme::get().sheet();
  const auto seen = view_.visible();
  const auto& hits = doc_.timingDesk().planned().hits;
  const auto inSight = std::count_if(hits.begin(), hits.end(), [&](auto& h) { return seen.contains(h.home); });
  const bool dense = static_cast<double>(inSight) > view_.width() / 7.0;
  const auto [top, bottom] = lanes_.setBounds(*set);
  p.setRenderHint(QPainter::Antialiasing, true);
  paintOtherSets(p);
  if (doc_.hitDesk().shownThreshold()) paintThreshold(p);
  if (!dense) paintTies(p, top);
  const auto current = doc_.selection().hit();
  std::map<TrackId, double> lastOn;  // places of marks
  const auto anew = exposed(p);
  const double left = dense ? kGutterWidth : view_.xOf(anew.start);  // dense ones hide each other: all have a say
  const double right = dense ? lanes_.width() : view_.xOf(anew.end);
  for (const auto& h : hits) {
    const double x = view_.xOf(doc_.transport().original() ? h.home : h.now);
    if (x < left - 20 || x > right + 20) continue;
    if (current && current->hit == h.hit.id && current->take == h.take) {
      p.setPen(QPen(sheet.selection, 1.2));
      p.drawLine(QPointF(x, top), QPointF(x, bottom));
    } else if (doc_.step() == Step::hits && !dense) {
      auto faint = sheet.ink;
      faint.setAlphaF(0.28F);
      p.setPen(QPen(faint, 1));
      p.drawLine(QPointF(x, top), QPointF(x, bottom));
    } else if (dense) {  // one hides the other on its lane
      auto& last =
          lastOn.try_emplace(h.hit.heardBy.empty() ? TrackId{} : h.hit.heardBy.front().track, -1e9).first->second;
      if (std::abs(x - std::exchange(last, x)) < kLeastApart) continue;
    }
    if (!dense || anew.contains(doc_.transport().original() ? h.home : h.now)) paintMark(p, h, top, dense);
  }
}

/// Hits of the sets that are not chosen: only to be seen.
void HitOverlay::paintOtherSets(QPainter& p) const {
  for (const auto& set : doc_.song().sets)
    if (set.id != doc_.selection().set()) paintDots(p, set, Theme::get().sheet().inkSoft);
}

/// While clips are edited hits are only to be seen, where the clips play them: drags snap to those of the active set.
void HitOverlay::paintStanding(QPainter& p) const {
  p.setRenderHint(QPainter::Antialiasing, true);
  if (doc_.hitDesk().shownThreshold()) paintThreshold(p);
  for (const auto& set : doc_.song().sets)
    paintDots(p, set, set.id == doc_.selection().set() ? Theme::get().sheet().note : Theme::get().sheet().inkSoft);
}

void HitOverlay::paintDots(QPainter& p, const MicSet& set, const QColor& colour) const {
  if (!exposes(p, set)) return;
  const auto dot = Theme::get().dot(colour, kDenseRadius, p.device()->devicePixelRatioF());
  const auto clips = doc_.transport().original() ? Shared(withoutPlan(*set.clips)) : set.clips;
  // One to every two pixels, the same ones whatever stretch is painted.
  double last = -1e9;
  for (const auto& h : standingHits(doc_.song(), set, *clips, exposed(p))) {
    const double x = view_.xOf(h.at);
    if (std::floor(x / 2) == std::floor(last / 2)) continue;
    last = x;
    const int lane = lanes_.laneOf(h.heardOn ? h.heardOn : set.tracks.front());
    if (lane >= 0) stamp(p, QPointF(x, lanes_.laneBox(lane).top() + kMarkY), dot);
  }
}

void HitOverlay::paintMark(QPainter& p, const PlannedHit& h, double top, bool dense) const {
  const auto& sheet = Theme::get().sheet();
  const double x = view_.xOf(doc_.transport().original() ? h.home : h.now);
  const auto current = doc_.selection().hit();
  const bool isCurrent = current && current->hit == h.hit.id && current->take == h.take;
  const bool isHovered = hovered_ && hovered_->hit == h.hit.id;
  const bool moved = !doc_.transport().original() && (doc_.timingDesk().settings().on || h.locked);
  const auto colour = !h.line ? sheet.alarm : colourOf(moved ? h.afterMs : h.beforeMs);
  // The mark stands on the guide that heard it clearest; hits placed by hand on the set's first lane.
  double y = top + kMarkY;
  if (!h.hit.heardBy.empty()) {
    const int lane = lanes_.laneOf(h.hit.heardBy.front().track);
    if (lane >= 0) y = lanes_.laneBox(lane).top() + kMarkY;
  }
  if (h.line && doc_.step() == Step::timing) {  // whisker to the grid place it is meant for
    p.setPen(QPen(colour, 1.2));
    p.drawLine(QPointF(x, y), QPointF(view_.xOf(h.line->frame), y));
  }
  if (dense && !isCurrent && !isHovered && h.hit.origin != HitOrigin::user)
    return stamp(p, QPointF(x, y), Theme::get().dot(colour, kDenseRadius, p.device()->devicePixelRatioF()));
  p.setPen(isCurrent || isHovered ? QPen(sheet.selection, 1.6) : QPen(Qt::NoPen));
  p.setBrush(isCurrent ? sheet.paper : colour);
  const double r = isCurrent || isHovered ? 4 : dense ? kDenseRadius : 3;
  if (h.hit.origin == HitOrigin::user)  // the user's own
    p.drawRect(QRectF(x - r + 0.4, y - r + 0.4, 2 * r - 0.8, 2 * r - 0.8));
  else
    p.drawEllipse(QPointF(x, y), r, r);
}

/// Hits of one gesture are tied together over the set's first lane.
void HitOverlay::paintTies(QPainter& p, double top) const {
  const auto& hits = doc_.timingDesk().planned().hits;
  p.setPen(QPen(Theme::get().sheet().ink, 1.3));
  p.setBrush(Qt::NoBrush);
  for (std::size_t i = 0; i < hits.size();) {
    auto last = i;
    while (last + 1 < hits.size() && hits[last + 1].leader == hits[i].leader) ++last;
    if (last > i) {
      const auto at = [&](std::size_t k) {
        return view_.xOf(doc_.transport().original() ? hits[k].home : hits[k].now);
      };
      const double a = at(i);
      const double b = at(last);
      if (b - a > 3 && b > kGutterWidth && a < lanes_.width())
        p.drawPolyline(QPolygonF{{a, top + 11}, {a, top + 14}, {b, top + 14}, {b, top + 11}});
    }
    i = last + 1;
  }
}

/// While the sensitivity is held: on each guide, the level a stroke must reach to count there.
namespace {

/// How high a claim stands on its lane, 0 to 1: as the sureness that it was made of.
double heightOf(double claim) {
  constexpr double kSteepness = 20;  // a claim of 1/20 is neither sure nor unsure
  return std::clamp(1 + 0.5 * std::log(std::max(claim, 1e-9)) / std::log(kSteepness), 0.0, 1.0);
}

}  // namespace

/// Everything that each guide heard, as high as it is sure, and the line from which it counts.
void HitOverlay::paintThreshold(QPainter& p) const {
  const auto* set = doc_.song().find(doc_.selection().set());
  const auto& sheet = Theme::get().sheet();
  const auto clips = withoutPlan(*set->clips);
  for (const auto track : set->tracks) {
    if (!doc_.song().find(track)->guide) continue;
    const auto box = lanes_.laneBox(lanes_.laneOf(track)).adjusted(0, 4, 0, -4);
    const double level = guideThreshold(set->hits, track);
    const auto yOf = [&](double claim) { return box.bottom() - heightOf(claim) * box.height(); };
    auto veil = sheet.paper;
    veil.setAlphaF(0.72F);
    p.fillRect(QRectF(kGutterWidth, box.top(), lanes_.width() - kGutterWidth, box.height()), veil);
    auto unsure = sheet.note;
    unsure.setAlphaF(0.55F);
    for (const auto& clip : clips)
      for (const auto& h : *doc_.song().hitsOf(clip.take, set->id)) {
        if (!clip.played().contains(h.at)) continue;
        const double x = view_.xOf(clip.toSong(h.at));
        if (x < kGutterWidth || x > lanes_.width()) continue;
        const auto heard = std::find_if(h.heardBy.begin(), h.heardBy.end(), [&](auto& g) { return g.track == track; });
        if (heard == h.heardBy.end() || h.origin == HitOrigin::removed) continue;
        const bool counts = heard->strength >= level;
        p.setPen(QPen(counts ? sheet.ink : unsure, counts ? 1.6 : 1));
        p.drawLine(QPointF(x, box.bottom()), QPointF(x, yOf(heard->strength)));
      }
    const double y = level > 1 ? box.top() : yOf(level);
    p.setPen(QPen(sheet.selection, 1.2));
    p.drawLine(QPointF(kGutterWidth, y), QPointF(lanes_.width(), y));
    p.setFont(Theme::get().font(10.5, 500));
    const auto text = level > 1 ? say("not listened to") : say("what stands this high counts");
    const bool low = y - box.top() < 15;
    const double width = p.fontMetrics().horizontalAdvance(text) + 10;
    const QRectF tag(lanes_.width() - width - 4, low ? y + 1 : y - 15, width, 14);
    p.fillRect(tag, sheet.paper);
    p.drawText(tag, Qt::AlignCenter, text);
  }
}

std::optional<HitRef> HitOverlay::at(QPointF point) const {
  const int index = lanes_.laneAt(point.y());
  if (index < 0) return {};
  const bool wide = doc_.step() == Step::hits;
  if (!wide && point.y() - lanes_.laneBox(index).top() >= 12) return {};
  std::optional<HitRef> best;
  double bestDistance = kGrab;
  for (const auto& h : doc_.timingDesk().planned().hits) {
    const double distance = std::abs(view_.xOf(doc_.transport().original() ? h.home : h.now) - point.x());
    if (distance < bestDistance) {
      bestDistance = distance;
      best = HitRef{h.take, h.hit.id};
    }
  }
  return best;
}

void HitOverlay::chooseSpot(const HitRef& hit) { doc_.selection().chooseHit(hit); }

std::unique_ptr<Gesture> HitOverlay::take(const HitRef& hit, const Press& press) {
  chooseSpot(hit);
  if (doc_.step() != Step::timing || doc_.transport().original()) return nullptr;
  if (doc_.timingDesk().settings().on) return std::make_unique<TargetDrag>(doc_, view_, hit, press);
  const auto* planned = doc_.selection().plannedHit();
  if (!planned) return nullptr;
  const auto place = doc_.pinDesk().placeOf(doc_.selection().set(), hit.take, planned->hit.at);
  return place ? pinDrag(doc_, view_, *place, press) : nullptr;
}

bool HitOverlay::doubleClick(QPointF point) {
  const auto* set = lanes_.setAt(point.y());
  if (doc_.step() != Step::hits || !set) return false;
  if (at(point)) return true;
  const auto place = view_.frameAt(point.x());
  for (const auto& c : *set->clips) {
    if (!c.range().contains(place)) continue;
    const auto takeTime = c.toTake(place);
    if (doc_.edit(say("Add hit"), addHit(doc_.song(), c.take, set->id, takeTime, DrumClass::other)))
      for (const auto& h : doc_.timingDesk().planned().hits)
        if (h.hit.at == takeTime) chooseSpot({h.take, h.hit.id});
    return true;
  }
  return true;
}

}  // namespace ochron
