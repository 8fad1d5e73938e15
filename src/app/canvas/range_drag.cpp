#include "canvas/range_drag.h"

#include <algorithm>
#include <cmath>

#include "canvas/lane_layout.h"
#include "canvas/say.h"
#include "document/selection.h"
#include "document/transport.h"
#include "document/wording.h"

namespace ochron {
namespace {

class RangeDrag : public Gesture {
 public:
  explicit RangeDrag(DragContext context) : c_(std::move(context)), anchor_(c_.view.frameAt(c_.from.x())) {}

  void move(QPointF point, Qt::KeyboardModifiers) override {
    const auto at = c_.view.frameAt(point.x());
    const auto a = snapped(std::min(anchor_, at));
    const auto b = snapped(std::max(anchor_, at));
    if (std::abs(c_.view.xOf(a) - c_.view.xOf(b)) < 4) return;
    auto& chosen = c_.doc.selection();
    chosen.setRange({a, b});
    c_.doc.transport().setCursor(a);
    auto text = say("Range of %1 s").arg(static_cast<double>((b - a).value) / c_.doc.song().rate, 0, 'f', 3);
    if (c_.doc.step() == Step::clips) {
      const auto sets = setsBetween(c_.from.y(), point.y());
      chosen.chooseIn({a, b}, sets);
      chosen.setRangeSets(sets);
      text += say(" on %1 \u00b7 %2 inside")
                  .arg(counted(sets.size(), "set", "sets"), counted(chosen.clips().size(), "clip", "clips"));
    }
    c_.tell(text);
  }

 private:
  Frames snapped(Frames at) const {
    const auto found = Snapper(c_.doc, c_.view).nearest(at);
    return found ? found->at : at;
  }
  std::vector<SetId> setsBetween(double y0, double y1) const {
    const auto& tracks = c_.doc.song().tracks;
    if (tracks.empty()) return {};
    const auto lane = [&](double y) {
      const int i = c_.lanes.laneAt(std::max(0.0, y));
      return i < 0 || i >= std::ssize(tracks) ? static_cast<int>(tracks.size()) - 1 : i;
    };
    std::vector<SetId> out;
    for (int i = std::min(lane(y0), lane(y1)); i <= std::max(lane(y0), lane(y1)); ++i) {
      const auto* set = c_.doc.song().setOf(tracks[static_cast<std::size_t>(i)].id);
      if (set && (out.empty() || out.back() != set->id)) out.push_back(set->id);
    }
    return out;
  }

  DragContext c_;
  Frames anchor_;
};

}  // namespace

std::unique_ptr<Gesture> rangeDrag(DragContext context) { return std::make_unique<RangeDrag>(std::move(context)); }

}  // namespace ochron
