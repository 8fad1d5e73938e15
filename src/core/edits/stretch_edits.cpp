#include "edits/stretch_edits.h"

#include <algorithm>
#include <cmath>

#include "edits/clip_edits.h"
#include "edits/edit_tools.h"

namespace ochron {
namespace {

/// The pins of what a clip plays, ratio times as long from the clip's window on.
std::vector<Pin> pinsFor(const Song& song, const MicSet& set, const Clip& clip, double ratio) {
  const auto played = clip.played();
  const Frames apart{static_cast<std::int64_t>(kLeastApartSeconds * song.rate)};
  const auto scaled = [&](Frames take) {
    const auto into = clip.map.stretched(take) - clip.source;
    return clip.source + Frames{std::llround(static_cast<double>(into.value) * ratio)};
  };
  std::vector<Pin> pins{{played.start, clip.source}};
  for (const auto& hit : activeHits(*song.hitsIn(set, clip), set.hits, song.rate)) {
    const auto reach = reachOf(hit);
    const auto base = scaled(reach.first);
    for (const auto at : {reach.first, reach.last}) {
      const Pin pin{at, base + (at - reach.first)};
      const auto& before = pins.back();
      if (at < played.end && pin.take >= before.take + apart && pin.stretched >= before.stretched + apart)
        pins.push_back(pin);
    }
  }
  const Pin end{played.end, clip.source + Frames{std::llround(static_cast<double>(clip.length.value) * ratio)}};
  while (pins.size() > 1 && (pins.back().take >= end.take || pins.back().stretched >= end.stretched)) pins.pop_back();
  pins.push_back(end);
  return pins;
}

}  // namespace

Result<Song> stretchAtHits(const Song& song, ClipId id, double ratio) {
  if (!kStretchRatioRange.accepts(ratio))
    return fail(ErrorKind::badInput, "A clip can be made a tenth to ten times as long.");
  return withClips(
      song, {id}, [&](Song& next, MicSet& set, ClipList& clips, const ChosenClips& chosen) -> Result<void> {
        takeOutOfPlan(set, clips, chosen);
        const auto found = std::find_if(clips.begin(), clips.end(), [&](const Clip& c) { return c.id == id; });
        Clip clip = *found;
        auto pins = pinsFor(song, set, clip, ratio);
        const auto length = pins.back().stretched - clip.source;
        if (length.value < 1) return fail(ErrorKind::refused, "Nothing would be left of the clip.");
        clip.map = TakeMap(std::move(pins));
        clip.length = length;
        fitFades(clip);
        clips.erase(found);
        placeClip(next, clips, clip);
        tidySeams(next, clips);
        return {};
      });
}

Result<Song> setStretchMethod(const Song& song, const ClipIds& ids, std::optional<StretchMethod> method) {
  return withClips(song, ids, [&](Song&, MicSet&, ClipList& clips, const ChosenClips& chosen) -> Result<void> {
    ChosenClips origins;
    for (const auto& c : clips)
      if (c.piece && chosen.contains(c.id)) origins.insert(c.piece->origin);
    for (auto& c : clips)
      if (c.piece ? origins.contains(c.piece->origin) : chosen.contains(c.id))
        changeExtras(c, [&](ClipExtras& e) { e.method = method; });
    return {};
  });
}

Result<Song> setStretchMethod(const Song& song, SetId set, std::optional<StretchMethod> method) {
  return withSet(song, set, [&](Song&, MicSet& s) -> Result<void> {
    s.method = method;
    return {};
  });
}

}  // namespace ochron
