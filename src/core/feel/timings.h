#pragma once

#include <map>
#include <vector>

#include "feel/plan_timing.h"

namespace ochron {

/// What a set's plan is worked out from is the same in two songs: carried out in either it gives the same. `clipsToo`:
/// also the clips that it cuts; else hits, settings, locks and the tempo map alone.
bool samePlanInput(const Song& a, const Song& b, SetId set, bool clipsToo);

/// What the plans of a song intend, set by set. A set's plan is worked out when it is asked for, and again only when
/// something that goes into it has changed: other sets' edits leave it as it is.
class Timings {
 public:
  /// Valid until the same set is asked for with a song where its plan differs.
  const TimingResult& of(const Song& song, SetId set);
  /// Of every set of the song, and of no other.
  const std::map<SetId, TimingResult>& all(const Song& song);

 private:
  /// Everything planTiming() reads.
  struct Read {
    int rate = 0;
    TempoMap tempo;
    HitSettings hits;
    Shared<TimingPlan> plan;
    Shared<ClipList> clips;
    std::vector<FrameRange> locks;
    std::vector<std::pair<TakeId, Shared<HitList>>> found;

    bool operator==(const Read&) const = default;
  };
  static Read readBy(const Song& song, const MicSet& set);

  std::map<SetId, Read> read_;
  std::map<SetId, TimingResult> results_;
  std::map<SetId, TimingMemory> memories_;
};

}  // namespace ochron
