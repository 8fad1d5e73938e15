#include "edits/plan_edits.h"

#include <algorithm>

#include "edits/edit_tools.h"
#include "edits/hit_edits.h"
#include "edits/pieces.h"

namespace ochron {
namespace {

/// `ranges` with [range) added to them or cut out of them.
void change(std::vector<PlanGap>& gaps, TakeId take, FrameRange range, bool add) {
  std::vector<PlanGap> out;
  for (const auto& g : gaps) {
    if (g.take != take || !g.range.overlaps(range)) {
      out.push_back(g);
    } else if (add) {
      range = {std::min(range.start, g.range.start), std::max(range.end, g.range.end)};
    } else {
      if (g.range.start < range.start) out.push_back({take, {g.range.start, range.start}});
      if (g.range.end > range.end) out.push_back({take, {range.end, g.range.end}});
    }
  }
  if (add) out.push_back({take, range});
  gaps = std::move(out);
}

}  // namespace

Result<Song> setTimingPlan(const Song& song, SetId id, const TimingPlan& plan) {
  return withSet(song, id, [&](Song&, MicSet& set) -> Result<void> {
    set.plan = plan;
    return {};
  });
}

Result<Song> leaveAlone(const Song& song, SetId id, FrameRange range, bool alone) {
  return withSet(song, id, [&](Song&, MicSet& set) -> Result<void> {
    if (range.empty()) return fail(ErrorKind::refused, "There is no range chosen. Drag over the ruler or the lanes.");
    TimingPlan plan = *set.plan;
    bool any = false;
    for (const auto& c : withoutPlan(*set.clips)) {
      if (c.reversed) continue;
      const FrameRange part{std::max(range.start, c.start), std::min(range.end, c.end())};
      if (part.empty()) continue;
      change(plan.gaps, c.take, {c.toTake(part.start), c.toTake(part.end)}, alone);
      any = true;
    }
    if (!any) return fail(ErrorKind::refused, "The range holds nothing of \"" + set.name + "\".");
    set.plan = std::move(plan);
    return {};
  });
}

Result<Song> setHitSettings(const Song& song, SetId id, const HitSettings& settings) {
  if (auto ok = checkRanges(settings, kHitNumbers); !ok) return tl::unexpected(ok.error());
  for (const auto& [track, guide] : settings.guides)
    if (auto ok = checkRanges(guide, kGuideNumbers); !ok) return tl::unexpected(ok.error());
  return withSet(song, id, [&](Song&, MicSet& set) -> Result<void> {
    set.hits = settings;
    return {};
  });
}

Result<Song> keepGroove(const Song& song, const Groove& groove) {
  if (groove.name.empty()) return fail(ErrorKind::badInput, "A groove needs a name.");
  Song next = song;
  std::erase_if(next.grooves, [&](const Groove& g) { return g.name == groove.name; });
  next.grooves.push_back(groove);
  return next;
}

Result<Song> dropGroove(const Song& song, const std::string& name) {
  Song next = song;
  if (std::erase_if(next.grooves, [&](const Groove& g) { return g.name == name; }) == 0)
    return fail(ErrorKind::notFound, "There is no groove \"" + name + "\" in the song.");
  return next;
}

}  // namespace ochron
