#include "document/timing_desk.h"

#include <algorithm>

#include "document/document.h"
#include "document/groove_library.h"
#include "document/seam_desk.h"
#include "document/selection.h"
#include "edits/locks.h"
#include "edits/plan_edits.h"
#include "feel/groove.h"
#include "gate/gate.h"
#include "seams/apply_plan.h"
#include "store/groove_file.h"
#include "store/project.h"

namespace ochron {
namespace fs = std::filesystem;

TimingDesk::TimingDesk(Document& document) : QObject(&document), doc_(document) {}

const TimingSettings& TimingDesk::settings() const {
  static const TimingSettings none;
  const auto* set = doc_.song().find(doc_.selection().set());
  return set ? set->plan->settings : none;
}

void TimingDesk::setSettings(const QString& name, const TimingSettings& settings, const QString& gesture) {
  const auto* set = doc_.song().find(doc_.selection().set());
  if (!set) return;
  TimingPlan plan = *set->plan;
  plan.settings = settings;
  doc_.edit(name, setTimingPlan(doc_.song(), set->id, plan), gesture);
}

void TimingDesk::turn(bool on) {
  auto s = settings();
  if (on && s == TimingSettings{}) s.keepPocket = kKeepPocketRange.high;
  s.on = on;
  setSettings(on ? tr("Turn the timing plan on") : tr("Turn the timing plan off"), s);
}

const TimingResult& TimingDesk::planned() const { return plannedOf(doc_.selection().set()); }
const TimingResult& TimingDesk::plannedOf(SetId set) const { return timings_.of(doc_.song(), set); }
const std::map<SetId, TimingResult>& TimingDesk::plannedOfAll() const { return timings_.all(doc_.song()); }

bool TimingDesk::jointsToHear() const {
  const auto& sets = doc_.song().sets;
  return heard_ != doc_.version() && std::any_of(sets.begin(), sets.end(), [&](const MicSet& set) {
           return hasJointsToHear(doc_.song(), set, doc_.pool());
         });
}

bool TimingDesk::hearJoints() {
  if (!jointsToHear()) return false;
  doc_.jobs().start(
      {},
      [this, song = doc_.version(), pool = doc_.recordings().pool()](Progress&) -> Jobs::Finish {
        return [this, song, next = withJointsHeard(*song, pool)] {
          if (doc_.version() == song) takeHeard(next);
        };
      },
      "joints", Jobs::Scope::edits, Jobs::Kind::follow);
  return true;
}

void TimingDesk::hearJointsNow() {
  if (jointsToHear()) takeHeard(withJointsHeard(doc_.song(), doc_.pool()));
}

void TimingDesk::takeHeard(const Result<Song>& next) {
  heard_ = doc_.version();
  if (!next) return doc_.warn(QString::fromStdString(next.error().message));
  if (*next == doc_.song()) return doc_.seamDesk().measure();
  doc_.learn(*next);
}

void TimingDesk::overrideHit(const QString& name, HitId hit, const HitOverride& value, const QString& gesture) {
  const auto* set = doc_.song().find(doc_.selection().set());
  if (!set) return;
  TimingPlan plan = *set->plan;
  if (value == HitOverride{})
    plan.overrides.erase(hit);
  else
    plan.overrides[hit] = value;
  doc_.edit(name, setTimingPlan(doc_.song(), set->id, plan), gesture);
}

// Locks and what the plan leaves alone --------------------------------------------------------------------------------

void TimingDesk::leaveRangeAlone(bool alone) {
  const auto name = alone ? tr("Take the range out of the plan") : tr("Put the range back into the plan");
  doc_.edit(name, leaveAlone(doc_.song(), doc_.selection().set(), doc_.selection().range(), alone));
}

void TimingDesk::lockRange(bool lock) {
  const auto& chosen = doc_.selection();
  const auto next = lock ? ochron::lockRange(doc_.song(), chosen.set(), chosen.range())
                         : unlockRange(doc_.song(), chosen.set(), chosen.range());
  doc_.edit(lock ? tr("Lock the range") : tr("Unlock the range"), next);
}

void TimingDesk::lockSet(bool lock) {
  doc_.edit(lock ? tr("Lock the mic set") : tr("Unlock the mic set"),
            ochron::lockSet(doc_.song(), doc_.selection().set(), lock));
}

// Grooves -------------------------------------------------------------------------------------------------------------

void TimingDesk::takeGroove(const QString& name) {
  auto groove = ochron::takeGroove(doc_.song(), doc_.selection().set(), name.toStdString());
  if (!groove) return doc_.refuse(groove.error());
  doc_.edit(tr("Take groove \"%1\"").arg(name), keepGroove(doc_.song(), *groove));
}

void TimingDesk::readGroove(const fs::path& file) {
  auto groove = readGrooveFile(file, settings().grid);
  if (!groove) return doc_.warn(QString::fromStdString(groove.error().message));
  const auto name = QString::fromStdString(groove->name);
  if (doc_.edit(tr("Bring in groove \"%1\"").arg(name), keepGroove(doc_.song(), *groove))) useGroove(*groove);
}

void TimingDesk::writeGroove(const fs::path& file) {
  if (!settings().groove) return doc_.tell(tr("Choose a groove first."));
  auto outputs = outputsOf(doc_.song());
  auto done = ochron::writeGroove(*settings().groove, file, outputs);
  if (done) done = outputs.commit();
  if (!done) return doc_.warn(QString::fromStdString(done.error().message));
  doc_.tell(tr("Groove written to %1.").arg(QString::fromStdString(file.string())));
}

void TimingDesk::keepGrooveInLibrary() {
  if (!settings().groove) return doc_.tell(tr("Choose a groove first."));
  const auto done = GrooveLibrary::keep(*settings().groove);
  if (!done) return doc_.warn(QString::fromStdString(done.error().message));
  doc_.tell(tr("\"%1\" is in your library now, for every song.").arg(QString::fromStdString(settings().groove->name)));
}

void TimingDesk::useGroove(const std::optional<Groove>& groove) {
  auto s = settings();
  s.groove = groove;
  if (groove) s.on = true;
  setSettings(groove ? tr("Use groove \"%1\"").arg(QString::fromStdString(groove->name)) : tr("Use no groove"), s);
}

}  // namespace ochron
