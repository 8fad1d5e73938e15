#pragma once

#include <optional>
#include <string>
#include <vector>

#include "base/ids.h"
#include "base/setting.h"
#include "base/shared.h"
#include "base/units.h"
#include "song/envelope.h"
#include "song/formants.h"
#include "song/hold.h"
#include "song/seam_fill.h"
#include "song/take_map.h"
#include "song/take_mic.h"
#include "terms/fade_kinds.h"
#include "terms/stretch_method.h"

namespace ochron {

inline constexpr SettingRange kGainRange{"gain", "dB", -60, 24, 0.1, 0};
inline constexpr SettingRange kPanRange{"pan", "%", -100, 100, 1, 0};
inline constexpr SettingRange kBendRange{"bend", "%", -100, 100, 5, 0};

struct Fade {
  Frames length;
  FadeShape shape = FadeShape::line;
  double bend = 0;  ///< -1 to 1, as fadeGain() reads it
  FadeKind kind = FadeKind::gain;

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
  FrameRange covers;  ///< what this piece stands for, in the stretched time of `map`; neighbours' ranges touch
  Frames home;        ///< song time minus that time, of the clip it was cut from
  HitId hit;          ///< the hit it begins with; none for the part before the first hit
  ClipId origin;
  TakeMap map;           ///< of the clip it was cut from
  bool unheard = false;  ///< its joint with the piece before goes by the attacks alone: still to be listened for

  bool operator==(const PlanPiece&) const = default;
};

inline constexpr int kMostChokes = 8;

/// What few clips have; shared, so that lists of thousands stay small.
struct ClipExtras {
  std::string name;                     ///< empty: the take's name is shown
  std::optional<int> colour;            ///< index into the theme's tab colours; none: the track's
  std::optional<Frames> sync;           ///< take time of the point that is put on the grid
  std::vector<MediaId> media;           ///< what each track of the set plays, when that is another track's recording
  std::optional<TakeMic> sound;         ///< heard in its place, on the set's first track alone, whatever that is named
  Envelope gain;                        ///< dB, kGainEnvelopeRange, in take time
  Envelope pitch;                       ///< cents, kPitchRange, in take time; length and timing stay
  std::optional<StretchMethod> method;  ///< none: its mic set's
  int choke = 0;                        ///< group of cells that silence each other when struck, to kMostChokes; 0: none
  std::optional<Formants> formants;     ///< where the pitch envelope changes something; none: as heldFormants() says

  /// What is heard are the take's own mics, each on its track.
  bool ofItsTake() const { return media.empty() && !sound; }
  /// Its pitch or its formants are changed.
  bool retuned() const { return !pitch.empty() || (formants && !formants->along && formants->cents != 0); }
  bool operator==(const ClipExtras&) const = default;
};

/// A piece of a take placed in the song, on every track of its mic set alike.
struct Clip {
  ClipId id;
  TakeId take;
  Frames start;   ///< song time
  Frames source;  ///< stretched time of the earliest frame it plays: its first, or when reversed its last
  Frames length;  ///< song time, and stretched time too
  double gainDb = 0;
  double pan = 0;  ///< kPanRange, before the track's own
  Fade fadeIn;
  Fade fadeOut;
  Seam seam;
  bool muted = false;
  bool reversed = false;
  Hold hold = Hold::clock;
  BundleId bundle;
  std::optional<PlanPiece> piece;
  TakeMap map;  ///< from take time to stretched time: the same where nothing is stretched
  Shared<ClipExtras> extras;

  bool operator==(const Clip&) const = default;
  Frames end() const { return start + length; }
  FrameRange range() const { return {start, end()}; }
  /// What it plays, in stretched time and in take time.
  FrameRange window() const { return {source, source + length}; }
  FrameRange played() const { return {map.take(source), map.take(source + length)}; }
  /// Song time minus stretched time. Of no meaning when reversed.
  Frames shift() const { return start - source; }
  /// Song time of a place of the stretched take, and back.
  Frames placed(Frames stretched) const {
    return reversed ? start + (source + length - Frames{1} - stretched) : stretched + shift();
  }
  Frames unplaced(Frames song) const {
    return reversed ? source + length - Frames{1} - (song - start) : song - shift();
  }
  /// Song time of a place of the take, and back.
  Frames toSong(Frames inTake) const { return placed(map.stretched(inTake)); }
  Frames toTake(Frames song) const { return map.take(unplaced(song)); }
  /// Material before its start and after its end, given the take's length; song time.
  Frames handleBefore(Frames takeLength) const { return reversed ? above(takeLength) : below(); }
  Frames handleAfter(Frames takeLength) const { return reversed ? below() : above(takeLength); }
  /// Its pieces of one speed, in song time and in order.
  std::vector<EvenPiece> pieces() const;

 private:
  Frames below() const { return source - map.stretched(Frames{}); }
  Frames above(Frames takeLength) const { return map.stretched(takeLength) - source - length; }
};

/// A clip shown over another range of song, its sound where it is: what its edges hide comes into sight.
Clip shownOver(const Clip& clip, FrameRange song);

/// Sorted by start, never overlapping.
using ClipList = std::vector<Clip>;
using ClipIds = std::vector<ClipId>;

}  // namespace ochron
