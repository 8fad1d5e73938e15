#pragma once

#include <optional>
#include <vector>

#include "feel/assign.h"
#include "feel/split.h"
#include "song/song.h"

namespace ochron {

/// What a timing plan intends for one hit.
struct PlannedHit {
  Hit hit;
  TakeId take;
  ClipId clip;  ///< the clip as it is without the plan
  Frames home;  ///< song time as recorded
  Frames move;  ///< by which the plan moves it, or would if it were on
  Frames now;   ///< song time where it stands: as recorded while the plan is off
  std::optional<GridLine> line;
  Ticks inBar;                   ///< of the line, from its bar's start
  std::optional<Frames> target;  ///< dragged by the user to this place, on a line or off it
  double beforeMs = 0;           ///< deviation from the line, late positive
  double afterMs = 0;
  double driftMs = 0;
  double pocketMs = 0;
  double scatterMs = 0;
  std::size_t leader = 0;   ///< index of the main hit of its gesture; its own index when it leads
  bool opensSlice = false;  ///< the first hit of a gesture that is part of the plan
  bool limited = false;     ///< would have moved further than "move at most" allows
  bool unplaced = false;    ///< another hit has the better claim to its place: goes with the piece before
  bool out = false;         ///< taken out of the plan by the user
  bool inGap = false;       ///< lies in a stretch that the plan leaves alone: stays where it was played
  bool locked = false;      ///< lies in a locked range: stands where it was when it was locked
  bool byHand = false;      ///< target or freezing set by the user

  bool operator==(const PlannedHit&) const = default;
  Frames to() const { return home + move; }
  double movedMs(int rate) const { return msFromFrames(now - home, rate); }
};

struct TimingStats {
  int count = 0;
  double meanBeforeMs = 0;
  double spreadBeforeMs = 0;
  double meanAfterMs = 0;
  double spreadAfterMs = 0;
};

/// The pocket at one place of the bar, over all bars and drums.
struct PocketPlace {
  Ticks inBar;  ///< from the bar's start
  double meanMs = 0;
  int count = 0;
};

struct TimingResult {
  std::vector<PlannedHit> hits;  ///< in song time as recorded
  TimingStats stats() const;
  TimingStats statsOf(DrumClass drum) const;
  /// Mean pocket at each place of the bar where something was played, in order.
  std::vector<PocketPlace> pocketProfile() const;

  bool operator==(const TimingResult&) const = default;
};

/// What the costly parts of a plan were found from, and what: settings that have no part in them are turned without
/// finding it again.
struct TimingMemory {
  std::vector<Stroke> strokes;
  std::vector<GridPlace> places;
  std::vector<std::optional<std::size_t>> taken;  ///< of the places
  std::vector<Placement> placements;
  double driftBars = 0;
  FeelSplit split;
};

/// Reads the set's hits against the grid and says where each one goes. Changes nothing; no audio needed.
TimingResult planTiming(const Song& song, SetId set);
/// The same with what was found for the set before, which it keeps current.
TimingResult planTiming(const Song& song, SetId set, TimingMemory& memory);

}  // namespace ochron
