#include "feel/timings.h"

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
  if (known != read_.end() && known->second == reads) return results_[id];
  read_.insert_or_assign(id, std::move(reads));
  return results_[id] = planTiming(song, id);
}

const std::map<SetId, TimingResult>& Timings::all(const Song& song) {
  std::erase_if(read_, [&](const auto& r) { return !song.find(r.first); });
  std::erase_if(results_, [&](const auto& r) { return !song.find(r.first); });
  for (const auto& set : song.sets) of(song, set.id);
  return results_;
}

}  // namespace ochron
