#include "render/racks.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

#include "render/render.h"

namespace ochron {
namespace {

using Sides = std::array<std::span<float>, 2>;

Sides soundOf(TrackRack& rack, std::size_t n) {
  return {std::span(rack.sound[0]).first(n), std::span(rack.sound[1]).first(n)};
}

/// A set's tracks together, from their sources on, as what steers its effects. `room`: two sides to read into.
void readKey(std::vector<float>& key, SetId set, const RenderPlan& plan, std::size_t from, Sides room,
             TrackSource& source) noexcept {
  const auto n = room[0].size();
  std::fill_n(key.begin(), n, 0.0F);
  for (std::size_t t = 0; t < plan.tracks.size(); ++t) {
    if (plan.tracks[t].set != set) continue;
    for (const auto& side : room) std::fill(side.begin(), side.end(), 0.0F);
    source.readTrack(t, from, room[0], room[1]);
    for (std::size_t i = 0; i < n; ++i) key[i] += (room[0][i] + room[1][i]) / 2;
  }
}

/// Controls that move are set anew at every so many frames of the song, wherever blocks begin: what is played and what
/// is exported are the same.
constexpr std::int64_t kControlStep = 256;

/// How far into such a step a place lies.
std::int64_t intoStep(Frames at) noexcept { return (at.value % kControlStep + kControlStep) % kControlStep; }

bool anyMoves(const std::vector<std::shared_ptr<RackSlot>>& stages) noexcept {
  return std::any_of(stages.begin(), stages.end(), [](const auto& s) { return s->moves(); });
}

/// How many frames of a block at `at` go through effects at once.
std::size_t atOnce(Frames at, std::size_t left, bool moves) noexcept {
  const auto n = std::min(Effect::kMostFrames, left);
  if (!moves) return n;
  return std::min(n, static_cast<std::size_t>(kControlStep - intoStep(at)));
}

/// The place of the song that the controls of a stage are set to, which hears what was read at `at` so much later.
Frames controlPlace(Frames at, Frames late) noexcept { return at - Frames{intoStep(at)} - late; }

const TrackPlan* planned(const RenderPlan& plan, TrackId track) noexcept {
  const auto found =
      std::find_if(plan.tracks.begin(), plan.tracks.end(), [&](const TrackPlan& t) { return t.track == track; });
  return found == plan.tracks.end() ? nullptr : &*found;
}

/// A rack's track before its effects, and what steers these.
void readInto(TrackRack& rack, bool withKey, const RenderPlan& plan, const TrackPlan& track, std::size_t from,
              std::size_t n, TrackSource& source) noexcept {
  const auto sides = soundOf(rack, n);
  if (rack.key && withKey) readKey(*rack.key, rack.set, plan, from, sides, source);
  for (const auto& side : sides) std::fill(side.begin(), side.end(), 0.0F);
  source.readTrack(static_cast<std::size_t>(&track - plan.tracks.data()), from, sides[0], sides[1]);
}

std::span<const float> keyOf(const TrackRack& rack, std::size_t stage, std::size_t n) noexcept {
  return rack.key && stage >= rack.ofSet ? std::span<const float>(*rack.key).first(n) : std::span<const float>();
}

}  // namespace

void TrackRack::clear() noexcept {
  pad.clear();
  for (const auto& s : stages) s->clear();
}

void Racks::clear() noexcept {
  plain.clear();
  for (auto& t : tracks) t.clear();
  for (const auto& s : mix) s->clear();
}

void runTrack(TrackRack& rack, const RenderPlan& plan, Frames at, std::size_t from, std::size_t n, TrackSource& source,
              Effect::Clock::time_point latest) noexcept {
  const auto* track = planned(plan, rack.track);
  if (!track) return;
  readInto(rack, true, plan, *track, from, n, source);
  const auto sides = soundOf(rack, n);
  Frames late;
  for (std::size_t s = 0; s < rack.stages.size(); ++s) {
    rack.stages[s]->ask(sides, keyOf(rack, s, n), controlPlace(at, late));
    rack.stages[s]->answer(sides, latest);
    late += rack.stages[s]->latency();
  }
}

void addRacked(const RenderPlan& plan, Frames at, std::span<float> left, std::span<float> right, TrackSource& source,
               Effect::Clock::time_point latest, std::span<float> peaks, std::span<const float> gains) noexcept {
  auto& racks = *plan.racks;
  const bool moves = anyMoves(racks.mix) || std::any_of(racks.tracks.begin(), racks.tracks.end(),
                                                        [](const TrackRack& r) { return anyMoves(r.stages); });
  std::size_t n = 0;
  for (std::size_t from = 0; from < left.size(); from += n) {
    const auto place = at + Frames{static_cast<std::int64_t>(from)};
    n = atOnce(place, left.size() - from, moves);
    const Sides out{left.subspan(from, n), right.subspan(from, n)};
    racks.plain.run(out);
    std::size_t most = 0;
    for (auto& rack : racks.tracks) {
      rack.now = planned(plan, rack.track);
      if (rack.now && !rack.now->audible) rack.now = nullptr;
      if (!rack.now) continue;
      most = std::max(most, rack.stages.size());
      const bool keyed = std::any_of(racks.tracks.data(), &rack,
                                     [&](const TrackRack& r) { return r.now && r.key && r.key == rack.key; });
      readInto(rack, !keyed, plan, *rack.now, from, n, source);
      rack.late = {};
    }
    // All tracks' effects of one place are at work together.
    for (std::size_t s = 0; s < most; ++s) {
      for (auto& rack : racks.tracks)
        if (rack.now && s < rack.stages.size())
          rack.stages[s]->ask(soundOf(rack, n), keyOf(rack, s, n), controlPlace(place, rack.late));
      for (auto& rack : racks.tracks)
        if (rack.now && s < rack.stages.size()) {
          rack.stages[s]->answer(soundOf(rack, n), latest);
          rack.late += rack.stages[s]->latency();
        }
    }
    for (auto& rack : racks.tracks) {
      if (!rack.now) continue;
      const auto sides = soundOf(rack, n);
      const auto index = static_cast<std::size_t>(rack.now - plan.tracks.data());
      applyMixer(*rack.now, plan.gain, place - rack.latency, sides[0], sides[1]);
      if (index < peaks.size())
        for (const auto& side : sides)
          for (const float v : side) peaks[index] = std::max(peaks[index], std::abs(v));
      if (!gains.empty())
        for (const auto& side : sides)
          for (std::size_t i = 0; i < n; ++i) side[i] *= gains[from + i];
      rack.pad.run(sides);
      for (std::size_t side = 0; side < 2; ++side)
        for (std::size_t i = 0; i < n; ++i) out[side][i] += sides[side][i];
    }
    auto late = racks.trackLatency;
    for (const auto& slot : racks.mix) {
      slot->ask(out, {}, controlPlace(place, late));
      slot->answer(out, latest);
      late += slot->latency();
    }
  }
}

ControlCourse courseOf(const Insert& insert, const EffectInfo& info) {
  std::vector<std::pair<std::size_t, MovedControl>> moved;
  for (const auto& [symbol, control] : insert.moved)
    for (std::size_t c = 0; c < info.controls.size(); ++c)
      if (info.controls[c].symbol == symbol) moved.emplace_back(c, control);
  if (moved.empty()) return {};
  return [moved = std::move(moved)](Effect& effect, Frames place) {
    for (const auto& [c, control] : moved) {
      const auto& is = effect.info().controls[c];
      effect.set(
          c, static_cast<float>(std::clamp(control.at(place), std::min(is.low, is.high), std::max(is.low, is.high))));
    }
  };
}

std::shared_ptr<Racks> makeRacks(const Song& song, const SlotGiver& give) {
  if (!anyInserts(song)) return nullptr;
  auto racks = std::make_shared<Racks>();
  const auto fill = [&](std::vector<std::shared_ptr<RackSlot>>& to, const InsertList& inserts, TrackId track,
                        int channels) {
    for (const auto& insert : inserts)
      if (auto slot = give(insert, track, channels)) to.push_back(std::move(slot));
  };
  const auto latencyOf = [](const std::vector<std::shared_ptr<RackSlot>>& stages) {
    Frames sum;
    for (const auto& s : stages) sum += s->latency();
    return sum;
  };
  constexpr int kStereo = 2;
  std::map<SetId, std::shared_ptr<std::vector<float>>> keys;
  for (const auto& t : song.tracks) {
    const auto* set = song.setOf(t.id);
    if (!set || (t.inserts->empty() && set->inserts->empty())) continue;
    TrackRack rack;
    rack.track = t.id;
    rack.set = set->id;
    fill(rack.stages, *t.inserts, t.id, kStereo);
    rack.ofSet = rack.stages.size();
    fill(rack.stages, *set->inserts, t.id, kStereo);
    if (rack.stages.empty()) continue;
    if (std::any_of(rack.stages.begin() + static_cast<std::ptrdiff_t>(rack.ofSet), rack.stages.end(),
                    [](const auto& s) { return s->effect().info().keyed; })) {
      auto& key = keys[set->id];
      if (!key) key = std::make_shared<std::vector<float>>(Effect::kMostFrames);
      rack.key = key;
    }
    rack.latency = latencyOf(rack.stages);
    for (auto& side : rack.sound) side.resize(Effect::kMostFrames);
    racks->trackLatency = std::max(racks->trackLatency, rack.latency);
    racks->tracks.push_back(std::move(rack));
  }
  fill(racks->mix, *song.inserts, {}, kStereo);
  racks->latency = racks->trackLatency + latencyOf(racks->mix);
  racks->plain = DelayLine(racks->trackLatency);
  for (auto& t : racks->tracks) t.pad = DelayLine(racks->trackLatency - t.latency);
  return racks->tracks.empty() && racks->mix.empty() ? nullptr : racks;
}

Result<std::shared_ptr<Racks>> startRacks(const Song& song, const std::vector<EffectInfo>& known,
                                          std::vector<std::string>& missing) {
  constexpr auto kPatience = std::chrono::seconds(20);
  std::map<std::pair<InsertId, TrackId>, std::shared_ptr<Effect>> effects;
  std::optional<Error> wrong;
  // All are started before any is waited for: it is known only then how late each is.
  const auto begin = [&](const Insert& insert, TrackId track, int channels) -> std::shared_ptr<RackSlot> {
    const auto info =
        std::find_if(known.begin(), known.end(), [&](const EffectInfo& e) { return e.uri == insert.effect; });
    if (info == known.end()) {
      if (std::find(missing.begin(), missing.end(), insert.name) == missing.end()) missing.push_back(insert.name);
      return nullptr;
    }
    if (insert.state->missing()) {
      if (auto what = "What " + insert.name + " held"; std::find(missing.begin(), missing.end(), what) == missing.end())
        missing.push_back(std::move(what));
      return nullptr;
    }
    auto effect = Effect::start(*info, song.rate, channels, insert.values, insert.state);
    if (!effect) {
      wrong = effect.error();
      return nullptr;
    }
    effects[{insert.id, track}] = *effect;
    return nullptr;
  };
  makeRacks(song, begin);
  if (wrong) return tl::unexpected(*wrong);
  for (const auto& [where, effect] : effects)
    if (!effect->waitUntilReady(kPatience))
      return fail(ErrorKind::ioFailed, effect->trouble().empty()
                                           ? effect->info().name + " did not start. Switch it off or take it out."
                                           : effect->trouble());
  return makeRacks(song, [&](const Insert& insert, TrackId track, int) -> std::shared_ptr<RackSlot> {
    const auto found = effects.find({insert.id, track});
    if (found == effects.end()) return nullptr;
    auto slot = std::make_shared<RackSlot>(found->second, song.rate, insert.on, RackSlot::Begin::atOnce);
    slot->follow(courseOf(insert, found->second->info()));
    return slot;
  });
}

Result<void> allAnswered(const Racks& racks) {
  const auto check = [](const std::vector<std::shared_ptr<RackSlot>>& stages) -> Result<void> {
    for (const auto& s : stages) {
      s->effect().watch();
      if (s->missed() > 0 || s->effect().state() != Effect::State::ready)
        return fail(ErrorKind::ioFailed, s->effect().info().name +
                                             " broke down or did not answer, so nothing was written. Switch it off, "
                                             "take it out, or try again.");
    }
    return {};
  };
  for (const auto& t : racks.tracks)
    if (auto ok = check(t.stages); !ok) return ok;
  return check(racks.mix);
}

PlayedThrough::PlayedThrough(const RenderPlan& plan, std::optional<Frames> end) : plan_(plan), end_(end) {}

namespace {
/// What lies from `end` on is silent.
void quietFrom(const std::optional<Frames>& end, Frames at, std::span<float> x) {
  if (!end || at + Frames{std::ssize(x)} <= *end) return;
  std::fill(x.begin() + std::max<std::ptrdiff_t>(0, (*end - at).value), x.end(), 0.0F);
}

/// Nobody waits for this sound in time, but not for ever either.
Effect::Clock::time_point latest() { return Effect::Clock::now() + std::chrono::seconds(10); }
}  // namespace

void PlayedThrough::readTrack(std::size_t track, std::size_t from, std::span<float> left,
                              std::span<float> right) noexcept {
  const auto& t = plan_.tracks[track];
  const auto at = block_ + Frames{static_cast<std::int64_t>(from)};
  ochron::addTrack(t, 0, at, left);
  if (t.channels.size() > 1)
    ochron::addTrack(t, 1, at, right);
  else
    std::copy(left.begin(), left.end(), right.begin());
  for (auto side : {left, right}) quietFrom(end_, at, side);
}

/// Reads as far ahead as comes out late, and some seconds before a first block: filters and levels have settled then.
template <class Clear, class Part>
void PlayedThrough::inTime(Frames at, Frames latency, std::span<float> left, std::span<float> right, Clear clear,
                           Part part) {
  constexpr double kSettleSeconds = 4;
  constexpr std::int64_t kStep = 8192;
  const auto want = at + latency;
  if (!next_ || *next_ != want) {
    const auto begin = std::max(Frames{}, at - Frames{static_cast<std::int64_t>(kSettleSeconds * plan_.rate)});
    std::vector<float> a(kStep);
    std::vector<float> b(kStep);
    clear();
    for (auto f = begin; f < want;) {
      const auto n = static_cast<std::size_t>(std::min<std::int64_t>(kStep, (want - f).value));
      std::fill(a.begin(), a.end(), 0.0F);
      std::fill(b.begin(), b.end(), 0.0F);
      part(f, std::span(a).first(n), std::span(b).first(n));
      f += Frames{static_cast<std::int64_t>(n)};
    }
  }
  part(want, left, right);
  next_ = want + Frames{std::ssize(left)};
}

void PlayedThrough::addMix(Frames at, std::span<float> left, std::span<float> right) {
  const auto plain = [&](Frames from, std::span<float> l, std::span<float> r) {
    scratch_.resize(std::max(scratch_.size(), l.size()));
    ochron::addMix(plan_, from, l, r, scratch_, {}, plan_.racked);
    for (auto side : {l, r}) quietFrom(end_, from, side);
  };
  if (!plan_.racks) return plain(at, left, right);
  const auto clear = [&] { plan_.racks->clear(); };
  inTime(at, plan_.racks->latency, left, right, clear, [&](Frames from, std::span<float> l, std::span<float> r) {
    block_ = from;
    plain(from, l, r);
    addRacked(plan_, from, l, r, *this, latest(), {});
  });
}

void PlayedThrough::addTrack(std::size_t track, Frames at, std::span<float> left, std::span<float> right) {
  if (!own_ && plan_.racks)
    for (const auto& t : plan_.racks->tracks)
      if (t.track == plan_.tracks[track].track) {
        // Other tracks of its set may be played beside it: what steers it is read for itself.
        own_ = t;
        if (own_->key) own_->key = std::make_shared<std::vector<float>>(Effect::kMostFrames);
      }
  if (!own_) {
    block_ = at;
    return readTrack(track, 0, left, right);
  }
  auto* rack = &*own_;
  const auto clear = [&] { rack->clear(); };
  inTime(at, rack->latency, left, right, clear, [&](Frames from, std::span<float> l, std::span<float> r) {
    block_ = from;
    std::size_t n = 0;
    for (std::size_t done = 0; done < l.size(); done += n) {
      const auto place = from + Frames{static_cast<std::int64_t>(done)};
      n = atOnce(place, l.size() - done, anyMoves(rack->stages));
      runTrack(*rack, plan_, place, done, n, *this, latest());
      for (std::size_t i = 0; i < n; ++i) {
        l[done + i] += rack->sound[0][i];
        r[done + i] += rack->sound[1][i];
      }
    }
  });
}

}  // namespace ochron
