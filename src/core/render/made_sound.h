#pragma once

#include <functional>
#include <map>
#include <memory>
#include <span>
#include <string>
#include <unordered_map>
#include <vector>

#include "base/progress.h"
#include "media/pool.h"
#include "song/song.h"

namespace ochron {

class MadeStore;

/// One recorded channel of a mic set, as a clip plays it.
struct Voice {
  MediaId media;
  std::shared_ptr<const DecodedMedia> sound;
  int channel = 0;
  Frames offset;  ///< take time of its first frame

  /// Take time from `from` on; silence outside the recording.
  void read(Frames from, std::span<float> out) const;
  std::vector<float> read(Frames from, std::int64_t length) const;
};

/// All of a set's channels that a clip plays and that are at hand, in order. They are made together, so that their
/// phases stay in step.
struct Voices {
  std::vector<Voice> list;
  int rate = 48'000;
  std::uint64_t digest = 0;                     ///< of the recordings' contents, channels and offsets, and of the rate
  StretchMethod method = StretchMethod::drums;  ///< of the clip
  Shared<SungLine> line;                        ///< of single notes, when it was listened for
  bool lasting = true;  ///< false: a recording's content is not known (contentId), so the digest is good for now only
};
Voices voicesOf(const Song& song, const MicSet& set, const Clip& clip, const MediaPool& pool);

/// Names made sound by all that goes into it: the recordings' contents, the map, the pitch, the method, the engine and
/// its settings. Equal keys are equal sound, whatever clip or song asks.
struct MadeKey {
  std::string text;      ///< fit for a file name
  bool lasting = false;  ///< false: not to be kept on the disk
};

/// The key of sound that has just been made of these: where a recording was touched meanwhile it is good for now only,
/// as what is kept is made of what its key says.
MadeKey keyNow(MadeKey key, const Voices& voices);

/// A part of a clip's stretched take whose sound has to be computed before it can be heard.
struct MadePart {
  FrameRange range;      ///< stretched time
  bool pitched = false;  ///< with the clip's pitch envelope; else it is what lies between two pins
  MadeKey key;
};

/// Parts of a clip with a pitch envelope touch; each sounds on for so long into the next, to be joined there.
inline constexpr Frames kMadeTail{960};

/// Whether any of a clip's sound has to be made.
bool needsMaking(const Clip& clip);

/// The parts that a stretch of a clip's stretched take needs, in order and apart. What lies between them is read from
/// the recordings. How a clip is cut, moved or turned round changes none of them.
std::vector<MadePart> madeParts(const Clip& clip, FrameRange stretched, const Voices& voices);

/// The sound of one part, a channel a voice, by the clip's method. For drums the first of what follows a pin is the
/// recording itself, to the sample; only the sustain up to the next pin is stretched. A pitch envelope is carried out
/// by stretching and reading at another speed, so that the timing stays. Other parts that it rests on are taken from
/// the store, or made and put there. However long it is, it is made block by block, but for single lines. `going` is
/// told how much of it is made (0 to 1) and ends it by false: null then.
using PartGoing = std::function<bool(double)>;
std::shared_ptr<const DecodedMedia> makePart(const Clip& clip, const MadePart& part, const Voices& voices,
                                             MadeStore& store, const PartGoing& going = {});

/// What is at hand of a clip's made sound.
struct ClipSound {
  struct Part {
    FrameRange range;                           ///< stretched time
    std::shared_ptr<const DecodedMedia> sound;  ///< null while it is not made
    bool quick = false;                         ///< what stands in for it (makeQuickly)
  };
  std::vector<Part> parts;
  std::map<MediaId, int> firstChannel;  ///< of each recording in a part's sound
};
using MadeSounds = std::unordered_map<ClipId, ClipSound>;
/// Of the clip of a set at a place, which needs making.
ClipSound soundAtHand(const Song& song, const MicSet& set, std::size_t clip, const MediaPool& pool,
                      const MadeStore* store);
/// Of every clip whose sound is made. Reads nothing from the disk; without a store all is missing.
MadeSounds soundsAtHand(const Song& song, const MediaPool& pool, const MadeStore* store);
bool anyMissing(const MadeSounds& sounds);

/// A part that a song needs and a store has not at hand.
struct MissingPart {
  const Clip* clip;  ///< of the song
  MadePart part;
  std::shared_ptr<const Voices> voices;
};
/// Nearest to `near` (song time) first.
std::vector<MissingPart> missingParts(const Song& song, const MediaPool& pool, const MadeStore& store, Frames near);

/// Makes something that stands in for the missing parts of clips with a pitch envelope that are heard near a place, in
/// some 10 ms a part and channel, so that a turn of the envelope is heard at once. The parts still count as missing.
void makeQuickly(const Song& song, const MediaPool& pool, MadeStore& store, FrameRange near);

/// Makes the missing parts, or takes them from the disk, nearest to `near` first. `made` is called now and
/// then when there is more at hand. Fails only when cancelled.
Result<void> makeMissing(const Song& song, const MediaPool& pool, MadeStore& store, Frames near, Progress& progress,
                         const std::function<void()>& made = {});

}  // namespace ochron
