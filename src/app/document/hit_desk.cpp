#include "document/hit_desk.h"

#include <algorithm>

#include "analysis/levels/localise.h"
#include "document/document.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "edits/hit_edits.h"
#include "files/file_names.h"
#include "reports/hit_table.h"
#include "store/midi_file.h"
#include "store/project.h"
#include "takes/alike_hits.h"
#include "takes/detect_hits.h"
#include "takes/material.h"

namespace ochron {

namespace {
QString slotOf(TakeId take, SetId set) { return QStringLiteral("hits %1 %2").arg(take.value).arg(set.value); }
}  // namespace

HitDesk::HitDesk(Document& document) : QObject(&document), doc_(document) {}

void HitDesk::find(SetId set) {
  const auto* s = doc_.song().find(set);
  if (!s) return;
  const auto reading = [&](const TakeMic& m) {
    return !doc_.pool().contains(m.media) && !doc_.recordings().troubles().contains(m.media);
  };
  for (const auto& take : doc_.song().takes) {
    if (std::none_of(s->clips->begin(), s->clips->end(), [&](const Clip& c) { return c.take == take.id; })) continue;
    if (std::any_of(take.mics.begin(), take.mics.end(), reading))
      return doc_.tell(tr("The recordings are still being read. Find the hits when they are in."));
    doc_.jobs().start(
        tr("finding hits in \"%1\"").arg(QString::fromStdString(take.name)),
        [this, song = doc_.version(), pool = doc_.pool(), takeId = take.id, set](Progress& progress) -> Jobs::Finish {
          auto hits = detectHits(*song, takeId, set, pool, progress);
          if (!hits) {
            if (hits.error().kind == ErrorKind::cancelled) return {};
            return [this, text = QString::fromStdString(hits.error().message)] { doc_.warn(text); };
          }
          const auto struck = struckShare(*song, set, takeId, *hits, pool);
          return [this, found = std::move(*hits), struck, takeId, set] {
            if (!doc_.song().find(takeId) || !doc_.song().find(set)) return;  // the take is gone meanwhile
            if (!doc_.edit(tr("Find hits"), setDetectedHits(doc_.song(), takeId, set, found, struck))) return;
            const auto& now = doc_.song();
            const auto count = activeHits(*now.hitsOf(takeId, set), now.find(set)->hits, now.rate).size();
            doc_.tell(count == 0 ? tr("No hits found. Turn up the sensitivity, or choose other guides.")
                                 : tr("%1 found.").arg(counted(count, "hit", "hits")));
          };
        },
        slotOf(take.id, set), Jobs::Scope::edits);
  }
}

bool HitDesk::finding() const {
  const auto& takes = doc_.song().takes;
  return std::any_of(takes.begin(), takes.end(),
                     [&](const Take& take) { return doc_.jobs().runs(slotOf(take.id, doc_.selection().set())); });
}

void HitDesk::nameAlike() {
  const auto* current = doc_.selection().plannedHit();
  if (!current) return;
  doc_.jobs().start(
      tr("listening for alike hits"),
      [this, song = doc_.version(), pool = doc_.pool(), take = current->take, set = doc_.selection().set(),
       corrected = current->hit](Progress&) -> Jobs::Finish {
        auto alike = hitsAlike(*song, take, set, corrected.id, pool);
        return [this, alike = std::move(alike), take, set, corrected] {
          if (!alike) return doc_.warn(QString::fromStdString(alike.error().message));
          const auto& ids = *alike;
          if (ids.empty()) return doc_.tell(tr("No other hit sounds like this one."));
          const auto name = drumName(corrected.drum);
          const auto next = setHitClass(doc_.song(), take, set, ids, corrected.drum);
          if (doc_.edit(tr("Name alike hits"), next))
            doc_.tell(tr("%1 more named %2.").arg(counted(ids.size(), "hit", "hits"), name));
        };
      },
      QStringLiteral("alike"), Jobs::Scope::edits);
}

void HitDesk::setSettings(const HitSettings& settings, const QString& gesture) {
  doc_.edit(tr("Change what counts as a hit"), setHitSettings(doc_.song(), doc_.selection().set(), settings), gesture);
}

void HitDesk::showThreshold(bool on) {
  if (on == shownThreshold_) return;
  shownThreshold_ = on;
  emit changed();
}

void HitDesk::remove() {
  const auto ref = doc_.selection().hit();
  if (!ref) return;
  step(1);
  if (doc_.selection().hit() == ref) doc_.selection().chooseHit({});
  doc_.edit(tr("Remove hit"), removeHits(doc_.song(), ref->take, doc_.selection().set(), {ref->hit}));
}

void HitDesk::step(int by) {
  const auto& hits = doc_.timingDesk().planned().hits;
  if (hits.empty()) return;
  auto& transport = doc_.transport();
  std::ptrdiff_t index = -1;
  if (const auto* now = doc_.selection().plannedHit()) {
    index = now - hits.data() + by;
  } else {
    const auto next = std::lower_bound(hits.begin(), hits.end(), transport.cursor(),
                                       [](const PlannedHit& p, Frames f) { return p.now < f; });
    index = next - hits.begin() + (by < 0 ? -1 : 0);
  }
  index = std::clamp<std::ptrdiff_t>(index, 0, std::ssize(hits) - 1);
  const auto& p = hits[static_cast<std::size_t>(index)];
  doc_.selection().chooseHit(HitRef{p.take, p.hit.id});
  transport.setCursor(transport.original() ? p.home : p.now);
  if (transport.hearing().whileStepping) transport.hear();
}

void HitDesk::setOnsetFrom(TrackId track) {
  const auto& song = doc_.song();
  const auto* h = doc_.selection().plannedHit();
  const auto* named = song.find(track);
  const auto* mic = h && named ? song.micOf(h->take, track) : nullptr;
  const auto media = mic ? doc_.pool().find(mic->media) : doc_.pool().end();
  if (!mic || media == doc_.pool().end()) return doc_.tell(tr("The recording of this mic is not at hand."));
  const auto near = (h->hit.at - mic->offset).value;
  const auto reach = song.rate / 50;
  const auto whole = media->second->channel(0);
  const auto first = std::clamp<std::int64_t>(near - 2 * reach, 0, std::ssize(whole));
  const auto last = std::clamp<std::int64_t>(near + 2 * reach, first, std::ssize(whole));
  std::vector<float> room;
  const auto around = whole.subspan(static_cast<std::size_t>(first), static_cast<std::size_t>(last - first)).in(room);
  const auto at =
      first + localiseAttack(around, song.rate, near - first, std::max<std::int64_t>(0, near - reach - first));
  doc_.edit(tr("Set onset from %1").arg(QString::fromStdString(named->name)),
            moveHit(song, h->take, doc_.selection().set(), h->hit.id, Frames{at} + mic->offset));
}

void HitDesk::write(const std::filesystem::path& file) {
  const auto& song = doc_.song();
  const auto* set = song.find(doc_.selection().set());
  const auto& planned = doc_.timingDesk().planned();
  if (!set || planned.hits.empty()) return doc_.tell(tr("There are no hits to write. Find hits first."));
  auto outputs = outputsOf(song);
  auto done = writeHits(song, planned, set->name, file, outputs);
  if (done) done = outputs.commit();
  if (!done) return doc_.warn(QString::fromStdString(done.error().message));
  doc_.tell(
      tr("%1 written to %2.").arg(counted(planned.hits.size(), "hit", "hits"), QString::fromStdString(file.string())));
}

}  // namespace ochron
