#include "edits/fade_edits.h"

#include <algorithm>

#include "edits/clip_edits.h"
#include "edits/edit_tools.h"

namespace ochron {
namespace {

bool touches(const ClipList& clips, std::size_t i) { return i > 0 && clips[i - 1].end() == clips[i].start; }

CrossfadeRoom roomBetween(const Song& song, const Clip& a, const Clip& b) {
  return {std::min(a.length, b.handleBefore(song.takeLength(b))),
          std::min(b.length, a.handleAfter(song.takeLength(a)))};
}

}  // namespace

Result<Song> changeFades(const Song& song, const ClipIds& ids, FadeEnd end,
                         const std::function<Fade(const Clip&, Fade)>& change) {
  return withClips(song, ids, [&](Song&, MicSet& set, ClipList& clips, const ChosenClips& chosen) -> Result<void> {
    takeOutOfPlan(set, clips, chosen);
    for (std::size_t i = 0; i < clips.size(); ++i) {
      auto& c = clips[i];
      if (!chosen.contains(c.id)) continue;
      auto& fade = end == FadeEnd::in ? c.fadeIn : c.fadeOut;
      fade = change(c, fade);
      const auto most = c.length - (end == FadeEnd::in ? c.fadeOut.length : c.fadeIn.length);
      fade.length = std::clamp(fade.length, Frames{0}, most);
      if (fade.length.value == 0) continue;
      if (end == FadeEnd::in && touches(clips, i)) c.seam = {};
      if (end == FadeEnd::out && touches(clips, i + 1 < clips.size() ? i + 1 : 0)) clips[i + 1].seam = {};
    }
    return {};
  });
}

Result<Song> removeFades(const Song& song, const ClipIds& ids) {
  return withClips(song, ids, [&](Song&, MicSet& set, ClipList& clips, const ChosenClips& chosen) -> Result<void> {
    takeOutOfPlan(set, clips, chosen);
    for (std::size_t i = 0; i < clips.size(); ++i) {
      if (!chosen.contains(clips[i].id)) continue;
      clips[i].fadeIn = {};
      clips[i].fadeOut = {};
      clips[i].seam = {};
      if (i + 1 < clips.size()) clips[i + 1].seam = {};
    }
    return {};
  });
}

CrossfadeRoom crossfadeRoom(const Song& song, ClipId clip) {
  const auto* set = song.setOf(clip);
  if (!set) return {};
  const auto& clips = *set->clips;
  for (std::size_t i = 1; i < clips.size(); ++i)
    if (clips[i].id == clip) return touches(clips, i) ? roomBetween(song, clips[i - 1], clips[i]) : CrossfadeRoom{};
  return {};
}

Result<Song> changeCrossfades(const Song& song, const ClipIds& ids, const CrossfadeChange& change) {
  bool neighbour = false;
  bool material = false;
  auto next =
      withClips(song, ids, [&](Song& s, MicSet& set, ClipList& clips, const ChosenClips& chosen) -> Result<void> {
        ChosenClips both = chosen;
        for (std::size_t i = 1; i < clips.size(); ++i)
          if (chosen.contains(clips[i].id) && touches(clips, i)) both.insert(clips[i - 1].id);
        takeOutOfPlan(set, clips, both);
        for (std::size_t i = 1; i < clips.size(); ++i) {
          auto& b = clips[i];
          if (!chosen.contains(b.id) || !touches(clips, i)) continue;
          neighbour = true;
          const auto room = roomBetween(s, clips[i - 1], b);
          if ((room.before + room.after).value == 0) continue;
          material = true;
          if (change.before) b.seam.before = *change.before;
          if (change.after) b.seam.after = *change.after;
          if (change.law) b.seam.law = *change.law;
          if (change.shape) b.seam.shape = *change.shape;
          if (change.bias) b.seam.bias = std::clamp(*change.bias, -1.0, 1.0);
          b.seam.before = std::clamp(b.seam.before, Frames{0}, room.before);
          b.seam.after = std::clamp(b.seam.after, Frames{0}, room.after);
          b.seam.fill = SeamFill::none;
          if ((b.seam.before + b.seam.after).value > 0) {
            b.fadeIn = {};
            clips[i - 1].fadeOut = {};
          }
        }
        return {};
      });
  if (!next) return next;
  if (!neighbour)
    return fail(ErrorKind::refused, "A crossfade needs two clips that touch. Move them together or overlap them.");
  if (!material)
    return fail(ErrorKind::refused,
                "There is no recorded material beyond these edges to crossfade with. Trim one of the clips first.");
  return next;
}

Result<Song> tapeFade(const Song& song, const std::vector<SetId>& sets, FrameRange range, FadeEnd end) {
  if (range.empty()) return fail(ErrorKind::refused, "There is no range chosen. Drag over the lanes to choose one.");
  Result<Song> next = song;
  bool any = false;
  for (const auto id : sets) {
    const auto* set = next->find(id);
    if (!set) return setGone();
    if (std::none_of(set->clips->begin(), set->clips->end(), [&](auto& c) { return c.range().overlaps(range); }))
      continue;
    // One piece runs down: cuts inside the range are kept, so it is the last (or first) clip that gets the fade.
    if (auto cut = splitAt(*next, id, {range.start, range.end}, Frames{0})) next = std::move(cut);
    ClipIds inside;
    for (const auto& c : *next->find(id)->clips)
      if (c.start >= range.start && c.end() <= range.end) inside.push_back(c.id);
    if (inside.empty()) continue;
    any = true;
    next = changeFades(*next, {end == FadeEnd::out ? inside.back() : inside.front()}, end, [&](const Clip& c, Fade) {
      return Fade{c.length, FadeShape::line, 0, FadeKind::tape};
    });
    if (!next) return next;
  }
  if (!any) return fail(ErrorKind::refused, "The range holds no clip. Drag over the lanes to choose another.");
  return next;
}

}  // namespace ochron
