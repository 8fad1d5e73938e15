#include <algorithm>

#include "document/document.h"
#include "document/wording.h"
#include "seams/apply_plan.h"
#include "takes/detect_hits.h"
#include "takes/mic_names.h"

namespace ochron {
namespace fs = std::filesystem;

namespace {

struct Incoming {
  IncomingFile file;
  std::shared_ptr<const DecodedMedia> media;
  bool inSet = false;
};

}  // namespace

void Document::importFiles(const std::vector<ImportFile>& files, const QString& takeName) {
  const auto cache = cacheFolder();
  const auto rate = song_->rate;
  jobs_.start(tr("importing %1").arg(counted(files.size(), "file", "files")),
              [this, files, takeName, cache, rate](Progress& progress) -> Jobs::Finish {
                std::vector<Incoming> good;
                QStringList bad;
                double done = 0;
                for (const auto& f : files) {
                  if (progress.cancelled()) return {};
                  Progress one;
                  auto reader = AudioFileReader::open(f.path);
                  auto print = fingerprint(f.path);
                  Result<std::shared_ptr<const DecodedMedia>> media =
                      reader ? decodeMedia(f.path, cache, rate, one) : tl::unexpected(reader.error());
                  if (!media) {
                    bad << QString::fromStdString(media.error().message);
                  } else {
                    const auto& i = reader->info();
                    good.push_back({{f.name.toStdString(), fs::absolute(f.path).lexically_normal().string(), *print,
                                     i.channels, i.rate, (*media)->length(), i.timeReference, f.role},
                                    *media,
                                    f.inSet});
                  }
                  progress.report(++done / static_cast<double>(files.size()));
                }
                return [this, good, bad, takeName] {
                  for (const auto& sentence : bad) emit told(sentence);
                  if (good.empty()) return;
                  ImportSettings settings;
                  settings.takeName = takeName.toStdString();
                  settings.at = Frames{0};
                  std::vector<IncomingFile> incoming;
                  std::vector<int> kit;
                  for (std::size_t i = 0; i < good.size(); ++i) {
                    incoming.push_back(good[i].file);
                    if (good[i].inSet) kit.push_back(static_cast<int>(i));
                  }
                  if (kit.size() >= 2) settings.sets = {kit};
                  auto next = importTake(*song_, incoming, settings);
                  SetId kitSet;
                  if (next) {
                    const auto& take = next->takes.back();
                    for (std::size_t i = 0; i < good.size(); ++i) pool_[take.mics[i].media] = good[i].media;
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
                  if (!edit(tr("Import %1").arg(takeName), next)) return;
                  if (kitSet) {
                    setActiveSet(kitSet);
                    findHits(kitSet);
                  }
                  emit mediaChanged();
                };
              });
}

void Document::findHits(SetId set) {
  const auto* s = song_->find(set);
  if (!s) return;
  for (const auto& take : song_->takes) {
    if (std::none_of(s->clips->begin(), s->clips->end(), [&](const Clip& c) { return c.take == take.id; })) continue;
    const auto song = song_;
    const auto pool = pool_;
    const auto takeId = take.id;
    jobs_.start(tr("finding hits in \"%1\"").arg(QString::fromStdString(take.name)),
                [this, song, pool, takeId, set](Progress& progress) -> Jobs::Finish {
                  auto hits = detectHits(*song, takeId, set, pool, progress);
                  if (!hits) {
                    if (hits.error().kind == ErrorKind::cancelled) return {};
                    return [this, text = QString::fromStdString(hits.error().message)] { emit told(text); };
                  }
                  return [this, found = std::move(*hits), takeId, set] {
                    if (!song_->find(takeId) || !song_->find(set)) return;  // the take is gone meanwhile
                    if (edit(tr("Find hits"), withPlanApplied(setDetectedHits(*song_, takeId, set, found)))) {
                      const auto count =
                          activeHits(*song_->hitsOf(takeId, set), song_->find(set)->hits, song_->rate).size();
                      emit told(count == 0 ? tr("No hits found. Turn up the sensitivity, or choose other guides.")
                                           : tr("%1 found.").arg(counted(count, "hit", "hits")));
                    }
                  };
                });
  }
}

}  // namespace ochron
