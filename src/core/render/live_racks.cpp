#include "render/live_racks.h"

#include <algorithm>
#include <set>

namespace ochron {

namespace {
std::set<std::string> movedIn(const Insert& insert) {
  std::set<std::string> out;
  for (const auto& [symbol, control] : insert.moved) out.insert(symbol);
  return out;
}
}  // namespace

void LiveRacks::know(std::vector<EffectInfo> effects) { known_ = std::move(effects); }

const EffectInfo* LiveRacks::find(const std::string& uri) const {
  const auto found = std::find_if(known_.begin(), known_.end(), [&](const EffectInfo& e) { return e.uri == uri; });
  return found == known_.end() ? nullptr : &*found;
}

void LiveRacks::follow(const Song& song) {
  std::set<Where> wanted;
  makeRacks(song, [&](const Insert& insert, TrackId track, int channels) -> std::shared_ptr<RackSlot> {
    const Where where{insert.id, track};
    wanted.insert(where);
    const auto* info = find(insert.effect);
    if (!info) return nullptr;
    auto& placed = placed_[where];
    if (placed.effect && (placed.effect->rate() != song.rate || placed.effect->held() != insert.state)) placed = {};
    if (insert.state->missing())
      placed.trouble =
          "What " + info->name +
          " held is missing from the song's folder, so sound goes past it. Put the folder \"effects\" back "
          "and open the song again, or restart it as new.";
    else if (!placed.effect && (placed.wanted->missing() || placed.wanted != insert.state))
      placed.trouble.clear();
    placed.wanted = insert.state;
    if (!placed.effect && placed.trouble.empty()) {
      auto started = Effect::start(*info, song.rate, channels, insert.values, insert.state, true);
      if (!started) {
        placed.trouble = started.error().message;
        return nullptr;
      }
      placed.effect = *started;
    }
    if (placed.effect) placed.effect->setAll(insert.values, movedIn(insert));
    if (placed.slot) placed.slot->setOn(insert.on);
    if (placed.slot && placed.moved != insert.moved) placed.slot->follow(courseOf(insert, *info));
    placed.moved = insert.moved;
    return nullptr;
  });
  std::erase_if(placed_, [&](const auto& p) { return !wanted.contains(p.first); });
  build(song);
}

void LiveRacks::build(const Song& song) {
  std::vector<const RackSlot*> stages;
  auto racks = makeRacks(song, [&](const Insert& insert, TrackId track, int) -> std::shared_ptr<RackSlot> {
    const auto at = placed_.find({insert.id, track});
    if (at == placed_.end() || !at->second.effect) return nullptr;
    auto& [effect, slot, trouble, wanted, moved] = at->second;
    if (effect->state() == Effect::State::starting && !slot) return nullptr;
    // One that is later than it was needs another delay beside it.
    if (!slot || slot->latency() != effect->latency()) {
      slot = std::make_shared<RackSlot>(effect, song.rate, insert.on);
      slot->follow(courseOf(insert, effect->info()));
    }
    stages.push_back(slot.get());
    return slot;
  });
  if (stages == built_) return;
  built_ = std::move(stages);
  racks_ = std::move(racks);
}

bool LiveRacks::watch(const Song& song) {
  for (auto& [where, placed] : placed_)
    if (placed.effect) placed.effect->watch();
  const auto before = racks_;
  build(song);
  return racks_ != before;
}

LiveRacks::Told LiveRacks::told(InsertId insert) const {
  Told out;
  for (const auto& [where, placed] : placed_) {
    if (where.first != insert) continue;
    const auto state = !placed.effect                                      ? State::stopped
                       : placed.effect->state() == Effect::State::starting ? State::starting
                       : placed.effect->state() == Effect::State::ready    ? State::ready
                                                                           : State::stopped;
    // The worst of all tracks is told.
    if (out.state != State::stopped) out.state = state;
    if (state == State::stopped) out.trouble = placed.effect ? placed.effect->trouble() : placed.trouble;
    if (placed.slot) {
      out.latency = std::max(out.latency, placed.slot->latency());
      out.missed += placed.slot->missed();
    }
  }
  return out;
}

const Effect* LiveRacks::playing(InsertId insert) const {
  const auto at = placed_.lower_bound({insert, TrackId{}});
  return at != placed_.end() && at->first.first == insert ? at->second.effect.get() : nullptr;
}

Result<void> LiveRacks::restart(InsertId insert) {
  Result<void> all;
  for (auto& [where, placed] : placed_) {
    if (where.first != insert) continue;
    placed.trouble.clear();
    if (placed.effect && placed.effect->state() == Effect::State::stopped)
      if (auto ok = placed.effect->restart(); !ok && all) all = ok;
  }
  return all;
}

}  // namespace ochron
