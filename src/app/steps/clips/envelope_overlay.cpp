#include "steps/clips/envelope_overlay.h"

#include "canvas/lane_layout.h"
#include "canvas/say.h"
#include "document/clip_desk.h"
#include "document/selection.h"
#include "document/transport.h"
#include "edits/mark_edits.h"
#include "steps/clips/clip_overlay.h"

namespace ochron {

bool EnvelopeOverlay::onLanes() const {
  const auto kind = doc_.clipDesk().shownEnvelope();
  return kind && doc_.step() == Step::clips && !doc_.transport().original() && *kind != EnvelopeKind::songGain &&
         *kind != EnvelopeKind::songSpeed;
}

std::vector<EnvelopeLane> EnvelopeOverlay::lanesAt(int index) const {
  std::vector<EnvelopeLane> out;
  const auto kind = *doc_.clipDesk().shownEnvelope();
  const auto& song = doc_.song();
  const auto box = lanes_.laneBox(index).adjusted(0, 6, 0, -7);
  const auto track = song.tracks[static_cast<std::size_t>(index)].id;
  if (kind != EnvelopeKind::clipGain && kind != EnvelopeKind::clipPitch) {
    const EnvelopeRef ref{kind, track, {}};
    out.push_back({ref, scaleOf(song, ref), box});
    return out;
  }
  const auto& clips = *song.setOf(track)->clips;
  const auto seen = view_.visible();
  auto c = std::partition_point(clips.begin(), clips.end(), [&](const Clip& x) { return x.end() <= seen.start; });
  for (; c != clips.end() && c->start < seen.end; ++c) {
    const double x0 = view_.xOf(c->start);
    const double x1 = view_.xOf(c->end());
    const EnvelopeRef ref{kind, {}, c->id};
    if (x1 - x0 > 12) out.push_back({ref, scaleOf(song, ref), QRectF(x0, box.top(), x1 - x0, box.height()), *c});
  }
  return out;
}

void EnvelopeOverlay::paint(QPainter& p) const {
  if (!onLanes()) return;
  for (int i = 0; i < std::ssize(doc_.song().tracks); ++i) {
    const auto box = lanes_.laneBox(i);
    if (box.bottom() < 0 || box.top() > lanes_.height()) continue;
    for (const auto& lane : lanesAt(i)) {
      const bool active =
          lane.clip ? doc_.selection().isChosen(lane.ref.clip) : lane.ref.track == doc_.selection().track();
      paintEnvelope(p, doc_, view_, lane, active);
    }
  }
}

std::optional<EnvelopeSpot> EnvelopeOverlay::at(QPointF point) const {
  const int index = lanes_.laneAt(point.y());
  if (!onLanes() || index < 0 || clips_.isFade(point)) return {};
  for (const auto& lane : lanesAt(index))
    if (auto spot = envelopeSpot(doc_, view_, lane, point)) return spot;
  return {};
}

Overlay::Look EnvelopeOverlay::lookOf(const EnvelopeSpot& spot) const {
  return {Qt::PointingHandCursor,
          spot.point ? say("Drag the point, or press Delete to remove it \u00b7 a double click removes it, too")
                     : say("Drag to bend the line \u00b7 a double click puts a point on it")};
}

void EnvelopeOverlay::chooseSpot(const EnvelopeSpot& spot) {
  doc_.selection().choosePoint(spot.point ? std::optional(PointRef{spot.lane.ref, *spot.point}) : std::nullopt);
}

std::unique_ptr<Gesture> EnvelopeOverlay::take(const EnvelopeSpot& spot, const Press& press) {
  return envelopeDrag(doc_, view_, press.at, spot, press.tell);
}

bool EnvelopeOverlay::doubleClick(QPointF point) {
  const int index = lanes_.laneAt(point.y());
  if (!onLanes() || index < 0) return false;
  for (const auto& lane : lanesAt(index))
    if (lane.box.adjusted(0, -6, 0, 6).contains(point)) {
      envelopeDoubleClick(doc_, view_, lane, point);
      return true;
    }
  return false;
}

}  // namespace ochron
