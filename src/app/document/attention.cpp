#include <algorithm>
#include <cmath>

#include "analysis/localise.h"
#include "checks/fix.h"
#include "document/document.h"
#include "document/transport.h"
#include "document/wording.h"
#include "edits/hit_edits.h"
#include "edits/locks.h"
#include "edits/plan_edits.h"
#include "files/file_names.h"
#include "reports/hit_table.h"
#include "seams/seam_edits.h"
#include "store/midi_file.h"
#include "store/project.h"

namespace ochron {
SetId Document::activeSet() const {
  if (song_->find(activeSet_)) return activeSet_;
  // The set with most mics is the kit.
  const auto most = std::max_element(song_->sets.begin(), song_->sets.end(),
                                     [](auto& a, auto& b) { return a.tracks.size() < b.tracks.size(); });
  return most == song_->sets.end() ? SetId{} : most->id;
}

void Document::setActiveSet(SetId set) {
  if (set == activeSet()) return;
  activeSet_ = set;
  currentHit_.reset();
  currentSeam_.reset();
  emit selectionChanged();
}

void Document::setActiveTrack(TrackId track) {
  if (track == activeTrack_) return;
  activeTrack_ = track;
  if (const auto* set = song_->setOf(track)) setActiveSet(set->id);
  emit selectionChanged();
}

void Document::setCurrentHit(std::optional<HitRef> hit) {
  if (hit == currentHit_) return;
  currentHit_ = hit;
  currentSeam_.reset();
  if (hit)
    for (const auto& c : *song_->find(activeSet())->clips)
      if (c.piece && c.piece->hit == hit->hit) currentSeam_ = c.id;
  emit selectionChanged();
}

const PlannedHit* Document::currentPlanned() const {
  if (!currentHit_) return nullptr;
  for (const auto& p : planned().hits)
    if (p.hit.id == currentHit_->hit && p.take == currentHit_->take) return &p;
  return nullptr;
}

void Document::stepHit(int by) {
  const auto& hits = planned().hits;
  if (hits.empty()) return;
  std::ptrdiff_t index = -1;
  if (const auto* now = currentPlanned()) {
    index = now - hits.data() + by;
  } else {
    const auto next = std::lower_bound(hits.begin(), hits.end(), transport_->cursor(),
                                       [](const PlannedHit& p, Frames f) { return p.now < f; });
    index = next - hits.begin() + (by < 0 ? -1 : 0);
  }
  index = std::clamp<std::ptrdiff_t>(index, 0, std::ssize(hits) - 1);
  const auto& p = hits[static_cast<std::size_t>(index)];
  setCurrentHit(HitRef{p.take, p.hit.id});
  transport_->setCursor(transport_->original() ? p.home : p.now);
  if (transport_->hearing().whileStepping) transport_->hear();
}

void Document::setRange(FrameRange range) {
  range_ = range;
  transport_->rangeChanged();
  emit selectionChanged();
}

void Document::setStep(Step step) {
  if (step == step_) return;
  step_ = step;
  emit stepChanged();
}

void Document::setOnsetFrom(TrackId track) {
  const auto* h = currentPlanned();
  const auto* mic = h ? song_->micOf(h->take, track) : nullptr;
  const auto media = mic ? pool().find(mic->media) : pool().end();
  if (media == pool().end()) return tell(tr("The recording of this mic is not at hand."));
  const auto near = (h->hit.at - mic->offset).value;
  const auto reach = song_->rate / 50;
  const auto at = localiseAttack(media->second->channel(0), song_->rate, near, std::max<std::int64_t>(0, near - reach));
  editHits(tr("Set onset from %1").arg(QString::fromStdString(song_->find(track)->name)),
           moveHit(*song_, h->take, activeSet(), h->hit.id, Frames{at} + mic->offset));
}

void Document::writeHits(const std::filesystem::path& file) {
  const auto ending = endingOf(file);
  const auto* set = song_->find(activeSet());
  if (!set || planned().hits.empty()) return tell(tr("There are no hits to write. Find hits first."));
  auto outputs = outputsOf(*song_);
  auto done = ending == ".csv"    ? outputs.add(file, hitsToCsv(*song_, planned()))
              : ending == ".json" ? outputs.add(file, hitsToJson(*song_, planned()))
                                  : writeHitsMidi(*song_, planned(), set->name, file, outputs);
  if (done) done = outputs.commit();
  if (!done) return warn(QString::fromStdString(done.error().message));
  tell(tr("%1 written to %2.")
           .arg(counted(planned().hits.size(), "hit", "hits"), QString::fromStdString(file.string())));
}

// Seams and checks ----------------------------------------------------------------------------------------------------

const Clip* Document::currentSeamClip() const {
  const auto* set = song_->find(activeSet());
  if (!set || !currentSeam_) return nullptr;
  const auto& clips = *set->clips;
  for (std::size_t i = 1; i < clips.size(); ++i)
    if (clips[i].id == *currentSeam_ && isSeam(clips, i)) return &clips[i];
  return nullptr;
}

void Document::setCurrentSeam(std::optional<ClipId> clip) {
  if (clip == currentSeam_) return;
  currentSeam_ = clip;
  currentHit_.reset();
  if (const auto* c = currentSeamClip(); c && c->piece && c->piece->hit) currentHit_ = HitRef{c->take, c->piece->hit};
  emit selectionChanged();
}

void Document::stepSeam(int by) {
  const auto* set = song_->find(activeSet());
  if (!set) return;
  const auto& clips = *set->clips;
  std::vector<std::size_t> seams;
  for (std::size_t i = 1; i < clips.size(); ++i)
    if (isSeam(clips, i)) seams.push_back(i);
  if (seams.empty()) return tell(tr("There is no seam yet. Turn the timing plan on, or split a clip."));
  const auto* now = currentSeamClip();
  const auto from = now ? now->start : transport_->cursor();
  std::ptrdiff_t at =
      std::lower_bound(seams.begin(), seams.end(), from, [&](std::size_t i, Frames f) { return clips[i].start < f; }) -
      seams.begin();
  at = now ? at + by : by < 0 ? at - 1 : at;
  const auto& clip = clips[seams[static_cast<std::size_t>(std::clamp<std::ptrdiff_t>(at, 0, std::ssize(seams) - 1))]];
  setCurrentSeam(clip.id);
  transport_->setCursor(clip.start);
}

std::vector<ClipId> Document::chosenSeams() const {
  const auto* set = song_->find(activeSet());
  std::vector<ClipId> out;
  if (!set) return out;
  const auto& clips = *set->clips;
  if (!range_.empty())
    for (std::size_t i = 1; i < clips.size(); ++i)
      if (isSeam(clips, i) && range_.contains(clips[i].start)) out.push_back(clips[i].id);
  if (out.empty() && currentSeamClip()) out.push_back(*currentSeam_);
  return out;
}

void Document::changeSeams(const QString& name, const SeamOverride& change, const QString& gesture) {
  const auto seams = chosenSeams();
  if (seams.empty()) return tell(tr("Click a seam first, or choose a range that holds some."));
  changeSeamsOf(seams, name, change, gesture);
}

void Document::changeSeamsOf(const std::vector<ClipId>& seams, const QString& name, const SeamOverride& change,
                             const QString& gesture) {
  edit(name, ochron::changeSeams(*song_, activeSet(), seams, change, pool()), gesture);
}

void Document::showThreshold(bool on) {
  if (on == shownThreshold_) return;
  shownThreshold_ = on;
  emit selectionChanged();
}

void Document::releaseSeams() {
  const auto seams = chosenSeams();
  if (seams.empty()) return tell(tr("Click a seam first, or choose a range that holds some."));
  edit(tr("Give %1 back to the plan").arg(counted(seams.size(), "seam", "seams")),
       ochron::releaseSeams(*song_, activeSet(), seams, pool()));
}

const std::vector<Check>& Document::checks() const {
  if (!checks_) {
    checks_ = checksOf(*song_, timings_.all(*song_), seamMeasures_);
  }
  return *checks_;
}

void Document::acceptCheck(const Check& check) {
  edit(tr("Accept \"%1\"").arg(QString::fromStdString(check.title)), ochron::acceptCheck(*song_, check));
}

/// Seams are measured in the background; what is shown until then is the measure of seams that did not change.
void Document::measure() {
  const auto song = song_;
  const auto pool = this->pool();
  jobs_.start(
      {},
      [this, song, pool](Progress& progress) -> Jobs::Finish {
        std::map<ClipId, SeamMeasure> measured;
        for (const auto& set : song->sets) {
          auto one = measureSeams(*song, set.id, pool, progress);
          if (!one) return {};
          measured.merge(*one);
        }
        return [this, song, measured = std::move(measured)] {
          if (song != song_) return;
          seamMeasures_ = measured;
          checks_.reset();
          emit seamsMeasured();
        };
      },
      "measure");
}

// Locks and what the plan leaves alone --------------------------------------------------------------------------------

void Document::leaveRangeAlone(bool alone) {
  const auto name = alone ? tr("Take the range out of the plan") : tr("Put the range back into the plan");
  editHits(name, leaveAlone(*song_, activeSet(), range_, alone));
}

void Document::lockRange(bool lock) {
  const auto next = lock ? ochron::lockRange(*song_, activeSet(), range_) : unlockRange(*song_, activeSet(), range_);
  editHits(lock ? tr("Lock the range") : tr("Unlock the range"), next);
}

void Document::lockSet(bool lock) {
  editHits(lock ? tr("Lock the mic set") : tr("Unlock the mic set"), ochron::lockSet(*song_, activeSet(), lock));
}

}  // namespace ochron
