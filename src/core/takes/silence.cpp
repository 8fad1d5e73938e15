#include "takes/silence.h"

#include <algorithm>
#include <cmath>
#include <span>
#include <utility>

namespace ochron {
namespace {

/// Where a channel rests: what its quietest quarter lies about. A recording with a constant voltage in it is as silent
/// as one without.
int restOf(std::span<const Peak> bins) {
  constexpr std::size_t kQuietest = 4;
  std::vector<std::pair<int, int>> all;  // how far each bin reaches, and its middle
  all.reserve(bins.size());
  for (const auto& p : bins) all.emplace_back(p.high - p.low, (p.high + p.low) / 2);
  if (all.empty()) return 0;
  const auto quiet = all.begin() + static_cast<std::ptrdiff_t>((all.size() - 1) / kQuietest);
  std::nth_element(all.begin(), quiet, all.end());
  const auto middle = all.begin() + (quiet - all.begin()) / 2;
  std::nth_element(all.begin(), middle, quiet + 1, [](auto& a, auto& b) { return a.second < b.second; });
  return middle->second;
}

/// Bins of a recording that are loud, as stretches of take time, added to `loud`.
void addLoud(const DecodedMedia& media, Frames offset, FrameRange within, int threshold,
             std::vector<FrameRange>& loud) {
  for (int c = 0; c < media.channels(); ++c) {
    const auto& bins = media.peaks(c).levels.front();
    const int rest = restOf(bins);
    const auto first = std::max<std::int64_t>(0, (within.start - offset).value / kPeakBaseFrames);
    const auto last = std::min<std::int64_t>(std::ssize(bins), (within.end - offset).value / kPeakBaseFrames + 1);
    for (auto i = first; i < last; ++i) {
      const auto& p = bins[static_cast<std::size_t>(i)];
      if (std::max<int>(p.high - rest, rest - p.low) < threshold) continue;
      const auto at = offset + Frames{i * kPeakBaseFrames};
      if (!loud.empty() && loud.back().end == at)
        loud.back().end = at + Frames{kPeakBaseFrames};
      else
        loud.push_back({at, at + Frames{kPeakBaseFrames}});
    }
  }
}

}  // namespace

std::vector<FrameRange> silentGaps(const Song& song, SetId id, const MediaPool& pool, const SilenceSettings& settings) {
  std::vector<FrameRange> out;
  const auto* set = song.find(id);
  if (!set) return out;
  const auto frames = [&](double ms) { return framesFromMs(ms, song.rate); };
  const int threshold = std::max(1, static_cast<int>(std::lround(32767 * std::pow(10.0, settings.levelDb / 20))));
  const auto pad = frames(settings.padMs);
  const auto least = frames(settings.lengthMs);
  for (const auto& c : *set->clips) {
    std::vector<FrameRange> loud;
    const auto played = c.played();
    for (const auto track : set->tracks) {
      const auto* mic = song.micFor(*set, c, track);
      const auto media = mic ? pool.find(mic->media) : pool.end();
      if (media != pool.end()) addLoud(*media->second, mic->offset, played, threshold, loud);
    }
    std::sort(loud.begin(), loud.end(), [](auto& a, auto& b) { return a.start < b.start; });
    std::vector<FrameRange> gaps;
    auto from = played.start;
    const auto close = [&](Frames to, bool padAfter) {
      const FrameRange gap{from == played.start ? from : from + pad, padAfter ? to - pad : to};
      if (gap.length() >= least) gaps.push_back(gap);
    };
    for (const auto& l : loud) {
      close(std::min(l.start, played.end), true);
      from = std::max(from, l.end);
    }
    close(played.end, false);
    for (const auto& g : gaps) {
      const auto a = c.toSong(g.start);
      const auto b = c.toSong(g.end);
      out.push_back(c.reversed ? FrameRange{b + Frames{1}, a + Frames{1}} : FrameRange{a, b});
    }
  }
  std::sort(out.begin(), out.end(), [](auto& a, auto& b) { return a.start < b.start; });
  return out;
}

}  // namespace ochron
