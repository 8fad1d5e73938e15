#include "steps/tempo/fit_overlay.h"

#include <cmath>

#include "canvas/lane_layout.h"
#include "canvas/place_drag.h"
#include "document/tempo_desk.h"
#include "document/transport.h"
#include "edits/stretch_edits.h"
#include "steps/hits/hit_overlay.h"

namespace ochron {
namespace {

constexpr double kFitReach = 6;  // pixels
constexpr double kFitSnap = 14;  // pixels

/// Fitting a clip by hand: its other end holds.
class FitDrag : public PlaceDrag {
 public:
  FitDrag(Document& doc, ViewState& view, FitSpot spot, const Press& press)
      : PlaceDrag(doc, view, press.at, press.tell), spot_(spot) {}

 protected:
  void drag(double pixels, Qt::KeyboardModifiers modifiers) override {
    const auto* clip = base_->find(spot_.clip);
    if (!clip) return;
    const auto was = clip->toSong(spot_.take);
    auto to = moved(was, pixels);
    if (!modifiers.testFlag(Qt::ShiftModifier)) to = onBeat(to);
    const auto hold = spot_.start ? clip->end() : clip->start;
    const double ratio = static_cast<double>((to - hold).value) / static_cast<double>((was - hold).value);
    if (!kStretchRatioRange.accepts(ratio))
      return tell_(TempoDesk::tr("A clip can be made a tenth to ten times as long."));
    const Frames length{std::llround(static_cast<double>(clip->length.value) * ratio)};
    const auto range =
        spot_.start ? FrameRange{clip->end() - length, clip->end()} : FrameRange{clip->start, clip->start + length};
    const auto next = fitClipTo(*base_, spot_.clip, range);
    if (!next) return refuse(next.error());
    if (!doc_.edit(TempoDesk::tr("Fit a clip"), next, "fit")) return;
    const auto& map = next->tempo;
    const double bars = static_cast<double>((map.toTicks(range.end) - map.toTicks(range.start)).value) /
                        static_cast<double>(map.meterOfBar(map.barAt(range.start)).barLength().value);
    tell_(TempoDesk::tr("%1 % as long, %2 bars \u00b7 Shift: not onto a beat \u00b7 Escape takes it back")
              .arg(100 * ratio, 0, 'f', 1)
              .arg(bars, 0, 'f', 2));
  }

 private:
  Frames onBeat(Frames at) const {
    const auto& map = base_->tempo;
    const auto ticks = map.toTicks(at);
    const int bar = map.barAt(ticks);
    const auto beat = map.meterOfBar(bar).beatLength();
    const auto into = ticks - map.barStart(bar);
    const auto line = map.barStart(bar) + beat * ((into + beat / 2).value / beat.value);
    const auto frame = map.toFrames(line);
    return std::abs(view_.xOf(frame) - view_.xOf(at)) <= kFitSnap ? frame : at;
  }

  FitSpot spot_;
};

}  // namespace

std::optional<FitSpot> FitOverlay::at(QPointF point) const {
  const auto* set = lanes_.setAt(point.y());
  if (doc_.step() != Step::tempo || !doc_.tempoDesk().recordingFollows() || doc_.transport().original() || !set ||
      point.x() < kGutterWidth)
    return {};
  const auto hit = set->id == doc_.selection().set() ? hits_.at(point) : std::nullopt;
  for (const auto& c : *set->clips) {
    const double x0 = view_.xOf(c.start);
    const double x1 = view_.xOf(c.end());
    if (point.x() < x0 - kFitReach || point.x() > x1 + kFitReach) continue;
    if (std::abs(point.x() - x1) < kFitReach) return FitSpot{c.id, c.played().end, false};
    if (std::abs(point.x() - x0) < kFitReach) return FitSpot{c.id, c.played().start, true};
    if (!hit || hit->take != c.take) continue;
    for (const auto& h : *doc_.song().hitsIn(*set, c))
      if (h.id == hit->hit && c.played().contains(h.at) && h.at > c.played().start) return FitSpot{c.id, h.at, false};
  }
  return {};
}

std::unique_ptr<Gesture> FitOverlay::take(const FitSpot& spot, const Press& press) {
  return std::make_unique<FitDrag>(doc_, view_, spot, press);
}

}  // namespace ochron
