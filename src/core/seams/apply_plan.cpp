#include "seams/apply_plan.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>
#include <set>
#include <thread>

#include "base/all_cores.h"
#include "edits/edit_tools.h"
#include "edits/pieces.h"
#include "seams/seam_solver.h"

namespace ochron {
namespace {

/// A run of hits that moves as one. Times are the stretched time of the clip that is cut.
struct Piece {
  HitId hit;  ///< none for what comes before the first hit
  Frames firstAttack;
  Frames lastAttack;
  Frames shift;  ///< song minus that time
};

/// What a hit's strokes reach over in a clip's stretched time; they keep their distances.
HitReach reachIn(const Clip& clip, const Hit& hit) {
  const auto reach = reachOf(hit);
  const auto by = clip.map.stretched(hit.at) - hit.at;
  return {reach.first + by, reach.last + by};
}

using PlannedHits = std::vector<const PlannedHit*>;

std::vector<Piece> piecesOf(const Clip& clip, const PlannedHits& hits) {
  std::vector<Piece> out{{HitId{}, clip.source, clip.source, clip.shift()}};
  for (const auto* p : hits) {
    const auto shift = clip.shift() + (p->now - p->home);
    const auto reach = reachIn(clip, p->hit);
    if ((p->opensSlice || p->locked) && shift != out.back().shift)
      out.push_back({p->hit.id, reach.first, reach.last, shift});
    else
      out.back().lastAttack = std::max(out.back().lastAttack, reach.last);
  }
  return out;
}

using PlannedIn = std::map<ClipId, PlannedHits>;

class Cutter {
 public:
  Cutter(Song& song, const MicSet& set, const PlannedIn& planned, const MediaPool& pool)
      : song_(song), set_(set), pool_(pool) {
    std::set<std::pair<ClipId, HitId>> goesOn;
    for (const auto& [clip, hits] : planned)
      for (const auto* h : hits) goesOn.emplace(clip, h->hit.id);
    for (const auto& c : *set.clips) {
      if (!c.piece) continue;
      old_.emplace(std::pair{c.piece->origin, c.piece->hit}, &c);
      // What plays on in its own clip is nothing that another clip, a copy, goes on with.
      if (!c.piece->hit || goesOn.contains({c.piece->origin, c.piece->hit})) continue;
      const auto [known, fresh] = oldOfHit_.emplace(c.piece->hit, &c);
      if (!fresh) known->second = nullptr;  // one of several: which, its origin says
    }
  }

  void cut(const Clip& base, const PlannedHits& hits, ClipList& out) {
    const auto pieces = piecesOf(base, hits);
    if (pieces.size() == 1) {
      out.push_back(base);
      return;
    }
    if (set_.plan->settings.method == TimingMethod::stretch) return out.push_back(pinned(base, hits));
    // What a clip stretched by hand sounds like is not known here: its joints go by the attacks alone.
    const auto mics = base.map.identity() ? micsOf(song_, set_, base.take, pool_) : std::vector<MicView>{};
    unheard_ = base.map.identity() && mics.empty();
    const auto joints = solved(base, pieces, mics);
    const auto firstIndex = out.size();
    out.push_back(start(base, pieces.front(), base.source));
    auto earlier = pieces.front();
    for (std::size_t i = 1; i < pieces.size(); ++i) {
      const auto problem = problemOf(base, earlier, pieces[i]);
      const auto joint = problem == problemOf(base, pieces[i - 1], pieces[i])
                             ? joints[i - 1]
                             : solveJoint(problem, settingsOf(pieces[i]), mics);
      if (addPiece(base, earlier, pieces[i], joint, out))
        earlier = pieces[i];
      else
        earlier.lastAttack = pieces[i].lastAttack;
    }
    finish(base, firstIndex, out);
    for (auto i = firstIndex; i < out.size(); ++i) fitFades(out[i]);
    // A piece pushed out of sight stays on record with the one after it, so that no material is lost.
    for (auto i = out.size(); i-- > firstIndex;) {
      if (out[i].length.value > 0 || i + 1 == out.size()) continue;
      out[i + 1].piece->covers.start = out[i].piece->covers.start;
      out.erase(out.begin() + static_cast<std::ptrdiff_t>(i));
    }
  }

 private:
  /// The whole clip in one piece, stretched between its hits. Pins it had between them go along.
  Clip pinned(const Clip& base, const PlannedHits& hits) const {
    Clip c = base;
    const auto window = base.window();
    std::vector<Pin> moves{{window.start, window.start}};  // from the stretched time there was to the new one
    for (const auto* h : hits) {
      if (!h->opensSlice) continue;
      const auto reach = reachIn(base, h->hit);
      const auto by = h->to() - h->home;
      for (const auto at : {reach.first, reach.last}) {
        const Pin move{at, at + by};
        const bool inside = move.stretched > moves.back().stretched && move.stretched < window.end;
        if (move.take > moves.back().take && inside) moves.push_back(move);
      }
    }
    while (moves.size() > 1 && moves.back().take >= window.end) moves.pop_back();
    moves.push_back({window.end, window.end});
    c.map = over(base.map, TakeMap(std::move(moves)));
    c.piece = PlanPiece{window, base.shift(), HitId{}, base.id, base.map};
    return c;
  }

  /// One map after another: `second` goes from the stretched time of `first` to the new one.
  static TakeMap over(const TakeMap& first, const TakeMap& second) {
    std::vector<Pin> out;
    for (const auto& p : second.pins()) out.push_back({first.take(p.take), p.stretched});
    for (const auto& p : first.pins()) out.push_back({p.take, second.stretched(p.stretched)});
    std::sort(out.begin(), out.end(), [](const Pin& a, const Pin& b) { return a.take < b.take; });
    // Rounding may bring two to one place: the first stands.
    std::vector<Pin> rising;
    for (const auto& p : out)
      if (rising.empty() || (p.take > rising.back().take && p.stretched > rising.back().stretched)) rising.push_back(p);
    return TakeMap(std::move(rising));
  }

  /// The piece that began with this hit in the last run; null when there was none. A clip that was cut in two by hand
  /// has another origin from there on: its pieces are known by their hits.
  const Clip* oldPiece(ClipId origin, HitId hit) const {
    if (const auto found = old_.find({origin, hit}); found != old_.end()) return found->second;
    const auto found = oldOfHit_.find(hit);
    return found == oldOfHit_.end() ? nullptr : found->second;
  }

  Clip start(const Clip& base, const Piece& piece, Frames source) {
    Clip c = base;
    const auto* old = oldPiece(base.id, piece.hit);
    c.id = old ? old->id : piece.hit ? song_.newId<ClipTag>() : base.id;
    if (old) {
      c.gainDb = old->gainDb;
      c.pan = old->pan;
      c.muted = old->muted;
      c.bundle = old->bundle;
      c.extras = old->extras;
    }
    c.source = source;
    c.start = source + piece.shift;
    c.length = {};
    c.piece = PlanPiece{{source, source}, base.shift(), piece.hit, base.id, base.map};
    if (piece.hit) {
      c.fadeIn = {};
      c.seam = {};
    }
    c.fadeOut = {};
    return c;
  }

  JointProblem problemOf(const Clip& base, const Piece& earlier, const Piece& later) const {
    JointProblem out{earlier.lastAttack, later.firstAttack, earlier.shift, later.shift, base.source};
    // What lies before the first hit has no attack of its own to protect.
    if (!earlier.hit && earlier.lastAttack == base.source) out.lastAttack = base.source - Frames{song_.rate};
    return out;
  }

  JointSettings settingsOf(const Piece& later) const {
    const auto& settings = set_.plan->settings;
    const auto& own = seamOf(later.hit);
    return {settings.leadInMs, settings.crossfadeMs, song_.rate, own.leadIn, own.length, own.fill};
  }

  /// The joint of each piece but the first with the one before it. One has no part in another.
  std::vector<Joint> solved(const Clip& base, const std::vector<Piece>& pieces,
                            const std::vector<MicView>& mics) const {
    constexpr std::size_t kTogether = 64;
    std::vector<Joint> out(pieces.size() - 1);
    const auto solve = [&](std::size_t i) {
      out[i] = solveJoint(problemOf(base, pieces[i], pieces[i + 1]), settingsOf(pieces[i + 1]), mics);
    };
    // One core is left to what plays.
    const auto cores = std::min<std::size_t>(4, std::max(2U, std::thread::hardware_concurrency()) - 1);
    if (mics.empty() || cores == 1 || out.size() <= kTogether) {
      for (std::size_t i = 0; i < out.size(); ++i) solve(i);
      return out;
    }
    Progress progress;
    onAllCores((out.size() + kTogether - 1) / kTogether, progress,
               [&](std::size_t part, Progress&) {
                 for (auto i = part * kTogether; i < std::min(out.size(), (part + 1) * kTogether); ++i) solve(i);
               },
               cores);
    return out;
  }

  /// False when there is no room for a piece of its own (a hit at the clip's very end, or one pushed through another):
  /// its sound goes with the piece before.
  bool addPiece(const Clip& base, const Piece& earlier, const Piece& later, Joint joint, ClipList& out) {
    auto& before = out.back();
    if (joint.fill == SeamFill::stretched) return addStretched(base, earlier, later, joint, out);
    joint.at = std::max(joint.at, before.start);
    joint.earlierEnd = std::clamp(joint.earlierEnd, before.start, joint.at);
    const auto source = std::max(joint.at - later.shift, base.source);
    if (source >= base.source + base.length || source <= before.piece->covers.start) return false;
    joint.at = source + later.shift;
    before.length = std::min(joint.earlierEnd, joint.at) - before.start;
    before.piece->covers.end = source;
    Clip next = start(base, later, source);
    next.piece->unheard = unheard_;
    dress(next, joint.fill);
    if (joint.fill == SeamFill::faded) {
      const Frames fade{std::llround(0.003 * song_.rate)};
      before.fadeOut.length = std::min(fade, before.length);
      next.fadeIn.length = fade;
    } else {
      next.seam.before = std::min(joint.crossfade / 2, before.length);
      next.seam.after = joint.crossfade - joint.crossfade / 2;
    }
    out.push_back(next);
    return true;
  }

  /// The earlier piece gets pins that draw its sustain out until the later one's lead-in.
  bool addStretched(const Clip& base, const Piece& earlier, const Piece& later, const Joint& joint, ClipList& out) {
    auto& before = out.back();
    const auto source = joint.at - later.shift;
    if (joint.at <= before.start || source >= base.source + base.length || source <= before.piece->covers.start)
      return false;
    const auto handle = before.seam.before;  // what the crossfade before this piece shows of it
    const auto from = std::max(joint.sustainFrom, before.source);
    std::vector<Pin> moves{{before.source - handle, before.source - handle}, {from, from}};
    if (moves[0].take == from) moves.erase(moves.begin());
    moves.push_back({joint.sustainTo, joint.at - earlier.shift});
    before.length = joint.at - before.start;
    before.piece->covers.end = source;
    before.map = over(base.map, TakeMap(std::move(moves)));
    Clip next = start(base, later, source);
    next.piece->unheard = unheard_;
    dress(next, SeamFill::stretched);
    next.seam.before = joint.crossfade;
    out.push_back(next);
    return true;
  }

  const SeamOverride& seamOf(HitId hit) const {
    static const SeamOverride none;
    const auto found = set_.plan->overrides.find(hit);
    return found == set_.plan->overrides.end() ? none : found->second.seam;
  }

  /// How the seam before a piece sounds: as its own decision says, else as the settings say.
  void dress(Clip& next, SeamFill fill) const {
    const auto& settings = set_.plan->settings;
    const auto& own = seamOf(next.piece->hit);
    next.seam.fill = fill;
    next.seam.law = own.law.value_or(settings.law);
    next.seam.shape = own.shape.value_or(settings.shape);
    next.seam.bias = own.bias.value_or(settings.bias) / 100.0;
  }

  /// The last piece ends where its material ends, and never beyond the unplanned clip's end.
  static void finish(const Clip& base, std::size_t firstIndex, ClipList& out) {
    const auto sourceEnd = base.source + base.length;
    while (out.size() > firstIndex + 1 && out.back().start >= base.end()) out.pop_back();
    auto& last = out.back();
    last.piece->covers.end = sourceEnd;
    last.length = std::max(Frames{1}, std::min(sourceEnd + last.shift(), base.end()) - last.start);
    last.fadeOut = base.fadeOut;
    fitFades(last);
  }

  Song& song_;
  const MicSet& set_;
  const MediaPool& pool_;
  bool unheard_ = false;  ///< of the clip that is cut: nothing of it is at hand
  std::map<std::pair<ClipId, HitId>, const Clip*> old_;
  std::map<HitId, const Clip*> oldOfHit_;
};

}  // namespace

Result<Song> applyTimingPlan(const Song& song, SetId id, const MediaPool& pool) {
  return applyTimingPlan(song, id, planTiming(song, id), pool);
}

namespace {

/// Joints between two pieces that both begin with locked hits are taken over as they were, whatever the settings say
/// now.
void keepLockedJoints(ClipList& clips, const ClipList& before, const std::set<HitId>& locked) {
  const auto isLocked = [&](const Clip& c) { return c.piece && locked.contains(c.piece->hit); };
  std::map<std::pair<HitId, HitId>, std::size_t> old;
  for (std::size_t i = 1; i < before.size(); ++i)
    if (isLocked(before[i - 1]) && isLocked(before[i])) old[{before[i - 1].piece->hit, before[i].piece->hit}] = i;
  for (std::size_t i = 1; i < clips.size(); ++i) {
    auto& a = clips[i - 1];
    auto& b = clips[i];
    if (!isLocked(a) || !isLocked(b)) continue;
    const auto found = old.find({a.piece->hit, b.piece->hit});
    if (found == old.end()) continue;
    const auto& oldA = before[found->second - 1];
    const auto& oldB = before[found->second];
    if (oldA.shift() != a.shift() || oldB.shift() != b.shift() || oldB.start >= b.end() || oldA.end() <= a.start)
      continue;
    b.length += b.start - oldB.start;
    b.start = oldB.start;
    b.source = oldB.source;
    b.seam = oldB.seam;
    b.fadeIn = oldB.fadeIn;
    b.piece->covers.start = oldB.piece->covers.start;
    b.piece->unheard = false;  // as it was locked
    a.length = oldA.end() - a.start;
    a.fadeOut = oldA.fadeOut;
    a.map = oldA.map;
    a.piece->covers.end = oldA.piece->covers.end;
    fitFades(a);
    fitFades(b);
  }
}

}  // namespace

Result<Song> applyTimingPlan(const Song& song, SetId id, const TimingResult& timing, const MediaPool& pool) {
  const auto* before = song.find(id);
  if (!before) return setGone();
  if (before->locked) return song;
  Song next = song;
  auto& set = *std::find_if(next.sets.begin(), next.sets.end(), [&](const MicSet& s) { return s.id == id; });
  PlannedIn hits;
  std::set<HitId> locked;
  for (const auto& h : timing.hits) {
    if (set.plan->settings.on || h.locked) hits[h.clip].push_back(&h);
    if (h.locked) locked.insert(h.hit.id);
  }
  if (!set.plan->settings.on && locked.empty()) {
    set.clips = withoutPlan(*set.clips);
    dropEmptyBundles(next);
    return next;
  }
  ClipList out;
  Cutter cutter(next, *before, hits, pool);
  for (const auto& clip : mergedPieces(*before->clips)) {
    ClipList pieces;
    cutter.cut(clip, hits[clip.id], pieces);
    out.insert(out.end(), pieces.begin(), pieces.end());
  }
  sortByStart(out);
  keepLockedJoints(out, *before->clips, locked);
  // A first piece that moved early gives way to the clip before; pieces give way to clips put there by hand.
  resolveOverlaps(out);
  giveOwnNames(next, out);
  set.clips = std::move(out);
  dropEmptyBundles(next);
  return next;
}

bool hasJointsToHear(const Song& song, const MicSet& set, const MediaPool& pool) {
  if (set.locked) return false;
  const auto lies = [&](const Clip& c) {
    return std::any_of(set.locks.begin(), set.locks.end(), [&](const FrameRange& l) { return l.contains(c.start); });
  };
  std::optional<TakeId> silent;
  for (const auto& c : *set.clips) {
    if (!c.piece || !c.piece->unheard || silent == c.take || lies(c)) continue;
    for (const auto track : set.tracks)
      if (const auto* mic = song.micOf(c.take, track); mic && pool.contains(mic->media)) return true;
    silent = c.take;
  }
  return false;
}

}  // namespace ochron
