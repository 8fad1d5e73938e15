#pragma once

#include <array>
#include <map>
#include <string>
#include <string_view>
#include <vector>

#include "feel/plan_timing.h"
#include "seams/measure.h"
#include "song/song.h"

namespace ochron {

/// An automatic decision that deserves a look.
struct Check {
  CheckKind kind = CheckKind::weakHit;
  SetId set;
  TakeId take;
  HitId hit;
  Frames at;                          ///< song time
  double risk = 0;                    ///< 0 to 1; the list is sorted by it
  std::string title;                  ///< what it is
  std::string detail;                 ///< why, with numbers
  std::vector<CheckKind> also = {};   ///< what else was found at the same place, less risky
  std::optional<NoteName> note = {};  ///< it is about a note
  std::optional<Ticks> bar = {};      ///< it is about this place of the tempo map, and about no set
  PrintId print = {};                 ///< it is about a print

  /// Whether two are about the same thing.
  bool sameAs(const Check& other) const {
    return hit == other.hit && note == other.note && bar == other.bar && print == other.print;
  }
};

/// What a check is about.
enum class CheckGroup { hits, timing, seams, tempo, kit, pitch, print };
inline constexpr std::array<std::string_view, 7> kCheckGroupNames{"hits", "timing", "seams", "tempo",
                                                                  "kit",  "pitch",  "print"};
CheckGroup groupOf(CheckKind kind);

/// What deserves a look in a set's plan as it is carried out in `song`, the riskiest first. Hits the user decided about
/// or has accepted are not listed. `seams` as measured on the same song; seams not in it are judged by their length
/// only.
std::vector<Check> checksOf(const Song& song, SetId set, const TimingResult& timing,
                            const std::map<ClipId, SeamMeasure>& seams = {});

/// The same for every set of a song, with its notes and its tempo map. What was found at one hit is one entry: the
/// riskiest, with the others in `also` and in its detail. `timing` by set.
std::vector<Check> checksOf(const Song& song, const std::map<SetId, TimingResult>& timing,
                            const std::map<ClipId, SeamMeasure>& seams);

}  // namespace ochron
