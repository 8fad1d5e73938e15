#include "edits/pattern_edits.h"

#include <algorithm>

#include "edits/edit_tools.h"

namespace ochron {

Result<Song> layStruck(const Song& song, SetId id, std::vector<Struck> struck, Frames until) {
  if (struck.empty()) return fail(ErrorKind::refused, "Nothing was struck.");
  std::stable_sort(struck.begin(), struck.end(), [](const Struck& a, const Struck& b) { return a.at < b.at; });
  return withSet(song, id, [&](Song& next, MicSet& set) -> Result<void> {
    std::vector<Clip> laid;
    for (std::size_t i = 0; i < struck.size(); ++i) {
      const auto& s = struck[i];
      const auto* from = song.find(s.clip);
      if (!from || song.setOf(s.clip)->id != id) return clipGone();
      if (!kGainRange.accepts(from->gainDb + s.gainDb))
        return fail(ErrorKind::badInput, "The gain of a clip goes from -60 to 24 dB.");
      const auto end = i + 1 < struck.size() ? struck[i + 1].at : until;
      if (end <= s.at) continue;  // struck again at the same frame: the later one counts
      Clip clip = *from;
      clip.id = next.newId<ClipTag>();
      clip.start = s.at;
      if (clip.reversed && clip.length > end - s.at) clip.source += clip.length - (end - s.at);
      clip.length = std::min(clip.length, end - s.at);
      clip.gainDb += s.gainDb;
      clip.muted = false;
      clip.piece.reset();
      clip.bundle = {};
      clip.seam = {};
      fitFades(clip);
      laid.push_back(std::move(clip));
    }
    if (laid.empty()) return fail(ErrorKind::refused, "Nothing was struck.");
    ClipList clips = *set.clips;
    clearRange(next, clips, {laid.front().start, std::max(laid.back().end(), until)});
    for (const auto& clip : laid) placeClip(next, clips, clip);
    tidySeams(next, clips);
    set.clips = std::move(clips);
    return {};
  });
}

}  // namespace ochron
