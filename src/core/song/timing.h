#pragma once

#include <array>
#include <map>
#include <optional>
#include <set>
#include <string>
#include <utility>
#include <vector>

#include "base/ids.h"
#include "base/setting.h"
#include "base/units.h"
#include "song/seam_fill.h"
#include "terms/drum_class.h"
#include "terms/fade_kinds.h"
#include "time/grid.h"

namespace ochron {

enum class TimingMethod { slices, stretch };

inline constexpr SettingRange kStrengthRange{"strength", "%", 0, 100, 1, 100};
inline constexpr SettingRange kKeepDriftRange{"drift", "%", 0, 100, 1, 0};
inline constexpr SettingRange kKeepPocketRange{"pocket", "%", 0, 100, 1, 0};
inline constexpr SettingRange kKeepScatterRange{"scatter", "%", 0, 100, 1, 0};
inline constexpr SettingRange kToleranceRange{"leave alone within", "ms", 0, 100, 0.5, 0};
inline constexpr SettingRange kLargestMoveRange{"move at most", "ms", 0, 500, 1, 0};
inline constexpr SettingRange kDriftBarsRange{"drift width", "bars", 0.5, 16, 0.5, 2};
inline constexpr SettingRange kLeadInRange{"lead-in", "ms", 1, 30, 0.5, 5};
inline constexpr SettingRange kCrossfadeRange{"crossfade", "ms", 0.5, 30, 0.5, 4};
inline constexpr SettingRange kGestureRange{"one gesture within", "ms", 0, 80, 1, 45};
inline constexpr SettingRange kBiasRange{"bias", "%", -100, 100, 5, 0};
inline constexpr SettingRange kStretchLimitRange{"stretch at most", "%", 1, 200, 1, 25};
inline constexpr SettingRange kGivenScatterRange{"give scatter", "%", 0, 200, 5, 0};
inline constexpr SettingRange kScatterDrawRange{"drawing", "", 1, 99, 1, 1};
inline constexpr SettingRange kGrooveAmountRange{"amount", "%", 0, 100, 1, 100};

/// A player's feel, taken from a performance: for each place in the bar how early or late, how loud, and how far single
/// strokes lay off that.
struct Groove {
  std::string name;
  Grid grid;
  Meter meter;
  std::vector<double> offsetsMs;                    ///< one a place, late positive
  std::vector<double> loudness;                     ///< one a place, 0 to 1; 0 where nothing was played
  std::vector<std::vector<double>> scatterMs = {};  ///< one a place, sorted, mean 0; empty: not known

  bool operator==(const Groove&) const = default;
};

/// An exception to a plan's grid, for one drum, for a stretch of the song, or both. Later rules win over earlier ones.
struct GridRule {
  Grid grid;
  std::optional<DrumClass> drum;                   ///< none: every drum
  std::optional<std::pair<Ticks, Ticks>> stretch;  ///< song time [from, to); none: everywhere

  bool operator==(const GridRule&) const = default;
  bool covers(DrumClass d, Ticks at) const {
    return (!drum || *drum == d) && (!stretch || (at >= stretch->first && at < stretch->second));
  }
};

/// A timing plan's controls: how far hits go to the grid, and how the pieces are joined.
struct TimingSettings {
  bool on = false;
  Grid grid;
  std::vector<GridRule> gridRules;
  std::vector<DrumClass> classes;  ///< only these are moved, the rest goes with them; empty: all
  double strength = kStrengthRange.fallback;
  double keepDrift = kKeepDriftRange.fallback;
  double keepPocket = kKeepPocketRange.fallback;
  double keepScatter = kKeepScatterRange.fallback;
  double toleranceMs = kToleranceRange.fallback;
  double largestMoveMs = kLargestMoveRange.fallback;  ///< 0: as far as needed
  double driftBars = kDriftBarsRange.fallback;
  double gestureMs = kGestureRange.fallback;  ///< hits at most this far apart may be one gesture
  double leadInMs = kLeadInRange.fallback;
  double crossfadeMs = kCrossfadeRange.fallback;
  CrossfadeLaw law = CrossfadeLaw::matched;
  FadeShape shape = FadeShape::line;
  double bias = kBiasRange.fallback;
  double stretchLimit = kStretchLimitRange.fallback;  ///< more than this is a check, and no gap is filled with it
  TimingMethod method = TimingMethod::slices;
  std::optional<Groove> groove;
  double grooveAmount = kGrooveAmountRange.fallback;
  double givenScatter = kGivenScatterRange.fallback;  ///< of the groove's player, added to what a plan makes stiff
  double scatterDraw = kScatterDrawRange.fallback;    ///< each number draws other places, always the same ones

  bool operator==(const TimingSettings&) const = default;
  /// The grid for a drum at a place of the song.
  const Grid& gridFor(DrumClass drum, Ticks at) const {
    for (auto rule = gridRules.rbegin(); rule != gridRules.rend(); ++rule)
      if (rule->covers(drum, at)) return rule->grid;
    return grid;
  }
};

inline constexpr std::array kTimingNumbers{
    Setting<TimingSettings>{&TimingSettings::strength, kStrengthRange, "strength", "how far hits go to their place",
                            "--strength"},
    Setting<TimingSettings>{&TimingSettings::keepDrift, kKeepDriftRange, "keep drift", "slow wandering that stays",
                            "--keep-drift"},
    Setting<TimingSettings>{&TimingSettings::keepPocket, kKeepPocketRange, "keep pocket",
                            "repeating placement that stays", "--keep-pocket"},
    Setting<TimingSettings>{&TimingSettings::keepScatter, kKeepScatterRange, "keep scatter",
                            "hit by hit deviation that stays", "--keep-scatter"},
    Setting<TimingSettings>{&TimingSettings::toleranceMs, kToleranceRange, "leave alone within ms",
                            "hits so near to their line are not moved", "--tolerance"},
    Setting<TimingSettings>{&TimingSettings::largestMoveMs,
                            kLargestMoveRange,
                            "move at most ms",
                            "no hit is moved further; 0: as far as needed",
                            {}},
    Setting<TimingSettings>{&TimingSettings::driftBars,
                            kDriftBarsRange,
                            "drift bars",
                            "what moves more slowly than this counts as drift",
                            {}},
    Setting<TimingSettings>{
        &TimingSettings::gestureMs, kGestureRange, "gesture ms", "hits at most so far apart may be one gesture", {}},
    Setting<TimingSettings>{
        &TimingSettings::leadInMs, kLeadInRange, "lead-in ms", "from a seam to the attack, at least", {}},
    Setting<TimingSettings>{
        &TimingSettings::crossfadeMs, kCrossfadeRange, "crossfade ms", "as far as the attacks leave room", {}},
    Setting<TimingSettings>{&TimingSettings::bias, kBiasRange, "bias", "where in a crossfade both sides meet", {}},
    Setting<TimingSettings>{&TimingSettings::stretchLimit,
                            kStretchLimitRange,
                            "stretch at most",
                            "more is listed as a check, and fills no gap",
                            {}},
    Setting<TimingSettings>{&TimingSettings::grooveAmount, kGrooveAmountRange, "groove amount",
                            "how much of the groove", "--groove-amount"},
    Setting<TimingSettings>{&TimingSettings::givenScatter, kGivenScatterRange, "given scatter",
                            "as the groove's player scatters", "--give-scatter"},
    Setting<TimingSettings>{&TimingSettings::scatterDraw, kScatterDrawRange, "scatter drawing",
                            "each number draws the scatter otherwise, repeatably", "--scatter-drawing"},
};

/// What the user decided about the seam before one hit; each value unset follows the settings and the solver.
struct SeamOverride {
  std::optional<Frames> leadIn = {};  ///< from the crossfade's middle to the attack
  std::optional<Frames> length = {};  ///< of the crossfade
  std::optional<CrossfadeLaw> law = {};
  std::optional<FadeShape> shape = {};
  std::optional<double> bias = {};  ///< kBiasRange
  std::optional<SeamFill> fill = {};

  bool operator==(const SeamOverride&) const = default;
};

/// What the user decided about one hit; it holds against every later change of the settings.
struct HitOverride {
  std::optional<Ticks> target;  ///< dragged to another place
  SeamOverride seam;
  bool frozen = false;         ///< stays where it was played
  bool out = false;            ///< not part of the plan at all: no slice begins here
  std::optional<bool> joined;  ///< joined to (true) or separated from (false) the hit before it

  bool operator==(const HitOverride&) const = default;
};

enum class CheckKind {
  twoHitsOnePlace,
  fadedGap,
  stretchedGap,
  shortSeam,
  levelChange,
  roughSeam,
  loudSeam,
  farMove,
  tooMuchStretch,
  weakHit,
  anchorOff,
  anchorTwoWays,
  carriedOn,
  tempoJump,
  unsureTempo,
  unsureBars,
  unsureNote,
  octaveDoubt,
  betweenPitches,
  farPitch,
  pitchSuffers,
  ghostOrStroke,
  layerCancels,
  stalePrint,
};
inline constexpr std::array<std::string_view, 24> kCheckKindNames{
    "two hits one place", "faded gap",  "stretched gap",    "short seam",      "level change",  "rough seam",
    "loud seam",          "far move",   "too much stretch", "weak hit",        "anchor off",    "anchor two ways",
    "carried on",         "tempo jump", "unsure tempo",     "unsure bars",     "unsure note",   "octave doubt",
    "between pitches",    "far pitch",  "pitch suffers",    "ghost or stroke", "layer cancels", "stale print"};

/// A stretch of take time the plan leaves alone.
struct PlanGap {
  TakeId take;
  FrameRange range;

  bool operator==(const PlanGap&) const = default;
};

struct TimingPlan {
  TimingSettings settings;
  std::map<HitId, HitOverride> overrides;
  std::vector<PlanGap> gaps;
  std::set<std::pair<HitId, CheckKind>> accepted;  ///< checks the user has looked at and found good

  bool operator==(const TimingPlan&) const = default;
};

}  // namespace ochron
