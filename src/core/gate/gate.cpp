#include "gate/gate.h"

#include <algorithm>

#include "edits/locks.h"
#include "edits/rate_edits.h"
#include "seams/apply_plan.h"

namespace ochron {
namespace {

/// Pieces of a plan among clips cut by hand, or of more than one clip.
bool mixed(const ClipList& clips) {
  const auto cut = std::find_if(clips.begin(), clips.end(), [](const Clip& c) { return c.piece.has_value(); });
  return cut != clips.end() && std::any_of(clips.begin(), clips.end(), [&](const Clip& c) {
           return !c.piece || c.piece->origin != cut->piece->origin;
         });
}

/// A set's plan carried out. Where clips cut by hand lie among its pieces they take place from each other, which may
/// give the plan another clip to cut: it is run until that is settled. Where it never is, once is all.
Result<Song> settled(const Song& song, SetId id, const MediaPool& pool, Timings& timings) {
  constexpr int kMostRuns = 6;
  auto once = applyTimingPlan(song, id, timings.of(song, id), pool);
  auto next = once;
  for (int run = 1; next && run < kMostRuns; ++run) {
    const auto& clips = *next->find(id)->clips;
    if (!mixed(clips)) return next;
    auto again = applyTimingPlan(*next, id, timings.of(*next, id), pool);
    if (again && *again->find(id)->clips == clips) return next;
    next = std::move(again);
  }
  return once;
}

/// Above it listening for the joints of a set holds up who waits for it by more than some 20 ms.
constexpr std::size_t kHeardAtOnce = 10'000;  // joints times mics

bool hearsAtOnce(const Song& song, SetId id, Plans plans, Timings& timings) {
  if (plans == Plans::dragged) return false;
  return plans != Plans::quick || timings.of(song, id).hits.size() * song.find(id)->tracks.size() <= kHeardAtOnce;
}

Result<Song> planned(const Song& before, Song after, const MediaPool& pool, Plans plans, Timings& timings) {
  std::vector<SetId> stale;
  for (const auto& set : after.sets)
    if (!samePlanInput(before, after, set.id, plans == Plans::all || plans == Plans::quick)) stale.push_back(set.id);
  Result<Song> next = std::move(after);
  for (const auto id : stale)
    if (next) next = settled(*next, id, hearsAtOnce(*next, id, plans, timings) ? pool : MediaPool{}, timings);
  return next;
}

/// "I3: it reaches beyond its take": the rule's number is for those who read docs/invariants.md.
std::string withoutNumber(const std::string& rule) {
  const auto colon = rule.find(": ");
  return colon == std::string::npos ? rule : rule.substr(colon + 2);
}

}  // namespace

Result<Song> admitted(const Song& before, Song after, const MediaPool& pool, Plans plans) {
  Timings none;
  return admitted(before, std::move(after), pool, plans, none);
}

Result<Song> admitted(const Song& before, Song after, const MediaPool& pool, Plans plans, Timings& timings) {
  const bool otherRate = before.rate != after.rate;
  const auto refused = [](const Error& why) { return tl::unexpected(why); };
  auto asNow = otherRate ? songAtRate(before, after.rate) : Result<Song>(before);
  if (!asNow) return asNow;
  if (const auto locked = againstLocks(*asNow, after)) return refused(*locked);
  if (!otherRate) {
    const Song given = after;
    auto next = planned(before, std::move(after), pool, plans, timings);
    if (!next) return next;
    // What was just unlocked may be planned again; what is still locked stays.
    if (const auto locked = againstLocks(given, *next)) return refused(*locked);
    after = std::move(*next);
  }
  const auto broken = brokenRules(after, &before);
  if (broken.empty()) return after;
  return fail(ErrorKind::refused, "This cannot be done: " + withoutNumber(broken.front()) + ". Nothing was changed.",
              broken.front());
}

Result<Song> withJointsHeard(const Song& song, const MediaPool& pool) {
  Timings timings;
  Result<Song> next = song;
  for (const auto& set : song.sets)
    if (next && hasJointsToHear(song, set, pool)) next = settled(*next, set.id, pool, timings);
  if (!next) return next;
  if (const auto locked = againstLocks(song, *next)) return tl::unexpected(*locked);
  return next;
}

}  // namespace ochron
