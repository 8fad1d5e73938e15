#pragma once

#include <bitset>
#include <memory>
#include <optional>
#include <vector>

#include "kit/layer_sounds.h"
#include "media/pool.h"
#include "render/gain_curve.h"
#include "render/made_sound.h"
#include "song/layer_strokes.h"
#include "song/song.h"
#include "terms/fade_kinds.h"

namespace ochron {

struct Racks;

/// A gain curve at one end of a segment.
struct Ramp {
  enum class Kind { none, fade, crossfade } kind = Kind::none;
  Frames length;
  FadeShape shape = FadeShape::line;
  double bend = 0;  ///< of a fade; the bias of a crossfade
  CrossfadeLaw law = CrossfadeLaw::matched;
  double likeness = 0;  ///< measured correlation of both sides, for `matched`
};

/// One stretch of one recorded channel placed in the song.
struct Segment {
  Samples samples;  ///< as they are heard: backwards where the clip is turned round
  Frames start;     ///< song time
  Frames length;
  float gain = 1;
  Ramp in;
  Ramp out;
  Frames rampStart;  ///< where the in-ramp begins: before `start` when the recording begins too late to be heard there
  Frames rampEnd;
  const GainCurve* curve = nullptr;  ///< on top of it all

  Frames end() const { return start + length; }
};

/// One channel of a track: segments sorted by start, and what they point to.
struct SegmentList {
  std::vector<Segment> segments;
  std::vector<Frames> ends;  ///< for each segment the latest end up to it
  std::vector<std::unique_ptr<const GainCurve>> curves;
  std::vector<std::vector<float>> sounds;  ///< of tape fades and joints
};

/// Tracks as they are counted in a plan.
using TrackMask = std::bitset<256>;

struct TrackPlan {
  TrackId track;
  SetId set;
  std::vector<std::shared_ptr<const SegmentList>> channels;  ///< 1 (mono) or 2
  GainCurve gain;                                            ///< silent spans, mute and gain envelopes
  float left = 1;                                            ///< mixer gains
  float right = 1;
  GainCurve panLeft;  ///< of the pan envelope, on top
  GainCurve panRight;
  bool audible = true;
  Shared<ClipList> clips;                                  ///< what it was compiled from
  std::vector<Bundle> bundles;                             ///< and the bundles these are in
  std::vector<std::shared_ptr<const DecodedMedia>> media;  ///< keeps the samples alive
  std::vector<LayerStroke> strokes;                        ///< of a layer's track
  LayerSettings layer;                                     ///< and what is done to its sounds
  Shared<SoundSet> sounds;
  std::shared_ptr<const std::vector<PlayedSound>> played;  ///< as they sound; the channels point into it
};

/// A song ready to be played or exported. Immutable.
struct RenderPlan {
  int rate = 48'000;
  std::vector<TrackPlan> tracks;
  Frames end;
  GainCurve gain;          ///< of the whole song
  Shared<Envelope> speed;  ///< of the whole song, percent
  SpeedManner manner;
  bool preview = false;  ///< something stands in for sound that is not made yet
  /// Effects at work, and the tracks that go through some: addRacked() adds them to the mix of the others. None:
  /// sound goes past all effects.
  std::shared_ptr<Racks> racks;
  TrackMask racked;
};

/// How alike both sides of a matched crossfade are on a track, as it plays: the one that begins at `from`, song time.
/// None where there is no crossfade.
std::optional<double> likenessOf(const RenderPlan& plan, TrackId track, Frames from);

/// The plan plays through these effects from now on.
void useRacks(RenderPlan& plan, std::shared_ptr<Racks> racks);

/// Compiles a song. Tracks whose clips and recordings are those of `previous` are taken over from it.
/// Recordings that are not in the pool are silent. Made sound comes from `made`; what is not at hand there is stood in
/// for by the recording's own pieces, as slices would play them.
RenderPlan compilePlan(const Song& song, const MediaPool& pool, const RenderPlan* previous = nullptr,
                       const MadeStore* made = nullptr);

}  // namespace ochron
