#include "takes/material.h"

#include <algorithm>
#include <cstdint>
#include <span>

namespace ochron {

namespace {

constexpr double kRises = 5;     // in power
constexpr double kAtOnce = 0.1;  // of what comes within 40 ms is there in the first 5
constexpr int kLaterSteps = 8;
constexpr double kBeforeSeconds = 0.010;
constexpr double kAfterSeconds = 0.005;

/// Power of what changes fast (the difference from frame to frame, which weighs high frequencies) in a stretch, for
/// each frame.
double fastPower(const Samples& x, std::int64_t from, std::int64_t to) {
  from = std::clamp<std::int64_t>(from, 1, std::ssize(x) - 1);
  to = std::clamp<std::int64_t>(to, from, std::ssize(x) - 1);
  double sum = 0;
  for (auto i = from; i < to; ++i) {
    const auto k = static_cast<std::size_t>(i);
    const double d = static_cast<double>(x[k]) - x[k - 1];
    sum += d * d;
  }
  return to > from ? sum / static_cast<double>(to - from) : 0;
}

}  // namespace

double struckShare(const Song& song, SetId id, TakeId take, const HitList& hits, const MediaPool& pool) {
  const auto* set = song.find(id);
  if (!set) return 0;
  // What detection keeps goes down to the noise; only what counts says what the material is.
  const auto counted = activeHits(hits, HitSettings{}, song.rate);
  if (counted.size() < 2) return 0;
  const TakeMic* mic = nullptr;
  for (const auto track : set->tracks) {
    const auto* here = song.micOf(take, track);
    if (here && pool.contains(here->media) && (!mic || (song.find(track)->guide && !song.find(mic->track)->guide)))
      mic = here;
  }
  if (!mic || pool.at(mic->media)->length() < Frames{3}) return 0;
  const auto x = pool.at(mic->media)->channel(0);
  const auto frames = [&](double seconds) { return static_cast<std::int64_t>(seconds * song.rate); };
  const auto struck = std::count_if(counted.begin(), counted.end(), [&](const Hit& h) {
    const auto at = (h.at - mic->offset).value;
    const auto step = frames(kAfterSeconds);
    const double early = fastPower(x, at, at + step);
    double later = 0;
    for (int k = 1; k < kLaterSteps; ++k) later = std::max(later, fastPower(x, at + k * step, at + (k + 1) * step));
    return early > kRises * fastPower(x, at - frames(kBeforeSeconds), at) && early > kAtOnce * later;
  });
  return static_cast<double>(struck) / static_cast<double>(counted.size());
}

}  // namespace ochron
