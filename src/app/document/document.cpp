#include "document/document.h"

#include <unistd.h>
#include <QStandardPaths>
#include <QTimer>
#include <algorithm>

#include "document/clip_desk.h"
#include "document/wording.h"
#include "seams/apply_plan.h"
#include "store/project.h"

namespace ochron {
namespace fs = std::filesystem;

namespace {

bool needsStretching(const Song& song, const StretchedSounds& have) {
  for (const auto& set : song.sets)
    for (const auto& c : *set.clips)
      if (needsMaking(c) && !madeSound(c, have)) return true;
  return false;
}

/// Pieces whose sustain is to be stretched fade out where their own sound ends, until the stretched sound is there.
void fadeInsteadOfStretching(MicSet& set, int rate) {
  ClipList clips = *set.clips;
  const Frames fade{rate * 3 / 1000};
  for (std::size_t i = 0; i < clips.size(); ++i) {
    auto& c = clips[i];
    if (c.pins->empty()) continue;
    const auto shift = c.shift();
    c.length = std::min(c.length, c.pins->back().take + shift - c.start);
    c.pins = {};
    c.fadeOut.length = std::min(fade, c.length - c.fadeIn.length);
    if (i + 1 < clips.size()) clips[i + 1].fadeIn.length = std::min(fade, clips[i + 1].length);
  }
  set.clips = std::move(clips);
}

/// The song with its stretching plans carried out in slices, and nothing else stretched.
Song inSlices(Song song, const MediaPool& pool) {
  for (std::size_t i = 0; i < song.sets.size(); ++i) {
    if (song.sets[i].plan->settings.method == TimingMethod::stretch) {
      TimingPlan plan = *song.sets[i].plan;
      plan.settings.method = TimingMethod::slices;
      song.sets[i].plan = std::move(plan);
      if (auto next = applyTimingPlan(song, song.sets[i].id, pool)) song = std::move(*next);
    }
    fadeInsteadOfStretching(song.sets[i], song.rate);
  }
  return song;
}

}  // namespace

Document::Document(QObject* parent) : QObject(parent), song_(std::make_shared<const Song>()), saved_(song_), desk_(new ClipDesk(*this)) {
  auto device = RtAudioDevice::open({});
  const bool real = device && player_.useDevice(std::move(*device));
  if (!real) (void)player_.useDevice(std::make_unique<SimulatedDevice>());
  auto* timer = new QTimer(this);
  connect(timer, &QTimer::timeout, this, [this] { player_.tick(); });
  timer->start(33);
  const auto state = QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation).toStdString();
  recoveryFolder_ = fs::path(state) / "recovery" / ("unsaved-" + std::to_string(::getpid()) + kProjectEnding);
}

Document::~Document() {
  jobs_.cancelAll();
  if (player_.device()) player_.device()->stop();
}

// The song ------------------------------------------------------------------------------------------------------------

bool Document::edit(const QString& name, const Result<Song>& next, const QString& gesture) {
  if (!next) {
    emit told(QString::fromStdString(next.error().message));
    return false;
  }
  if (*next == *song_) return true;
  const bool goesOn = !gesture.isEmpty() && gesture == gesture_ && !past_.empty();
  if (!goesOn) past_.push_back({name, song_});
  gesture_ = gesture;
  future_.clear();
  replaceSong(std::make_shared<const Song>(*next));
  return true;
}

bool Document::preview(const QString& name, const Result<Song>& next, const QString& gesture) {
  if (!next) {
    emit told(QString::fromStdString(next.error().message));
    return false;
  }
  if (*next == *song_) return true;
  if (!previewing_ || gesture != gesture_) past_.push_back({name, song_});
  past_.back().name = name;
  gesture_ = gesture;
  previewing_ = true;
  future_.clear();
  const auto* was = song_->find(activeSet());
  const auto* is = next->find(activeSet());
  if (!was || !is || !was->clips.sameObject(is->clips)) planned_.reset();
  song_ = std::make_shared<const Song>(*next);
  emit songPreviewed();
  return true;
}

void Document::endGesture() {
  gesture_.clear();
  if (!previewing_) return;
  previewing_ = false;
  if (*past_.back().song == *song_) {  // dragged there and back
    song_ = past_.back().song;
    past_.pop_back();
  }
  afterChange();
  autosave();
}

void Document::undo() {
  endGesture();
  if (past_.empty()) return;
  future_.push_back({past_.back().name, song_});
  auto song = past_.back().song;
  emit told(tr("Undone: %1").arg(past_.back().name));
  past_.pop_back();
  gesture_.clear();
  replaceSong(song);
}

void Document::redo() {
  if (future_.empty()) return;
  past_.push_back({future_.back().name, song_});
  auto song = future_.back().song;
  emit told(tr("Done again: %1").arg(future_.back().name));
  future_.pop_back();
  gesture_.clear();
  replaceSong(song);
}

void Document::cancelGesture() {
  if (gesture_.isEmpty() || past_.empty()) return;
  gesture_.clear();
  previewing_ = false;
  auto song = past_.back().song;
  past_.pop_back();
  replaceSong(song);
}

QString Document::undoName() const { return past_.empty() ? QString() : past_.back().name; }
QString Document::redoName() const { return future_.empty() ? QString() : future_.back().name; }

void Document::replaceSong(std::shared_ptr<const Song> song) {
  song_ = std::move(song);
  afterChange();
  autosave();
}

void Document::afterChange() {
  planned_.reset();
  checks_.reset();
  if (!song_->find(activeSet_)) activeSet_ = {};
  if (currentSeam_ && !currentSeamClip()) currentSeam_.reset();
  if (!song_->find(activeTrack_)) activeTrack_ = {};
  for (const auto& m : song_->media)
    if (!pool_.contains(m.id)) return seamMeasures_.clear(), loadMedia(), emit songChanged();
  compile();
  measure();
  emit songChanged();
}

void Document::compile() {
  const auto song = song_;
  const auto pool = pool_;
  const auto before = playPlan_;
  const auto stretched = stretched_;
  if (needsStretching(*song, stretched))
    jobs_.start(
        tr("stretching"),
        [this, song, pool, stretched](Progress& progress) -> Jobs::Finish {
          auto made = renderStretched(*song, pool, stretched, progress);
          if (!made) return {};
          return [this, sounds = std::move(*made)] {
            stretched_ = sounds;
            if (!needsStretching(*song_, stretched_)) compile();
          };
        },
        "stretch");
  jobs_.start(
      {},
      [this, song, pool, before, stretched](Progress& progress) -> Jobs::Finish {
        auto plan = std::make_shared<PlayPlan>();
        // Until stretched sound is there, the same plan is heard in slices.
        const auto heard = needsStretching(*song, stretched) ? inSlices(*song, pool) : *song;
        plan->edited = compilePlan(heard, pool, before ? &before->edited : nullptr, stretched);
        if (progress.cancelled()) return {};
        plan->original = compilePlan(withoutPlans(*song), pool, before ? &before->original : nullptr);
        const auto end = std::max(plan->edited.end, plan->original.end) + Frames{song->rate * 600ll};
        plan->clicks = clicksOf(song->tempo, {song->tempo.origin() - Frames{song->rate * 60ll}, end});
        return [this, plan] {
          playPlan_ = plan;
          player_.setPlan(plan);
        };
      },
      "compile");
}

// Takes and hits
// --------------------------------------------------------------------------------------------------------

HitList Document::activeHitsOf(TakeId take) const {
  const auto* set = song_->find(activeSet());
  return set ? activeHits(*song_->hitsOf(take, set->id), set->hits, song_->rate) : HitList{};
}

bool Document::editHits(const QString& name, const Result<Song>& next, const QString& gesture) {
  return edit(name, withPlanApplied(next), gesture);
}

Result<Song> Document::withPlanApplied(const Result<Song>& song) const {
  if (!song) return song;
  const auto* set = song->find(activeSet());
  if (!set || !set->plan->settings.on) return song;
  return applyTimingPlan(*song, set->id, pool_);
}

void Document::setHitSettingsLive(const HitSettings& settings, const QString& gesture) {
  editHits(tr("Change what counts as a hit"), setHitSettings(*song_, activeSet(), settings), gesture);
}

// The timing plan
// -------------------------------------------------------------------------------------------------------

const TimingSettings& Document::timing() const {
  static const TimingSettings none;
  const auto* set = song_->find(activeSet());
  return set ? set->plan->settings : none;
}

void Document::setTiming(const QString& name, const TimingSettings& settings, const QString& gesture) {
  const auto* set = song_->find(activeSet());
  if (!set) return;
  TimingPlan plan = *set->plan;
  plan.settings = settings;
  auto next = setTimingPlan(*song_, set->id, plan);
  if (next) next = applyTimingPlan(*next, set->id, pool_);
  edit(name, next, gesture);
}

void Document::overrideHit(const QString& name, HitId hit, const HitOverride& value, const QString& gesture) {
  const auto* set = song_->find(activeSet());
  if (!set) return;
  TimingPlan plan = *set->plan;
  if (value == HitOverride{})
    plan.overrides.erase(hit);
  else
    plan.overrides[hit] = value;
  editHits(name, setTimingPlan(*song_, set->id, plan), gesture);
}

const TimingResult& Document::planned() const {
  if (!planned_) planned_ = planTiming(*song_, activeSet());
  return *planned_;
}

// Playing
// ---------------------------------------------------------------------------------------------------------------

void Document::playStop() {
  if (player_.engine().playing()) {
    player_.engine().stop();
  } else {
    if (looping_ && !range_.empty())
      player_.engine().seek(range_.start);
    else
      player_.engine().seek(cursor_);
    player_.engine().play();
  }
  emit transportChanged();
}

void Document::playFrom(Frames at) {
  setCursor(at);
  player_.engine().seek(at);
  player_.engine().play();
  emit transportChanged();
}

void Document::setCursor(Frames at) {
  cursor_ = at;
  if (!player_.engine().playing()) player_.engine().seek(at);
  emit transportChanged();
}

void Document::setLooping(bool on) {
  looping_ = on;
  player_.engine().setLoop(on ? range_ : FrameRange{});
  emit transportChanged();
}

void Document::setClick(bool on) {
  click_ = on;
  player_.engine().setClick(on, clickLevelDb_);
  emit transportChanged();
}

void Document::setClickLevelDb(double db) {
  clickLevelDb_ = db;
  player_.engine().setClick(click_, db);
  emit transportChanged();
}

void Document::setOriginal(bool on) {
  if (on == original_) return;
  original_ = on;
  player_.engine().setOriginal(on);
  emit transportChanged();
}

QString Document::deviceName() const {
  auto* device = const_cast<Document*>(this)->player_.device();
  return device ? QString::fromStdString(device->name()) : tr("no sound device");
}

void Document::exportTo(const ExportSettings& settings, const fs::path& target) {
  const auto song = song_;
  const auto pool = pool_;
  if (!missingMedia().empty()) {
    emit told(tr("Some recordings are missing, so the export would have holes. Relink them in step 1 first."));
    return;
  }
  jobs_.start(tr("exporting"),
              [this, song, pool, stretched = stretched_, settings, target](Progress& progress) -> Jobs::Finish {
                auto sounds = renderStretched(*song, pool, stretched, progress);
                if (!sounds) return {};
                auto report = exportSong(*song, compilePlan(*song, pool, nullptr, *sounds), settings, target, progress);
                if (!report) return [this, text = QString::fromStdString(report.error().message)] { emit told(text); };
                QString text =
                    tr("Exported %1 to %2.")
                        .arg(counted(report->files.size(), "file", "files"), QString::fromStdString(target.string()));
                if (report->clippedSamples > 0)
                  text += tr(" %1 samples were beyond full scale and clipped.").arg(report->clippedSamples);
                return [this, text] { emit told(text); };
              });
}

}  // namespace ochron
