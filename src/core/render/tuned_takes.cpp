#include "render/tuned_takes.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <optional>

#include "files/content_id.h"
#include "render/laid_over.h"
#include "render/lowered_takes.h"
#include "render/made_key.h"
#include "render/made_store.h"
#include "render/moved_sound.h"
#include "tune/correction.h"

namespace ochron {
namespace {

constexpr int kTuneVersion = 6;  // raised when the same key would give other sound

/// One set's recordings of one take, and what its plan moves in them.
struct TunedTake {
  const Take* take = nullptr;
  Voices voices;
  const PitchTrack* track = nullptr;
  std::vector<MovedStretch> stretches;
};

std::vector<TunedTake> tunedTakes(const Song& song, const MediaPool& pool) {
  std::vector<TunedTake> out;
  for (const auto& set : song.sets) {
    if (!set.pitch->active()) continue;
    for (const auto& take : song.takes) {
      const auto& line = *song.lineOf(take.id, set.id);
      if (line.notes.empty()) continue;
      Clip whole;
      whole.take = take.id;
      TunedTake t{&take, voicesOf(song, set, whole, pool), &line.track, {}};
      const auto wishes = wishesFor(*set.pitch, take.id, line.notes);
      const auto& plan = set.pitch->settings;
      t.stretches = movedStretches(line.track, tuned(line.track, line.notes, plan, wishes), plan);
      if (!t.voices.list.empty()) out.push_back(std::move(t));
    }
  }
  return out;
}

bool anyPitchPlan(const Song& song) {
  return std::any_of(song.sets.begin(), song.sets.end(), [](const MicSet& s) { return s.pitch->active(); });
}

MadeKey keyOf(const TunedTake& t, const MovedStretch& s) {
  KeyMaker k(t.voices, "tuned");
  k.add(kTuneVersion, s.first, s.gapBefore, s.gapAfter);
  for (const double c : s.cents) k.add(c);
  for (const double c : s.formants) k.add(c);
  for (std::size_t i = s.first; i < s.first + s.cents.size(); ++i) k.add(t.track->values[i].hertz);
  return k.key();
}

}  // namespace

bool anyTuned(const Song& song) { return anyLowered(song) || anyPitchPlan(song); }

TunedPool tunedAtHand(const Song& song, const MediaPool& recorded, const MadeStore& store, const TunedPool* before) {
  TunedPool out;
  out.lowered = loweredAtHand(song, recorded, store, before ? &before->lowered : nullptr, out.missing);
  const auto& pool = out.lowered;
  const auto* previous = before ? &before->pool : nullptr;
  out.pool = pool;
  for (const auto& t : tunedTakes(song, pool)) {
    std::vector<std::pair<Frames, std::shared_ptr<const DecodedMedia>>> patches;
    KeyMaker all(t.voices, "tuned take");
    for (const auto& s : t.stretches) {
      const auto key = keyOf(t, s);
      if (auto sound = store.atHand(key)) {
        all.addText(key.text);
        patches.emplace_back(windowStart(s, t.voices.rate), std::move(sound));
      } else {
        out.missing = true;
      }
    }
    if (patches.empty()) continue;
    std::map<MediaId, DecodedMedia::Patches> laid;
    for (std::size_t v = 0; v < t.voices.list.size(); ++v) {
      const auto& voice = t.voices.list[v];
      const auto was = previous ? previous->find(voice.media) : MediaPool::const_iterator{};
      if (previous && was != previous->end() && was->second->variant() == all.value()) {
        out.pool[voice.media] = was->second;
        continue;
      }
      auto& to = laid[voice.media];
      LaidOver over(voice.sound->channel(voice.channel));
      for (const auto& [start, sound] : patches) {
        over.add((start - voice.offset).value, sound->channel(static_cast<int>(v)));
        to.made.push_back(sound);
      }
      to.channels.push_back(over.patches(to.owned));
    }
    for (auto& [id, over] : laid) out.pool[id] = DecodedMedia::variant(pool.at(id), std::move(over), all.value());
  }
  return out;
}

Result<void> makeTuned(const Song& song, const MediaPool& recorded, MadeStore& store, Frames near, Progress& progress,
                       const std::function<void()>& made) {
  if (auto ok = makeLowered(song, recorded, store, near, progress, made); !ok) return ok;
  if (!anyPitchPlan(song)) return {};
  bool missing = false;
  const auto pool = loweredAtHand(song, recorded, store, nullptr, missing);
  constexpr std::chrono::milliseconds kOften{150};
  std::optional<std::chrono::steady_clock::time_point> told;  // of the first at once
  const auto takes = tunedTakes(song, pool);
  struct Missing {
    const TunedTake* take;
    const MovedStretch* stretch;
    Frames away;
  };
  std::vector<Missing> wanted;
  for (const auto& t : takes)
    for (const auto& s : t.stretches) {
      if (store.atHand(keyOf(t, s))) continue;
      const Frames middle{std::llround((static_cast<double>(s.first) + 0.5 * static_cast<double>(s.cents.size())) *
                                       PitchTrack::kHop * t.voices.rate)};
      wanted.push_back({&t, &s, Frames{std::abs((middle - near).value)}});
    }
  std::stable_sort(wanted.begin(), wanted.end(), [](auto& a, auto& b) { return a.away < b.away; });
  double done = 0;
  for (const auto& m : wanted) {
    if (progress.cancelled()) return cancelledError();
    const auto key = keyOf(*m.take, *m.stretch);
    if (!store.find(key)) {
      auto sound = movedWindow(m.take->voices, *m.take->track, *m.stretch);
      store.keep(keyNow(key, m.take->voices), m.take->voices.rate, std::move(sound));
    }
    progress.report(++done / static_cast<double>(wanted.size()));
    const auto now = std::chrono::steady_clock::now();
    if (made && (!told || now - *told > kOften)) {
      told = now;
      made();
    }
  }
  return {};
}

Result<MediaPool> tunedWhole(const Song& song, const MediaPool& pool, MadeStore& store, Progress& progress) {
  if (!anyTuned(song)) return pool;
  if (auto ok = makeTuned(song, pool, store, Frames{}, progress); !ok) return tl::unexpected(ok.error());
  auto out = tunedAtHand(song, pool, store);
  if (out.missing)
    return fail(ErrorKind::ioFailed, "Some of the tuned sound could not be made. Make room on the disk.");
  return std::move(out.pool);
}

}  // namespace ochron
