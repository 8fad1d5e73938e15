#include "canvas/snap.h"

#include <QCoreApplication>
#include <algorithm>
#include <cmath>

#include "canvas/say.h"
#include "document/clip_desk.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "feel/standing.h"
#include "time/grid.h"

namespace ochron {
std::optional<Snapper::Found> Snapper::nearest(Frames at, const ChosenClips& moving) const {
  const auto& snap = doc_.clipDesk().settings().snap;
  if (!snap.on) return {};
  std::optional<Found> best;
  auto reach = std::llround(snap.reachPixels * view_.framesPerPixel());
  const auto offer = [&](Frames place, const char* what) {
    const auto d = std::abs((place - at).value);
    if (d <= reach) {
      reach = d - 1;
      best = Found{place, say(what)};
    }
  };
  if (snap.playLine) offer(doc_.transport().cursor(), QT_TRANSLATE_NOOP("Snapper", "play line"));
  const auto& song = doc_.song();
  if (snap.markers)
    for (const auto& m : song.markers) {
      offer(song.tempo.toFrames(m.at), QT_TRANSLATE_NOOP("Snapper", "marker"));
      if (m.length.value > 0) offer(song.tempo.toFrames(m.end()), QT_TRANSLATE_NOOP("Snapper", "section"));
    }
  if (snap.edges)
    for (const auto& s : song.sets) {
      const auto& clips = *s.clips;
      auto c = std::partition_point(clips.begin(), clips.end(),
                                    [&](const Clip& x) { return x.end().value < at.value - reach; });
      for (; c != clips.end() && c->start.value <= at.value + reach; ++c)
        if (!moving.contains(c->id)) {
          offer(c->start, QT_TRANSLATE_NOOP("Snapper", "edge"));
          offer(c->end(), "edge");
        }
    }
  if (snap.hits)
    if (const auto* set = song.find(doc_.selection().set()))
      for (const auto& h :
           standingHits(song, *set, *set->clips, {Frames{at.value - reach}, Frames{at.value + reach + 1}}))
        if (!moving.contains(h.clip)) offer(h.at, QT_TRANSLATE_NOOP("Snapper", "hit"));
  if (snap.grid)
    offer(nearestLine(song.tempo, doc_.timingDesk().settings().grid, song.tempo.toTicks(at)).frame,
          QT_TRANSLATE_NOOP("Snapper", "grid"));
  return best;
}

Snapper::Move Snapper::move(const std::vector<Frames>& points, Frames by, const ChosenClips& moving) const {
  const auto& snap = doc_.clipDesk().settings().snap;
  if (!snap.on || points.empty()) return {by, {}};
  if (snap.relative) {
    const auto& map = doc_.song().tempo;
    const auto from = map.toTicks(points.front());
    const auto step = doc_.timingDesk().settings().grid.step();
    const auto steps = std::llround(static_cast<double>((map.toTicks(points.front() + by) - from).value) /
                                    static_cast<double>(step.value));
    const auto to = map.toFrames(from + step * steps);
    return {to - points.front(), Found{to, say("whole steps")}};
  }
  Move best{by, {}};
  for (const auto p : points) {
    const auto found = nearest(p + by, moving);
    if (!found) continue;
    const auto moved = found->at - p;
    if (!best.target || std::abs((moved - by).value) < std::abs((best.by - by).value)) best = {moved, found};
  }
  return best;
}

std::optional<Frames> gridLineNear(Document& document, ViewState& view, Frames at) {
  constexpr double kReach = 7;  // pixels
  const auto& map = document.song().tempo;
  const auto line = nearestLine(map, document.timingDesk().settings().grid, map.toTicks(at));
  if (std::abs(view.xOf(line.frame) - view.xOf(at)) > kReach) return {};
  return line.frame;
}

}  // namespace ochron
