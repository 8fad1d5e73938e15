#include <algorithm>

#include "base/all_cores.h"
#include "document/document.h"
#include "document/tempo_desk.h"
#include "document/wording.h"
#include "edits/hit_edits.h"
#include "edits/take_edits.h"
#include "edits/track_edits.h"
#include "seams/apply_plan.h"
#include "takes/alike_hits.h"
#include "takes/detect_hits.h"
#include "takes/material.h"
#include "takes/mic_names.h"

namespace ochron {
namespace fs = std::filesystem;

void Document::importFiles(const std::vector<ImportFile>& files, const QString& takeName) {
  jobs_.start(
      tr("importing %1").arg(counted(files.size(), "file", "files")),
      [this, files, takeName, cache = cacheFolder(), rate = song_->rate](Progress& progress) -> Jobs::Finish {
        std::vector<ImportFile> good;
        std::vector<Recordings::Read> reads;
        QStringList bad;
        std::vector<Result<Recordings::Read>> all(files.size(), cancelledError());
        onAllCores(files.size(), progress, [&](std::size_t i, Progress& part) {
          all[i] = recordings_.read(files[i].path, cache, rate, Damaged::accept, part);
        });
        recordings_.rememberContents();
        if (progress.cancelled()) return {};
        for (std::size_t i = 0; i < files.size(); ++i)
          if (all[i])
            good.push_back(files[i]), reads.push_back(std::move(*all[i]));
          else
            bad << QString::fromStdString(all[i].error().message);
        return [this, good, reads, bad, takeName] {
          for (const auto& sentence : bad) warn(sentence);
          importRead(good, reads, takeName);
        };
      },
      {}, Jobs::Scope::edits);
}

void Document::importRead(const std::vector<ImportFile>& files, const std::vector<Recordings::Read>& reads,
                          const QString& takeName) {
  ImportSettings settings;
  settings.takeName = takeName.toStdString();
  settings.at = Frames{0};
  std::vector<IncomingFile> incoming;
  std::vector<const Recordings::Read*> taken;
  std::vector<int> kit;
  for (std::size_t i = 0; i < files.size(); ++i) {
    const auto& f = files[i];
    const auto& found = reads[i].found;
    if (const auto& damage = reads[i].media->damage(); damage && !asked(f.name, damage->what, tr("Use its good part")))
      continue;
    if (f.inSet) kit.push_back(static_cast<int>(incoming.size()));
    incoming.push_back({f.name.toStdString(), found.path, found.fingerprint, found.channels, found.fileRate,
                        found.length, reads[i].timeReference, f.role,
                        reads[i].bpm ? reads[i].bpm : bpmInName(f.name.toStdString())});
    taken.push_back(&reads[i]);
  }
  if (incoming.empty()) return;
  if (kit.size() >= 2) settings.sets = {kit};
  auto next = importTake(*song_, incoming, settings);
  SetId kitSet;
  if (next) {
    const auto& take = next->takes.back();
    for (std::size_t i = 0; i < taken.size(); ++i) recordings_.put(take.mics[i].media, *taken[i]);
    if (!settings.sets.empty()) {
      const auto* set = next->setOf(take.mics[static_cast<std::size_t>(kit.front())].track);
      std::vector<MicRole> roles;
      for (auto t : set->tracks) roles.push_back(next->find(t)->role);
      std::vector<TrackId> guides;
      for (const int g : guessGuides(roles)) guides.push_back(set->tracks[static_cast<std::size_t>(g)]);
      kitSet = set->id;
      next = setGuides(*next, kitSet, guides);
    }
  }
  const bool first = song_->takes.empty();
  if (!edit(tr("Import %1").arg(takeName), next)) return;
  if (kitSet) {
    setActiveSet(kitSet);
    findHits(kitSet);
  }
  if (first) tempoDesk_->hear(activeSet());
  if (first && step_ == Step::takes) setStep(Step::tempo);
  emit mediaChanged();
}

void Document::findHits(SetId set) {
  const auto* s = song_->find(set);
  if (!s) return;
  const auto reading = [&](const TakeMic& m) {
    return !pool().contains(m.media) && !recordings_.troubles().contains(m.media);
  };
  for (const auto& take : song_->takes) {
    if (std::none_of(s->clips->begin(), s->clips->end(), [&](const Clip& c) { return c.take == take.id; })) continue;
    if (std::any_of(take.mics.begin(), take.mics.end(), reading))
      return tell(tr("The recordings are still being read. Find the hits when they are in."));
    jobs_.start(
        tr("finding hits in \"%1\"").arg(QString::fromStdString(take.name)),
        [this, song = song_, pool = pool(), takeId = take.id, set](Progress& progress) -> Jobs::Finish {
          auto hits = detectHits(*song, takeId, set, pool, progress);
          if (!hits) {
            if (hits.error().kind == ErrorKind::cancelled) return {};
            return [this, text = QString::fromStdString(hits.error().message)] { warn(text); };
          }
          const auto struck = struckShare(*song, set, takeId, *hits, pool);
          return [this, found = std::move(*hits), struck, takeId, set] {
            if (!song_->find(takeId) || !song_->find(set)) return;  // the take is gone meanwhile
            if (!edit(tr("Find hits"), withPlanApplied(setDetectedHits(*song_, takeId, set, found, struck)))) return;
            const auto count = activeHits(*song_->hitsOf(takeId, set), song_->find(set)->hits, song_->rate).size();
            emit told(count == 0 ? tr("No hits found. Turn up the sensitivity, or choose other guides.")
                                 : tr("%1 found.").arg(counted(count, "hit", "hits")));
          };
        },
        QStringLiteral("hits %1 %2").arg(take.id.value).arg(set.value), Jobs::Scope::edits);
  }
}

void Document::nameAlike() {
  const auto* current = currentPlanned();
  if (!current) return;
  const auto all = song_->hitsOf(current->take, activeSet());
  const auto corrected = current->hit;
  jobs_.start(
      tr("listening for alike hits"),
      [this, song = song_, pool = pool(), take = current->take, set = activeSet(),
       corrected](Progress&) -> Jobs::Finish {
        auto alike = hitsAlike(*song, take, set, corrected.id, pool);
        return [this, alike = std::move(alike), take, set, corrected] {
          if (!alike) return warn(QString::fromStdString(alike.error().message));
          const auto& ids = *alike;
          if (ids.empty()) return tell(tr("No other hit sounds like this one."));
          const auto name = QString::fromUtf8(kDrumClassNames[static_cast<std::size_t>(corrected.drum)].data());
          if (editHits(tr("Name alike hits"), setHitClass(*song_, take, set, ids, corrected.drum)))
            tell(tr("%1 more named %2.").arg(counted(ids.size(), "hit", "hits"), name));
        };
      },
      QStringLiteral("alike"), Jobs::Scope::edits);
}

}  // namespace ochron
