#include "edits/cell_edits.h"

#include <algorithm>

#include "edits/edit_tools.h"

namespace ochron {
namespace {

constexpr double kEndFadeMs = 3;  // where a sound is cut off

/// Take time of the stroke that a clip begins with.
Frames strokeOf(const Song& song, const MicSet& set, const Clip& clip) {
  Clip recorded = clip;
  changeExtras(recorded, [](ClipExtras& e) { e.sound.reset(); });
  const auto hit = song.hitAtStart(set, recorded);
  return hit ? hit->at : clip.played().start;
}

}  // namespace

Result<Song> giveSound(const Song& song, const ClipIds& ids, const IncomingSound& sound, Frames attack) {
  MediaId media;
  auto next =
      withClips(song, ids, [&](Song& edited, MicSet& set, ClipList& clips, const ChosenClips& chosen) -> Result<void> {
        if (!media) media = takeIn(edited, sound);
        const auto fade = framesFromMs(kEndFadeMs, song.rate);
        for (auto& c : clips) {
          if (!chosen.contains(c.id)) continue;
          const auto offset = strokeOf(song, set, c) - attack;
          changeExtras(c, [&](ClipExtras& e) {
            e.media.clear();
            e.sound = TakeMic{{}, media, offset};
          });
          if (offset + sound.length > c.played().end) c.fadeOut.length = std::max(c.fadeOut.length, fade);
        }
        takeOutOfPlan(set, clips, chosen);
        for (auto& c : clips) fitFades(c);
        return {};
      });
  if (next) dropUnusedMedia(*next);
  return next;
}

Result<Song> giveRecordingBack(const Song& song, const ClipIds& ids) {
  const bool any = std::any_of(ids.begin(), ids.end(), [&](ClipId id) {
    const auto* c = song.find(id);
    return c && c->extras->sound;
  });
  if (!any) return fail(ErrorKind::refused, "None of these has a sound of its own. Choose one that has.");
  auto next = withClips(song, ids, [](Song&, MicSet&, ClipList& clips, const ChosenClips& chosen) -> Result<void> {
    for (auto& c : clips)
      if (chosen.contains(c.id)) changeExtras(c, [](ClipExtras& e) { e.sound.reset(); });
    return {};
  });
  if (next) dropUnusedMedia(*next);
  return next;
}

}  // namespace ochron
