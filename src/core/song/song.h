#pragma once

#include <array>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/fade_kinds.h"
#include "base/ids.h"
#include "base/shared.h"
#include "base/units.h"
#include "song/hit.h"
#include "song/timing.h"
#include "time/tempo_map.h"

namespace ochron {

enum class MicRole { none, kickIn, kickOut, kick, snareTop, snareBottom, snare, tom, hat, cymbal, overhead, room };
inline constexpr std::array<std::string_view, 12> kMicRoleNames{"none",      "kick in",      "kick out", "kick",
                                                                "snare top", "snare bottom", "snare",    "tom",
                                                                "hat",       "cymbal",       "overhead", "room"};

inline constexpr SettingRange kGainRange{"gain", "dB", -60, 24, 0.1, 0};
inline constexpr SettingRange kPanRange{"pan", "%", -100, 100, 1, 0};

/// One recorded file. Never written to.
struct Media {
  MediaId id;
  std::string name;
  std::string path;  ///< relative to the project folder when it lies inside, absolute otherwise
  std::string fingerprint;
  int channels = 1;
  int fileRate = 48'000;
  Frames length;                              ///< at the song's rate
  std::optional<std::int64_t> timeReference;  ///< BWF, at the file's rate

  bool operator==(const Media&) const = default;
};

/// One mic of a take: which recording belongs to which track.
struct TakeMic {
  TrackId track;
  MediaId media;
  Frames offset;  ///< take time of the recording's first frame

  bool operator==(const TakeMic&) const = default;
};

struct SetHits {
  SetId set;
  Shared<HitList> hits;

  bool operator==(const SetHits&) const = default;
};

/// Files recorded together. Take time starts at the earliest file's first frame.
struct Take {
  TakeId id;
  std::string name;
  std::vector<TakeMic> mics;
  Frames length;
  std::vector<SetHits> hits;  ///< what detection found on each mic set's guides

  bool operator==(const Take&) const = default;
};

struct Track {
  TrackId id;
  std::string name;
  MicRole role = MicRole::none;
  int colour = 0;  ///< index into the theme's tab colours
  bool guide = false;
  double gainDb = 0;
  double pan = 0;  ///< -100 left to 100 right; 0 leaves the signal as it is on both sides
  bool muted = false;
  bool solo = false;

  bool operator==(const Track&) const = default;
};

struct Fade {
  Frames length;
  FadeShape shape = FadeShape::line;
  double bend = 0;

  bool operator==(const Fade&) const = default;
};

/// The joint with the piece before, in force while both touch. The crossfade reaches from start - before to start +
/// after.
struct Seam {
  Frames before;
  Frames after;
  CrossfadeLaw law = CrossfadeLaw::matched;
  FadeShape shape = FadeShape::line;
  double bias = 0;
  SeamFill fill = SeamFill::none;

  bool operator==(const Seam&) const = default;
};

/// Marks a clip that a timing plan made. The plan's next run takes neighbouring pieces of one origin together again.
struct PlanPiece {
  FrameRange covers;  ///< take time this piece stands for; neighbours' ranges touch
  Frames home;        ///< song time minus take time of the clip it was cut from
  HitId hit;          ///< the hit it begins with; none for the part before the first hit
  ClipId origin;

  bool operator==(const PlanPiece&) const = default;
};

/// A point of the recording fixed to a point of the song.
struct Pin {
  Frames take;
  Frames song;

  bool operator==(const Pin&) const = default;
};

enum class ClipHold { clock, grid };

/// A piece of a take placed in the song, on every track of its mic set alike.
struct Clip {
  ClipId id;
  TakeId take;
  Frames start;   ///< song time
  Frames source;  ///< take time of the first frame
  Frames length;  ///< song time
  double gainDb = 0;
  Fade fadeIn;
  Fade fadeOut;
  Seam seam;
  bool muted = false;
  ClipHold hold = ClipHold::clock;
  std::optional<PlanPiece> piece;
  Shared<std::vector<Pin>> pins;  ///< empty: played as recorded

  bool operator==(const Clip&) const = default;
  Frames end() const { return start + length; }
  FrameRange range() const { return {start, end()}; }
  /// Song time minus take time.
  Frames shift() const { return start - source; }
};

/// Sorted by start, never overlapping.
using ClipList = std::vector<Clip>;

/// Tracks that are always edited as one. A single track is a set of one.
struct MicSet {
  SetId id;
  std::string name;
  std::vector<TrackId> tracks;
  HitSettings hits;
  Shared<TimingPlan> plan;
  Shared<ClipList> clips;
  bool locked = false;            ///< no edit at all until unlocked
  std::vector<FrameRange> locks;  ///< song time; sorted, apart: what lies in them stays as it is

  bool operator==(const MicSet&) const = default;
};

struct Song {
  std::string name = "Untitled";
  int rate = 48'000;
  TempoMap tempo;
  std::vector<Media> media;
  std::vector<Take> takes;
  std::vector<Track> tracks;  ///< in screen order
  std::vector<MicSet> sets;
  std::vector<Groove> grooves;  ///< kept with the song, names unlike
  std::uint64_t lastId = 0;

  bool operator==(const Song&) const = default;

  const Media* find(MediaId id) const;
  const Take* find(TakeId id) const;
  const Track* find(TrackId id) const;
  const MicSet* find(SetId id) const;
  const MicSet* setOf(TrackId id) const;
  const TakeMic* micOf(TakeId take, TrackId track) const;
  /// All hits found for a set in a take; empty when detection has not run.
  const Shared<HitList>& hitsOf(TakeId take, SetId set) const;
  /// End of the last clip, at least 0.
  Frames end() const;

  template <class Tag>
  Id<Tag> newId() {
    return Id<Tag>{++lastId};
  }
};

/// What breaks the rules every song keeps (docs/invariants.md), one sentence each; empty when all is well.
std::vector<std::string> brokenRules(const Song& song);

}  // namespace ochron
