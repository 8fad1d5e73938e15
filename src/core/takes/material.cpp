#include "takes/material.h"

#include <algorithm>

namespace ochron {

double struckShare(const Song& song, SetId id, TakeId take, const HitList& hits, const MediaPool& pool) {
  constexpr double kRises = 8;  // in power
  const auto* set = song.find(id);
  if (!set || hits.size() < 2) return 0;
  const TakeMic* mic = nullptr;
  for (const auto track : set->tracks) {
    const auto* here = song.micOf(take, track);
    if (here && pool.contains(here->media) && (!mic || (song.find(track)->guide && !song.find(mic->track)->guide)))
      mic = here;
  }
  if (!mic) return 0;
  const auto x = pool.at(mic->media)->channel(0);
  const std::int64_t wide = song.rate / 100;
  const auto power = [&](std::int64_t from) {
    double sum = 1e-9;
    for (auto i = std::max<std::int64_t>(0, from); i < std::min<std::int64_t>(from + wide, std::ssize(x)); ++i)
      sum += static_cast<double>(x[static_cast<std::size_t>(i)]) * x[static_cast<std::size_t>(i)];
    return sum;
  };
  const auto rising = std::count_if(hits.begin(), hits.end(), [&](const Hit& h) {
    const auto at = (h.at - mic->offset).value;
    return power(at) > kRises * power(at - wide);
  });
  return static_cast<double>(rising) / static_cast<double>(hits.size());
}

}  // namespace ochron
