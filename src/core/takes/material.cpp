#include "takes/material.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstdint>

#include "analysis/levels/mic_level.h"
#include "dsp/fft.h"
#include "dsp/window.h"

namespace ochron {
namespace {

constexpr double kFromSeconds = 0.05;  // after a hit: its attack is over
constexpr double kWindowSeconds = 0.085;
constexpr double kNextSeconds = 0.02;              // what the window may hear of the next hit, under its fade
constexpr double kLowest = 200, kHighest = 2'500;  // Hz: tones of instruments; rides have theirs above
constexpr double kAllFrom = 100, kAllTo = 16'000;  // Hz
constexpr double kPeakPower = 8;                   // 9 dB over what is around it
constexpr double kAroundHertz = 235;               // to either side
constexpr std::size_t kFewHits = 4;
constexpr double kTonesOfNoDrum = 0.2;  // share of power in peaks, between drums and all else

/// How much of a moment's power lies in peaks of its spectrum's middle.
class TonalShare {
 public:
  explicit TonalShare(int rate)
      : rate_(rate), fft_(static_cast<int>(std::bit_floor(static_cast<unsigned>(1.4 * kWindowSeconds * rate)))) {}

  std::int64_t size() const { return fft_.size(); }
  double at(const Samples& x, std::int64_t from) {
    auto time = fft_.time();
    std::vector<float> room;
    const auto part = x.subspan(static_cast<std::size_t>(from), static_cast<std::size_t>(size())).in(room);
    for (std::size_t i = 0; i < time.size(); ++i)
      time[i] = part[i] * static_cast<float>(hannAt(static_cast<double>(i) / static_cast<double>(size())));
    fft_.forward();
    const auto bins = fft_.bins();
    const auto binOf = [&](double hertz) { return std::llround(hertz * fft_.size() / rate_); };
    const auto around = std::max<std::int64_t>(2, binOf(kAroundHertz));
    const auto last = std::min<std::int64_t>(binOf(kHighest), std::ssize(bins) - around - 1);
    double all = 1e-20;
    double peaks = 0;
    for (auto k = binOf(kAllFrom); k < std::min<std::int64_t>(binOf(kAllTo), std::ssize(bins)); ++k)
      all += static_cast<double>(std::norm(bins[static_cast<std::size_t>(k)]));
    for (auto k = std::max<std::int64_t>(around, binOf(kLowest)); k <= last; ++k) {
      std::vector<double> beside;
      for (auto b = k - around; b <= k + around; ++b)
        beside.push_back(static_cast<double>(std::norm(bins[static_cast<std::size_t>(b)])));
      const double here = beside[static_cast<std::size_t>(around)];
      if (here > kPeakPower * percentile(std::move(beside), 0.5)) peaks += here;
    }
    return peaks / all;
  }

 private:
  int rate_;
  RealFft fft_;
};

/// The mic of a set that tells: its first guide, or its first.
const TakeMic* tellingMic(const Song& song, const MicSet& set, TakeId take, const MediaPool& pool) {
  const TakeMic* mic = nullptr;
  for (const auto track : set.tracks) {
    const auto* here = song.micOf(take, track);
    if (here && pool.contains(here->media) && (!mic || (song.find(track)->guide && !song.find(mic->track)->guide)))
      mic = here;
  }
  return mic;
}

}  // namespace

double struckShare(const Song& song, SetId id, TakeId take, const HitList& hits, const MediaPool& pool) {
  const auto* set = song.find(id);
  if (!set) return 0;
  // What detection keeps goes down to the noise; only what counts says what the material is.
  const auto counted = activeHits(hits, HitSettings{}, song.rate);
  const auto* mic = tellingMic(song, *set, take, pool);
  if (counted.size() < 2 || !mic) return 0;
  const auto& x = pool.at(mic->media)->channel(0);
  TonalShare tonal(song.rate);
  const auto frames = [&](double seconds) { return static_cast<std::int64_t>(seconds * song.rate); };
  std::vector<double> alone;
  std::vector<double> every;
  for (std::size_t i = 0; i < counted.size(); ++i) {
    const auto from = (counted[i].at - mic->offset).value + frames(kFromSeconds);
    if (from < 0 || from + tonal.size() > std::ssize(x)) continue;
    every.push_back(tonal.at(x, from));
    const bool free = i + 1 == counted.size() ||
                      (counted[i + 1].at - mic->offset).value >= from + tonal.size() - frames(kNextSeconds);
    if (free) alone.push_back(every.back());
  }
  if (every.empty()) return 0;
  const double share = percentile(alone.size() >= kFewHits ? alone : every, 0.5);
  return std::clamp(1 - share / (2 * kTonesOfNoDrum), 0.0, 1.0);
}

}  // namespace ochron
