#include "feel/timings.h"

#include <algorithm>
#include <utility>

#include "edits/pieces.h"

namespace ochron {

Timings::Read Timings::readBy(const Song& song, const MicSet& set) {
  Read out{song.rate, song.tempo, set.hits, set.plan, set.clips, set.locks, {}};
  for (const auto& take : song.takes)
    for (const auto& facts : take.facts)
      if (facts.set == set.id) out.found.emplace_back(take.id, facts.hits);
  return out;
}

const TimingResult& Timings::of(const Song& song, SetId id) {
  static const TimingResult none;
  const auto* set = song.find(id);
  if (!set) return none;
  auto reads = readBy(song, *set);
  const auto known = read_.find(id);
  if (known != read_.end()) {
    if (known->second == reads) return results_[id];
    // A plan that was carried out is the same plan: what it cut counts as it was.
    const auto clips = std::exchange(known->second.clips, reads.clips);
    if (set->locks.empty() && known->second == reads && withoutPlan(*clips) == withoutPlan(*reads.clips))
      return results_[id];
  }
  read_.insert_or_assign(id, std::move(reads));
  return results_[id] = planTiming(song, id, memories_[id]);
}

const std::map<SetId, TimingResult>& Timings::all(const Song& song) {
  std::erase_if(read_, [&](const auto& r) { return !song.find(r.first); });
  std::erase_if(results_, [&](const auto& r) { return !song.find(r.first); });
  std::erase_if(memories_, [&](const auto& m) { return !song.find(m.first); });
  for (const auto& set : song.sets) of(song, set.id);
  return results_;
}

bool samePlanInput(const Song& a, const Song& b, SetId id, bool clipsToo) {
  const auto* x = a.find(id);
  const auto* y = b.find(id);
  if (!x || !y) return x == y;
  const bool settings = a.rate == b.rate && x->locked == y->locked && x->locks == y->locks && x->hits == y->hits &&
                        x->plan == y->plan && a.tempo == b.tempo;
  if (!settings || (clipsToo && x->clips != y->clips)) return false;
  const auto sameHits = [&](const Take& take) {
    return b.find(take.id) == nullptr || a.hitsOf(take.id, id) == b.hitsOf(take.id, id);
  };
  return std::all_of(a.takes.begin(), a.takes.end(), sameHits);
}

}  // namespace ochron
