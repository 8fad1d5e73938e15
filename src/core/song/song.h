#pragma once

#include <array>
#include <optional>
#include <set>
#include <string>
#include <string_view>
#include <vector>

#include "base/ids.h"
#include "base/shared.h"
#include "base/units.h"
#include "song/clip.h"
#include "song/foreign.h"
#include "song/hit.h"
#include "song/insert.h"
#include "song/layer.h"
#include "song/marks.h"
#include "song/pattern.h"
#include "song/print.h"
#include "song/source_tempo.h"
#include "song/take_mic.h"
#include "song/timing.h"
#include "song/tuning.h"
#include "terms/sung.h"
#include "time/anchors.h"
#include "time/tempo_map.h"

namespace ochron {

enum class MicRole { none, kickIn, kickOut, kick, snareTop, snareBottom, snare, tom, hat, cymbal, overhead, room };
inline constexpr std::array<std::string_view, 12> kMicRoleNames{"none",      "kick in",      "kick out", "kick",
                                                                "snare top", "snare bottom", "snare",    "tom",
                                                                "hat",       "cymbal",       "overhead", "room"};

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
  std::vector<MediaId> printedFrom;           ///< the recordings it was rendered from; none: it was recorded
  std::optional<double> bpm = {};             ///< as its file or its name says: a hint, kBpmRange

  bool operator==(const Media&) const = default;
};

/// What was found out about a take on the mics of one set, on take time: it survives cutting and moving.
struct SetFacts {
  SetId set;
  Shared<HitList> hits;          ///< on the set's guides
  Shared<SungLine> line;         ///< its pitch and notes; none: not listened for, or no single line
  std::optional<double> struck;  ///< how surely its hits are strokes of drums, 0 to 1; none: not known

  bool operator==(const SetFacts&) const = default;
};

/// Files recorded together. Take time starts at the earliest file's first frame.
struct Take {
  TakeId id;
  std::string name;
  std::vector<TakeMic> mics;
  Frames length;
  std::vector<SetFacts> facts;       ///< at most one for each mic set
  std::optional<SourceTempo> tempo;  ///< its own, as far as the user has settled it

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
  Shared<Envelope> gainEnvelope;  ///< dB, kGainEnvelopeRange, in song time; added to the gain
  Shared<Envelope> panEnvelope;   ///< kPanRange; added to the pan
  Shared<Envelope> muteEnvelope;  ///< 1 mutes, 0 lets through; steps
  Hold envelopeHold = Hold::clock;
  Shared<InsertList> inserts;

  bool operator==(const Track&) const = default;
};

/// Tracks that are always edited as one. A single track is a set of one.
struct MicSet {
  SetId id;
  std::string name;
  std::vector<TrackId> tracks;
  HitSettings hits;
  Shared<TimingPlan> plan;
  Shared<PitchPlan> pitch;
  Shared<ClipList> clips;
  std::optional<StretchMethod> method;  ///< of clips that have none of their own; none: by what was heard
  bool locked = false;                  ///< no edit at all until unlocked
  std::vector<FrameRange> locks;        ///< song time; sorted, apart: what lies in them stays as it is
  Shared<InsertList> inserts;           ///< in all its tracks alike, behind their own

  bool operator==(const MicSet&) const = default;
};

struct Song {
  std::string name = "Untitled";
  int rate = 48'000;
  TempoMap tempo;
  Shared<TempoAnchors> anchors;  ///< what the tempo map was made of; none: it was set as it is
  AnchorSettings anchorSettings;
  std::optional<TempoDoubt> tempoDoubt;                 ///< of a map that was heard; none: it is sure, or was set
  std::set<std::pair<CheckKind, Ticks>> acceptedTempo;  ///< places of the map the user has looked at and found good
  std::vector<Media> media;
  std::vector<Take> takes;
  std::vector<Track> tracks;  ///< in screen order
  std::vector<MicSet> sets;
  std::vector<Groove> grooves;     ///< kept with the song, names unlike
  std::vector<Marker> markers;     ///< sorted by place
  std::vector<MuteSpan> spans;     ///< sorted by start
  std::vector<Bundle> bundles;     ///< each holds at least one clip
  std::vector<Print> prints;       ///< in the order in which they were made
  std::vector<Layer> layers;       ///< in the order in which they were added
  std::vector<Pattern> patterns;   ///< likewise
  Shared<Envelope> gainEnvelope;   ///< of the whole song: dB, kGainEnvelopeRange, in song time
  Shared<Envelope> speedEnvelope;  ///< of the whole song: percent, kSpeedRange, in song time
  SpeedManner speedManner;
  Shared<InsertList> inserts;  ///< in the mix
  Hold envelopeHold = Hold::clock;
  std::uint64_t lastId = 0;
  Shared<ForeignKeys> foreign;  ///< what its file held that this version does not know

  bool operator==(const Song&) const = default;

  const Media* find(MediaId id) const;
  const Take* find(TakeId id) const;
  const Track* find(TrackId id) const;
  const MicSet* find(SetId id) const;
  const MicSet* setOf(TrackId id) const;
  const MicSet* setOf(ClipId id) const;
  const Clip* find(ClipId id) const;
  const Marker* find(MarkerId id) const;
  const MuteSpan* find(SpanId id) const;
  const Bundle* find(BundleId id) const;
  const Layer* find(LayerId id) const;
  const Pattern* find(PatternId id) const;
  const Print* find(PrintId id) const;
  /// The layer that is heard on a track; null: it plays recordings.
  const Layer* layerOn(TrackId track) const;
  const TakeMic* micOf(TakeId take, TrackId track) const;
  /// The recording that a clip of a set plays on one of the set's tracks; null where it is silent.
  const TakeMic* micFor(const MicSet& set, const Clip& clip, TrackId track) const;
  /// Length of the take that a clip plays from.
  Frames takeLength(const Clip& clip) const;
  /// All hits found in what a clip plays: those of the set that its recordings were made for.
  const Shared<HitList>& hitsIn(const MicSet& set, const Clip& clip) const;
  /// All hits found for a set in a take; empty when detection has not run.
  const Shared<HitList>& hitsOf(TakeId take, SetId set) const;
  /// The hit that a clip begins with: its piece's, else the first that counts within 30 ms. None when there is none.
  std::optional<Hit> hitAtStart(const MicSet& set, const Clip& clip) const;
  /// The line found for a set in a take; without notes when it was not listened for.
  const Shared<SungLine>& lineOf(TakeId take, SetId set) const;
  /// Whether a set is a drum kit: a mic of it is named for a drum, or it has three and more, and nothing says that they
  /// hear another instrument.
  bool isKit(const MicSet& set, TakeId take) const;
  /// How a clip is stretched when it is: as it says, else its set, else by what it is: a kit, a line that was listened
  /// for (single notes), hits that are not struck (chords).
  StretchMethod methodOf(const MicSet& set, const Clip& clip) const;
  /// By what it is alone.
  StretchMethod materialOf(const MicSet& set, TakeId take) const;
  /// End of the last clip, at least 0.
  Frames end() const;

  template <class Tag>
  Id<Tag> newId() {
    return Id<Tag>{++lastId};
  }
};

/// What breaks the rules every song keeps (docs/invariants.md), one sentence each; empty when all is well: such a song
/// can be saved and opened again. What is the same in `known`, a song that keeps them, is not looked at again.
std::vector<std::string> brokenRules(const Song& song, const Song* known = nullptr);

}  // namespace ochron
