#pragma once

#include <random>

#include "base/result.h"
#include "song/song.h"

namespace ochron::test {

/// Draws what an edit is made on, repeatably.
class Dice {
 public:
  explicit Dice(std::uint64_t seed) : engine_(seed) {}
  /// 0 to n - 1.
  std::uint64_t below(std::uint64_t n) { return n == 0 ? 0 : engine_() % n; }
  Frames frames(std::int64_t low, std::int64_t high) {
    return Frames{low + static_cast<std::int64_t>(below(static_cast<std::uint64_t>(high - low)))};
  }
  ClipIds clips(const Song& song) {
    ClipIds all;
    for (const auto& s : song.sets)
      for (const auto& c : *s.clips) all.push_back(c.id);
    ClipIds out;
    const auto n = 1 + below(4);
    for (std::uint64_t i = 0; i < n && !all.empty(); ++i) {
      const auto at = static_cast<std::ptrdiff_t>(below(all.size()));
      out.push_back(all[static_cast<std::size_t>(at)]);
      all.erase(all.begin() + at);
    }
    return out;
  }
  SetId set(const Song& song) { return song.sets[below(song.sets.size())].id; }
  TrackId track(const Song& song) { return song.tracks[below(song.tracks.size())].id; }
  FrameRange range() {
    const auto a = frames(0, 500'000);
    return {a, a + frames(1, 60'000)};
  }
  bool coin() { return below(2) == 0; }

 private:
  std::mt19937_64 engine_;
};

/// A random edit of clips, and of what lies around them: fades, spans, bundles, markers, envelopes, locks.
Result<Song> clipEdit(const Song& song, Dice& dice);
Result<Song> otherEdit(const Song& song, Dice& dice);
/// A random edit of what plans read and do: hits, timing, seams, tuning, tempo, tracks, names, typed values.
Result<Song> planEdit(const Song& song, Dice& dice);

}  // namespace ochron::test
