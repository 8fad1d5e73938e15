#include "document/sounding.h"

#include <algorithm>
#include <cmath>

#include "document/document.h"
#include "document/effect_desk.h"
#include "document/seam_desk.h"
#include "document/selection.h"
#include "document/song_files.h"
#include "document/transport.h"
#include "edits/edit_tools.h"
#include "edits/pieces.h"
#include "play/click.h"
#include "render/loudness.h"
#include "render/tuned_takes.h"

namespace ochron {
namespace {

constexpr double kMostDb = 12;              // between the versions
constexpr double kLeastDifferenceDb = 0.1;  // that is made up for

float gainOf(double db) { return static_cast<float>(std::pow(10.0, db / 20)); }

}  // namespace

Sounding::Sounding(Document& document) : QObject(&document), doc_(document) {}

void Sounding::beginSong() {
  playPlan_.reset();
  tunedPool_.reset();
  made_.reset();
  originalGainDb_ = 0;
}

void Sounding::keepIn(const std::filesystem::path& cacheFolder) {
  if (!made_) made_ = std::make_shared<MadeStore>(cacheFolder);
}

void Sounding::compile() {
  doc_.jobs().start(
      {},
      [this, song = doc_.version(), pool = doc_.pool(), before = playPlan_, made = made_, was = tunedPool_,
       near = doc_.transport().heardSoon()](Progress& progress) -> Jobs::Finish {
        auto plan = std::make_shared<PlayPlan>();
        if (!before) playFirst(song, pool, made.get(), near.start);
        const auto tuned = std::make_shared<const TunedPool>(tunedAtHand(*song, pool, *made, was.get()));
        makeQuickly(*song, tuned->pool, *made, near);
        plan->edited = compilePlan(*song, tuned->pool, before ? &before->edited : nullptr, made.get());
        plan->edited.preview = plan->edited.preview || tuned->missing;
        if (progress.cancelled()) return {};
        plan->original = compilePlan(withoutPlans(*song), pool, before ? &before->original : nullptr, made.get());
        const auto end = std::max(plan->edited.end, plan->original.end) + Frames{song->rate * 600ll};
        plan->clicks = clicksOf(song->tempo, {song->tempo.origin() - Frames{song->rate * 60ll}, end});
        plan->notes = layerNotes(*song);
        return [this, plan, song, tuned] {
          tunedPool_ = tuned;
          plan->originalGain = matchesLoudness_ ? gainOf(originalGainDb_) : 1.0F;
          play(plan);
          measureLoudness();
          if (song == doc_.version() && (plan->edited.preview || plan->original.preview)) makeSound();
        };
      },
      "compile", Jobs::Scope::song, Jobs::Kind::follow);
}

/// Of a song that has just been opened, what plays first, while the rest is compiled. On a worker's thread.
void Sounding::playFirst(const std::shared_ptr<const Song>& song, const MediaPool& pool, MadeStore* made, Frames from) {
  constexpr std::int64_t kSeconds = 20;
  auto first = std::make_shared<PlayPlan>();
  const auto part = onlyIn(*song, {from, from + Frames{kSeconds * song->rate}});
  first->edited = compilePlan(part, pool, nullptr, made);
  first->original = compilePlan(withoutPlans(part), pool, nullptr, made);
  first->edited.preview = true;
  QMetaObject::invokeMethod(
      this,
      [this, first, song] {
        if (playPlan_ || instead_ || song != doc_.version()) return;
        play(first);
      },
      Qt::QueuedConnection);
}

void Sounding::compileShown() {
  if (!playPlan_) return;
  doc_.jobs().start(
      {},
      [this, song = doc_.version(), pool = tunedPool_ ? tunedPool_->pool : doc_.pool(), before = playPlan_,
       made = made_, near = doc_.transport().heardSoon()](Progress&) -> Jobs::Finish {
        auto plan = std::make_shared<PlayPlan>(*before);
        makeQuickly(*song, pool, *made, near);
        plan->edited = compilePlan(*song, pool, &before->edited, made.get());
        return [this, plan] {
          if (!doc_.previewing() || instead_) return;
          play(plan);
        };
      },
      "compile", Jobs::Scope::song, Jobs::Kind::follow);
}

void Sounding::hearInstead(const std::shared_ptr<const PlayPlan>& plan) {
  if (plan == instead_) return;
  instead_ = plan;
  playAgain();
  emit insteadChanged();
}

void Sounding::playAgain() {
  if (instead_)
    give(*instead_);
  else if (playPlan_)
    give(*playPlan_);
}

/// To the engine, through the song's effects.
void Sounding::give(const PlayPlan& plan) {
  auto through = std::make_shared<PlayPlan>(plan);
  for (auto* version : {&through->edited, &through->original}) useRacks(*version, doc_.effectDesk().racks());
  doc_.transport().player().setPlan(through);
}

/// Both versions, over what is played; the original is raised or lowered to the edited one.
void Sounding::measureLoudness() {
  if (!matchesLoudness_ || playPlan_->edited.preview) return;
  doc_.jobs().start(
      {},
      [this, plan = playPlan_,
       range = doc_.transport().looping() && !doc_.selection().range().empty()
                   ? doc_.selection().range()
                   : FrameRange{{}, doc_.song().end()}](Progress& progress) -> Jobs::Finish {
        const auto edited = loudnessOf(plan->edited, range, progress);
        const auto original = loudnessOf(plan->original, range, progress);
        if (!edited || !original) return {};
        return [this, plan, db = std::clamp(*edited - *original, -kMostDb, kMostDb)] {
          if (plan != playPlan_ || std::abs(db - originalGainDb_) < kLeastDifferenceDb) return;
          originalGainDb_ = db;
          matchLoudness(matchesLoudness_);
        };
      },
      "loudness");
}

void Sounding::matchLoudness(bool on) {
  const bool begins = on && !matchesLoudness_;
  matchesLoudness_ = on;
  if (playPlan_) {
    auto plan = std::make_shared<PlayPlan>(*playPlan_);
    plan->originalGain = on ? gainOf(originalGainDb_) : 1.0F;
    play(plan);
    if (begins) measureLoudness();
  }
  emit changed();
}

void Sounding::play(const std::shared_ptr<const PlayPlan>& plan) {
  playPlan_ = plan;
  if (!instead_) give(*plan);
  emit planChanged();
}

/// Makes what a preview stands in for, nearest to the play line first. What is at hand is heard as it comes.
void Sounding::makeSound(bool anew) {
  if (!anew && makingFor_ == doc_.version() && doc_.jobs().runs("stretch")) return;
  makingFor_ = doc_.version();
  doc_.jobs().start(
      tr("making sound"),
      [this, song = doc_.version(), pool = doc_.pool(), made = made_,
       near = doc_.transport().heardSoon().start](Progress& progress) -> Jobs::Finish {
        const auto heardNow = [this] {
          QMetaObject::invokeMethod(
              this,
              [this] {
                if (!doc_.jobs().runs("compile")) compile();
              },
              Qt::QueuedConnection);
        };
        if (const auto ok = makeTuned(*song, pool, *made, near, progress, heardNow); !ok)
          return doc_.failed(ok.error());
        const auto tuned = tunedAtHand(*song, pool, *made);
        const auto plain = std::make_shared<const Song>(withoutPlans(*song));
        for (const auto& [version, sound] : {std::pair{song, tuned.pool}, std::pair{plain, pool}})
          if (const auto ok = makeMissing(*version, sound, *made, near, progress, heardNow); !ok)
            return doc_.failed(ok.error());
        return [this] {
          compile();
          doc_.seamDesk().measure();
          doc_.files().trimCaches();
        };
      },
      "stretch", Jobs::Scope::song, Jobs::Kind::follow);
}

void Sounding::makeNearPlayLine() {
  if (doc_.jobs().runs("stretch")) makeSound(true);
}

double Sounding::jointLikeness(TrackId track, const Clip& later) const {
  constexpr double kUnknown = 0.5;
  if (!playPlan_) return kUnknown;
  return likenessOf(playPlan_->edited, track, later.start - later.seam.before).value_or(kUnknown);
}

}  // namespace ochron
