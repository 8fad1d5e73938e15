#pragma once

#include <array>
#include <cstddef>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/ids.h"
#include "base/setting.h"
#include "base/shared.h"
#include "base/units.h"
#include "song/clip.h"
#include "terms/drum_class.h"

namespace ochron {

inline constexpr SettingRange kLayerGainRange{"level", "dB", -60, 24, 0.1, 0};
inline constexpr SettingRange kLayerPitchRange{"pitch", "c", -2400, 2400, 10, 0};
inline constexpr SettingRange kLayerLengthRange{"length", "ms", 0, 10'000, 5, 0};
inline constexpr SettingRange kLayerFadeRange{"fade", "ms", 0, 5'000, 1, 5};
inline constexpr SettingRange kLayerLowCutRange{"low cut", "Hz", 0, 2'000, 5, 0};
inline constexpr SettingRange kLayerHighCutRange{"high cut", "Hz", 200, 20'000, 50, 20'000};
inline constexpr SettingRange kBlendRange{"blend", "%", 0, 100, 1, 0};
inline constexpr SettingRange kFollowRange{"follows strength", "%", 0, 100, 1, 100};
inline constexpr SettingRange kLayerThresholdRange{"from strength", "", 0, 1, 0.01, 0};
inline constexpr SettingRange kLayerOffsetRange{"offset", "ms", -50, 50, 0.01, 0};
inline constexpr SettingRange kStrokeGainRange{"level of a stroke", "dB", -60, 24, 0.1, 0};
inline constexpr SettingRange kCurveRange{"level at a strength", "dB", -60, 12, 0.1, 0};

/// How a layer's sounds are placed and what is done to them.
struct LayerSettings {
  double gainDb = kLayerGainRange.fallback;
  double pan = kPanRange.fallback;
  double cents = kLayerPitchRange.fallback;          ///< as a tape: higher is shorter
  double lengthMs = kLayerLengthRange.fallback;      ///< 0: the whole sound
  double fadeMs = kLayerFadeRange.fallback;          ///< at its end
  double lowCut = kLayerLowCutRange.fallback;        ///< Hz; 0: none
  double highCut = kLayerHighCutRange.fallback;      ///< Hz; 20 000: none
  double blend = kBlendRange.fallback;               ///< 0: with the drum, 100: the sample only
  double follow = kFollowRange.fallback;             ///< how far the level follows the strokes' strength
  double threshold = kLayerThresholdRange.fallback;  ///< softer strokes stay the drummer's
  double offsetMs = kLayerOffsetRange.fallback;      ///< by hand, on top of what lines it up

  bool operator==(const LayerSettings&) const = default;
};

inline constexpr std::array kLayerNumbers{
    Setting<LayerSettings>{&LayerSettings::gainDb, kLayerGainRange, "gain db", "level of the layer", "--gain"},
    Setting<LayerSettings>{&LayerSettings::pan, kPanRange, "pan", "left (\u2212) to right (+)", {}},
    Setting<LayerSettings>{&LayerSettings::cents, kLayerPitchRange, "pitch cents", "the sound higher or lower",
                           "--pitch"},
    Setting<LayerSettings>{&LayerSettings::lengthMs, kLayerLengthRange, "length ms",
                           "how long each sound lasts; 0: to its end", "--length"},
    Setting<LayerSettings>{&LayerSettings::fadeMs, kLayerFadeRange, "fade ms", "the fade at each sound's end",
                           "--fade"},
    Setting<LayerSettings>{&LayerSettings::lowCut, kLayerLowCutRange, "low cut hz",
                           "what lies below is cut; 0: nothing", "--low-cut"},
    Setting<LayerSettings>{&LayerSettings::highCut, kLayerHighCutRange, "high cut hz",
                           "what lies above is cut; 20 000: nothing", "--high-cut"},
    Setting<LayerSettings>{&LayerSettings::blend, kBlendRange, "blend",
                           "0: with the drum; 100: the sample in the drum's place", "--blend"},
    Setting<LayerSettings>{&LayerSettings::follow, kFollowRange, "follow",
                           "how far the level follows how hard was struck", "--follow"},
    Setting<LayerSettings>{&LayerSettings::threshold, kLayerThresholdRange, "threshold", "softer strokes get no sample",
                           "--threshold"},
    Setting<LayerSettings>{&LayerSettings::offsetMs, kLayerOffsetRange, "offset ms",
                           "earlier (\u2212) or later (+) than the attack", "--offset"},
};

/// One sound of a set of sounds: a stretch of a recording or of a file, for strokes of some strengths.
struct KitSound {
  std::string name;
  MediaId media;
  FrameRange range;  ///< of the media, at the song's rate
  double low = 0;    ///< strengths that it is for, both ends included
  double high = 1;
  double gainDb = 0;      ///< kStrokeGainRange
  double pan = 0;         ///< kPanRange
  double cents = 0;       ///< kLayerPitchRange
  Frames attack;          ///< from the range's start to where its own attack begins
  double peakDb = 0;      ///< loudness of its stroke (strokeDb)
  bool listened = false;  ///< what follows is known, attack and loudness too
  Frames lag;             ///< by which it is later to fall in with the drum's own wave
  double likeness = 0;    ///< correlation of both there, below 0 where they cancel
  bool turned = false;    ///< its polarity is turned

  bool operator==(const KitSound&) const = default;
};

struct SoundSet {
  std::string name;
  std::string origin;  ///< the file it was read from; empty: made of the take's own strokes
  double fullDb = 0;   ///< loudness that a stroke of strength 1 has (strokeDb)
  std::vector<KitSound> sounds;

  bool operator==(const SoundSet&) const = default;
};

/// Where the attack of one stroke lies to the sample in the mic that hears its drum best.
struct StrokeAttack {
  Frames stroke;  ///< take time where the hit has it: what was heard holds as long as it is there
  Frames at;      ///< take time
  double db = 0;  ///< loudness of the stroke there (strokeDb)

  bool operator==(const StrokeAttack&) const = default;
};
/// By take, in order of the strokes.
struct HeardStrokes {
  TrackId mic;
  std::map<TakeId, std::vector<StrokeAttack>> takes;
  double fullDb = 0;  ///< loudness that a stroke of strength 1 has there

  bool operator==(const HeardStrokes&) const = default;
};

/// What the user decided about one stroke; it holds through every change of the layer.
struct StrokeWish {
  std::optional<std::size_t> sound;  ///< of the set
  double gainDb = 0;                 ///< kStrokeGainRange
  std::optional<bool> heard;         ///< none: as the threshold says

  bool operator==(const StrokeWish&) const = default;
};

/// Of a curve from strength to level.
struct CurvePoint {
  double strength = 0;  ///< 0 to 1
  double db = 0;        ///< kCurveRange

  bool operator==(const CurvePoint&) const = default;
};

enum class LineUp {
  each,   ///< every stroke's own attack, to the sample
  whole,  ///< the hits as they stand, all moved by one amount
};
inline constexpr std::array<std::string_view, 2> kLineUpNames{"each", "whole"};

/// A sound on every stroke of a drum: a living plan on the strokes of a mic set, played on a track of its own.
struct Layer {
  LayerId id;
  std::string name;
  SetId set;                      ///< whose strokes
  std::optional<DrumClass> drum;  ///< none: all
  TrackId track;                  ///< where it is heard: the only one of its set
  bool on = true;
  bool midi = false;  ///< its strokes are sent as notes while the song plays
  LayerSettings settings;
  LineUp lineUp = LineUp::each;
  std::optional<bool> turned;     ///< polarity by hand; none: as each sound's own says
  std::vector<CurvePoint> curve;  ///< strength to level, strengths rising; empty: as loud as struck
  Shared<SoundSet> sounds;
  Shared<HeardStrokes> heard;
  std::map<HitId, StrokeWish> wishes;

  bool operator==(const Layer&) const = default;
};

}  // namespace ochron
