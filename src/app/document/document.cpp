#include "document/document.h"

#include <algorithm>

#include "document/clip_desk.h"
#include "document/key_desk.h"
#include "document/pin_desk.h"
#include "document/pitch_desk.h"
#include "document/round_desk.h"
#include "document/sounding.h"
#include "document/tempo_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "edits/hit_edits.h"
#include "edits/plan_edits.h"
#include "seams/apply_plan.h"

namespace ochron {

Document::Document(QObject* parent)
    : QObject(parent),
      song_(std::make_shared<const Song>()),
      saved_(song_),
      transport_(new Transport(*this)),
      sounding_(new Sounding(*this)),
      desk_(new ClipDesk(*this)),
      tempoDesk_(new TempoDesk(*this)),
      pitchDesk_(new PitchDesk(*this)),
      pinDesk_(new PinDesk(*this)),
      keyDesk_(new KeyDesk(*this)),
      roundDesk_(new RoundDesk(*this)) {
  connect(transport_, &Transport::changed, this, &Document::transportChanged);
  connect(sounding_, &Sounding::changed, this, &Document::transportChanged);
  connect(&recordings_, &Recordings::changed, this, &Document::recordingsChanged);
  connect(&recordings_, &Recordings::found, this, [this](const QStringList& sentences) {
    for (const auto& s : sentences) warn(s, tr("Look\u2026"), "song.recordings");
  });
}

Document::~Document() { jobs_.cancelAll(); }

void Document::warn(const QString& sentence, const QString& button, const QString& command) {
  emit told(sentence);
  emit warned(sentence, button, command);
}

void Document::offer(const QString& sentence, const QString& button, const QString& command) {
  emit told(sentence);
  emit offered(sentence, button, command);
}

// The song ------------------------------------------------------------------------------------------------------------

bool Document::edit(const QString& name, const Result<Song>& next, const QString& gesture) {
  if (!next) {
    emit told(QString::fromStdString(next.error().message));
    return false;
  }
  if (previewing_ && gesture.isEmpty()) {
    emit told(tr("Let go of what you drag first."));
    return false;
  }
  if (*next == *song_) return true;
  auto song = std::make_shared<const Song>(*next);
  if (history_.inGesture() && !gesture.isEmpty()) {
    preview(name, std::move(song), gesture);
    return true;
  }
  history_.record(name.toStdString(), song_, song, gesture.toStdString());
  replaceSong(std::move(song));
  return true;
}

void Document::preview(const QString& name, std::shared_ptr<const Song> song, const QString& gesture) {
  history_.record(name.toStdString(), song_, song, gesture.toStdString());
  previewing_ = true;
  song_ = std::move(song);
  pitchDesk_->songChanged();
  if (transport_->player().engine().playing()) sounding_->compileShown();
  emit songPreviewed();
}

Grip Document::takeHold() {
  if (history_.inGesture()) endGesture();
  jobs_.holdResults(true);
  return {*this, history_.beginGesture()};
}

void Document::letGo(std::uint64_t gesture) {
  if (history_.isOpen(gesture)) endGesture();
}

Grip::Grip(Document& document, std::uint64_t gesture) : document_(&document), gesture_(gesture) {}

Grip& Grip::operator=(Grip&& o) noexcept {
  if (this == &o) return *this;
  release();
  document_ = std::exchange(o.document_, nullptr);
  gesture_ = o.gesture_;
  return *this;
}

void Grip::release() {
  if (auto* document = std::exchange(document_, nullptr).data()) document->letGo(gesture_);
}

void Document::endGesture() {
  history_.endGesture();
  if (previewing_) {
    previewing_ = false;
    if (auto before = history_.dropIdleStep(song_)) song_ = std::move(before);  // dragged there and back
    afterChange();
    autosave();
  }
  jobs_.holdResults(false);
}

void Document::cancelGesture() {
  previewing_ = false;
  if (auto before = history_.takeBackGesture()) replaceSong(std::move(before));
  jobs_.holdResults(false);
}

void Document::undo() {
  const bool dragged = previewing_;
  if (dragged)
    cancelGesture();  // what is under way goes first
  else
    endGesture();
  emit gestureOver();
  if (dragged) return;
  const auto name = undoName();
  auto song = history_.undo(song_);
  if (!song) return;
  emit told(tr("Undone: %1").arg(name));
  replaceSong(std::move(song));
}

void Document::redo() {
  endGesture();
  emit gestureOver();
  const auto name = redoName();
  auto song = history_.redo(song_);
  if (!song) return;
  emit told(tr("Done again: %1").arg(name));
  replaceSong(std::move(song));
}

void Document::replaceSong(std::shared_ptr<const Song> song) {
  song_ = std::move(song);
  afterChange();
  autosave();
}

void Document::recordingsChanged() {
  sounding_->compile();
  measure();
  emit mediaChanged();
}

void Document::afterChange() {
  checks_.reset();
  pitchDesk_->songChanged();
  if (!song_->find(activeSet_)) activeSet_ = {};
  if (currentSeam_ && !currentSeamClip()) currentSeam_.reset();
  if (!song_->find(activeTrack_)) activeTrack_ = {};
  recordings_.follow(song_, cacheFolder());
  sounding_->keepIn(cacheFolder());
  if (recordings_.complete()) {
    sounding_->compile();
    measure();
  } else {
    seamMeasures_.clear();
  }
  emit songChanged();
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
  return applyTimingPlan(*song, set->id, pool());
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
  if (next) next = applyTimingPlan(*next, set->id, pool());
  edit(name, next, gesture);
}

void Document::setTempo(const QString& name, const Result<TempoMap>& map, const QString& gesture) {
  edit(name, map ? carryToTempo(*song_, *map, pool()) : tl::unexpected(map.error()), gesture);
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

const TimingResult& Document::plannedOf(SetId set) const { return timings_.of(*song_, set); }

}  // namespace ochron
