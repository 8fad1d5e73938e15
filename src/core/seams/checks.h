#pragma once

#include <map>
#include <string>
#include <vector>

#include "feel/plan.h"
#include "seams/measure.h"
#include "song/song.h"

namespace ochron {

/// An automatic decision that deserves a look.
struct Check {
  CheckKind kind = CheckKind::weakHit;
  SetId set;
  TakeId take;
  HitId hit;
  Frames at;                         ///< song time
  double risk = 0;                   ///< 0 to 1; the list is sorted by it
  std::string title;                 ///< what it is
  std::string detail;                ///< why, with numbers
  std::vector<CheckKind> also = {};  ///< what else was found at the same place, less risky
};

/// What deserves a look in a set's plan as it is carried out in `song`, the riskiest first. Hits the user decided about
/// or has accepted are not listed. `seams` as measured on the same song; seams not in it are judged by their length
/// only.
std::vector<Check> checksOf(const Song& song, SetId set, const TimingResult& timing,
                            const std::map<ClipId, SeamMeasure>& seams = {});

/// The same for every set of a song. What was found at one hit is one entry: the riskiest, with the others in `also`
/// and in its detail. `timing` by set.
std::vector<Check> checksOf(const Song& song, const std::map<SetId, TimingResult>& timing,
                            const std::map<ClipId, SeamMeasure>& seams);

}  // namespace ochron
