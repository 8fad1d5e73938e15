#include "checks/print_checks.h"

#include <algorithm>

#include "song/print_source.h"

namespace ochron {

std::vector<Check> printChecksOf(const Song& song) {
  std::vector<Check> out;
  for (const auto& print : song.prints) {
    const auto* set = song.find(print.set);
    if (!set || print.depth == PrintDepth::trim) continue;
    const auto& clips = *set->clips;
    const auto heard =
        std::find_if(clips.begin(), clips.end(), [&](const Clip& c) { return c.take == print.take && !c.muted; });
    if (heard == clips.end()) continue;
    const auto why = outOfDate(song, print);
    if (why.empty()) continue;
    Check check{CheckKind::stalePrint,  set->id,       print.take, {}, heard->start, 0.6,
                "print is out of date", why + " since"};
    check.print = print.id;
    out.push_back(std::move(check));
  }
  return out;
}

}  // namespace ochron
