#pragma once

#include <string>
#include <vector>

#include "feel/plan.h"
#include "song/song.h"

namespace ochron {

enum class CheckKind { twoHitsOnePlace, fadedGap, shortSeam, farMove, weakHit };

/// An automatic decision that deserves a look.
struct Check {
  CheckKind kind = CheckKind::weakHit;
  TakeId take;
  HitId hit;
  Frames at;           ///< song time
  double risk = 0;     ///< 0 to 1; the list is sorted by it
  std::string title;   ///< what it is
  std::string detail;  ///< why, with numbers
};

/// What deserves a look in a set's plan as it is carried out in `song`, the riskiest first. Hits the user decided about
/// are not listed.
std::vector<Check> checksOf(const Song& song, SetId set, const TimingResult& timing);

}  // namespace ochron
