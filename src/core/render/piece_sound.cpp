#include "render/piece_sound.h"

#include <algorithm>
#include <map>
#include <memory>

#include "render/segments.h"

namespace ochron {
namespace {

class PieceSounds {
 public:
  PieceSounds(const Song& song, const MicSet& set, const MediaPool& pool, const MadeStore* store)
      : song_(song), set_(set), pool_(pool), store_(store) {}

  std::vector<float> heard(const Clip& clip, TrackId track, int channel, FrameRange range) {
    const auto* source = sources_.try_emplace(track, song_, set_, track, pool_).first->second.of(clip);
    if (!source) return {};
    const auto* made = madeOf(clip);
    if (needsMaking(clip) && !(made && wholly(clip, *made, range))) return {};
    std::vector<float> room;
    const auto samples = ClipReader(clip, *source, made, channel).samples(range, room);
    return {samples.begin(), samples.end()};
  }

 private:
  const ClipSound* madeOf(const Clip& clip) {
    if (!needsMaking(clip)) return nullptr;
    const auto& clips = *set_.clips;
    const auto at = std::lower_bound(clips.begin(), clips.end(), clip.start,
                                     [](const Clip& c, Frames start) { return c.start < start; });
    if (at == clips.end() || at->id != clip.id) return nullptr;
    const auto known = made_.find(clip.id);
    if (known != made_.end()) return &known->second;
    return &made_
                .emplace(clip.id, soundAtHand(song_, set_, static_cast<std::size_t>(at - clips.begin()), pool_, store_))
                .first->second;
  }

  /// Whether all that has to be made of a stretch of song is.
  static bool wholly(const Clip& clip, const ClipSound& made, FrameRange song) {
    const auto one = clip.unplaced(song.start);
    const auto other = clip.unplaced(song.end - Frames{1});
    const FrameRange range{std::min(one, other), std::max(one, other) + Frames{1}};
    const auto covered = [&](FrameRange r) {
      auto at = r.start;
      for (const auto& part : made.parts)
        if (part.sound && !part.quick && part.range.start <= at && part.range.end > at) at = part.range.end;
      return at >= r.end;
    };
    if (clip.extras->retuned()) return covered(range);
    const auto pieces = clip.map.pieces(range);
    return std::all_of(pieces.begin(), pieces.end(),
                       [&](const EvenPiece& even) { return even.speed == 1.0 || covered(even.range); });
  }

  const Song& song_;
  const MicSet& set_;
  const MediaPool& pool_;
  const MadeStore* store_;
  std::map<TrackId, ClipSources> sources_;
  MadeSounds made_;
};

}  // namespace

PieceSound pieceSound(const Song& song, SetId set, const MediaPool& pool, const MadeStore* store) {
  const auto* found = song.find(set);
  if (!found) return {};
  return [sounds = std::make_shared<PieceSounds>(song, *found, pool, store)](const Clip& clip, TrackId track,
                                                                             int channel, FrameRange range) {
    return sounds->heard(clip, track, channel, range);
  };
}

}  // namespace ochron
