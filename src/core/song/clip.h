#pragma once

#include <optional>
#include <string>
#include <vector>

#include "base/fade_kinds.h"
#include "base/ids.h"
#include "base/setting.h"
#include "base/shared.h"
#include "base/units.h"
#include "song/envelope.h"

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

/// What few clips have; shared, so that lists of thousands stay small.
struct ClipExtras {
  std::string name;            ///< empty: the take's name is shown
  std::optional<int> colour;   ///< index into the theme's tab colours; none: the track's
  std::optional<Frames> sync;  ///< take time of the point that is put on the grid
  std::vector<MediaId> media;  ///< what each track of the set plays, when that is another track's recording
  Envelope gain;               ///< dB, kGainEnvelopeRange, in take time
  Envelope pitch;              ///< cents, kPitchRange, in take time; length and timing stay

  bool operator==(const ClipExtras&) const = default;
};

/// A piece of a take placed in the song, on every track of its mic set alike.
struct Clip {
  ClipId id;
  TakeId take;
  Frames start;   ///< song time
  Frames source;  ///< take time of the earliest frame it plays: its first, or when reversed its last
  Frames length;  ///< song time
  double gainDb = 0;
  double pan = 0;  ///< kPanRange, before the track's own
  Fade fadeIn;
  Fade fadeOut;
  Seam seam;
  bool muted = false;
  bool reversed = false;
  ClipHold hold = ClipHold::clock;
  BundleId bundle;
  std::optional<PlanPiece> piece;
  Shared<std::vector<Pin>> pins;  ///< empty: played as recorded
  Shared<ClipExtras> extras;

  bool operator==(const Clip&) const = default;
  Frames end() const { return start + length; }
  FrameRange range() const { return {start, end()}; }
  /// Song time minus take time. Of no meaning when reversed.
  Frames shift() const { return start - source; }
  /// Song time of a place of the take, and back; unstretched.
  Frames toSong(Frames at) const { return reversed ? start + (source + length - Frames{1} - at) : at + shift(); }
  Frames toTake(Frames at) const { return reversed ? source + length - Frames{1} - (at - start) : at - shift(); }
  /// Recorded material before its start and after its end, given the take's length.
  Frames handleBefore(Frames takeLength) const { return reversed ? takeLength - source - length : source; }
  Frames handleAfter(Frames takeLength) const { return reversed ? source : takeLength - source - length; }
};

/// Sorted by start, never overlapping.
using ClipList = std::vector<Clip>;
using ClipIds = std::vector<ClipId>;

}  // namespace ochron
