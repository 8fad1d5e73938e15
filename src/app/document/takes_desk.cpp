#include "document/takes_desk.h"

#include "base/all_cores.h"
#include "document/document.h"
#include "document/hit_desk.h"
#include "document/selection.h"
#include "document/song_files.h"
#include "document/tempo_desk.h"
#include "document/wording.h"
#include "edits/media_edits.h"
#include "edits/rate_edits.h"
#include "edits/take_edits.h"
#include "edits/track_edits.h"
#include "takes/mic_names.h"

namespace ochron {
namespace fs = std::filesystem;

TakesDesk::TakesDesk(Document& document) : QObject(&document), doc_(document) {}

void TakesDesk::importFiles(const std::vector<ImportFile>& files, const QString& takeName, int wanted) {
  const int rate = doc_.song().media.empty() ? wanted : doc_.song().rate;
  doc_.jobs().start(
      tr("importing %1").arg(counted(files.size(), "file", "files")),
      [this, files, takeName, cache = doc_.files().cacheFolder(), rate](Progress& progress) -> Jobs::Finish {
        std::vector<ImportFile> good;
        std::vector<Recordings::Read> reads;
        QStringList bad;
        std::vector<Result<Recordings::Read>> all(files.size(), cancelledError());
        onAllCores(files.size(), progress, [&](std::size_t i, Progress& part) {
          all[i] = doc_.recordings().read(files[i].path, cache, rate, Damaged::accept, part);
        });
        doc_.recordings().rememberContents();
        if (progress.cancelled()) return {};
        for (std::size_t i = 0; i < files.size(); ++i)
          if (all[i])
            good.push_back(files[i]), reads.push_back(std::move(*all[i]));
          else
            bad << QString::fromStdString(all[i].error().message);
        return [this, good, reads, bad, takeName, rate] {
          for (const auto& sentence : bad) doc_.warn(sentence);
          importRead(good, reads, takeName, rate);
        };
      },
      {}, Jobs::Scope::edits);
}

void TakesDesk::importRead(const std::vector<ImportFile>& files, const std::vector<Recordings::Read>& reads,
                           const QString& takeName, int rate) {
  if (!doc_.song().media.empty() && rate != doc_.song().rate)
    return doc_.warn(tr("The song runs at another rate now than when these were read. Import them again."));
  const auto base = songAtRate(doc_.song(), rate);
  ImportSettings settings;
  settings.takeName = takeName.toStdString();
  settings.at = Frames{0};
  std::vector<IncomingFile> incoming;
  std::vector<const Recordings::Read*> taken;
  std::vector<int> kit;
  for (std::size_t i = 0; i < files.size(); ++i) {
    const auto& f = files[i];
    const auto& found = reads[i].found;
    if (const auto& damage = reads[i].media->damage();
        damage && !doc_.ask(f.name, QString::fromStdString(damage->what), tr("Use its good part")))
      continue;
    if (f.inSet) kit.push_back(static_cast<int>(incoming.size()));
    incoming.push_back({f.name.toStdString(), found.path, found.fingerprint, found.channels, found.fileRate,
                        found.length, reads[i].timeReference, f.role,
                        reads[i].bpm ? reads[i].bpm : bpmInName(f.name.toStdString())});
    taken.push_back(&reads[i]);
  }
  if (incoming.empty()) return;
  if (kit.size() >= 2) settings.sets = {kit};
  auto next = base ? importTake(*base, incoming, settings) : base;
  SetId kitSet;
  if (next) {
    const auto& take = next->takes.back();
    for (std::size_t i = 0; i < taken.size(); ++i) doc_.recordings().put(take.mics[i].media, *taken[i]);
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
  const bool first = doc_.song().takes.empty();
  if (!doc_.edit(tr("Import %1").arg(takeName), next)) return;
  if (kitSet) {
    doc_.selection().chooseSet(kitSet);
    doc_.hitDesk().find(kitSet);
  }
  if (first) doc_.tempoDesk().hear(doc_.selection().set());
  if (first && doc_.step() == Step::takes) doc_.setStep(Step::tempo);
  emit doc_.mediaChanged();
}

void TakesDesk::setRate(int rate) {
  if (rate == doc_.song().rate) return;
  if (doc_.edit(tr("Song at %1").arg(rateText(rate)), songAtRate(doc_.song(), rate)) && !doc_.song().media.empty())
    doc_.tell(tr("The song runs at %1 now. Its recordings are read again.").arg(rateText(rate)));
}

void TakesDesk::turn(TrackId track, bool Track::*flag) {
  const auto* t = doc_.song().find(track);
  if (!t) return;
  Track next = *t;
  next.*flag = !(next.*flag);
  const auto name = flag == &Track::muted ? tr("Mute %1") : tr("Solo %1");
  doc_.edit(name.arg(QString::fromStdString(t->name)), setTrack(doc_.song(), next));
}

void TakesDesk::relink(MediaId id, const fs::path& file) {
  const auto name = QString::fromStdString(file.filename().string());
  doc_.jobs().start(
      tr("reading %1").arg(name),
      [this, id, file, name, cache = doc_.files().cacheFolder(),
       rate = doc_.song().rate](Progress& progress) -> Jobs::Finish {
        auto read = doc_.recordings().read(file, cache, rate, Damaged::accept, progress);
        if (!read) {
          if (read.error().kind == ErrorKind::cancelled) return {};
          return [this, text = QString::fromStdString(read.error().message)] { doc_.warn(text); };
        }
        return [this, id, name, read = std::move(*read)] {
          const auto* known = doc_.song().find(id);
          if (!known) return doc_.tell(tr("This recording is not in the song any more."));
          const Media m = *known;  // a question to the user lets the song become another one
          if (const auto& damage = read.media->damage();
              damage && !doc_.ask(name, QString::fromStdString(damage->what), tr("Use its good part")))
            return;
          const bool same = isContentId(m.fingerprint)
                                ? m.fingerprint == read.found.fingerprint
                                : m.channels == read.found.channels && m.length == read.found.length;
          if (!same && !doc_.ask(name,
                                 tr("This is not the recording that was imported. Used in its place it is as long and "
                                    "as loud as it is; what the song does with it stays."),
                                 tr("Use it")))
            return;
          doc_.recordings().put(id, read);
          const auto title = QString::fromStdString(m.name);
          if (same)
            doc_.edit(tr("Relink %1").arg(title), relinkMedia(doc_.song(), id, read.found.path));
          else
            doc_.edit(tr("Use another recording for %1").arg(title), replaceMedia(doc_.song(), id, read.found));
          doc_.recordings().lookAgain();
          emit doc_.mediaChanged();
        };
      },
      {}, Jobs::Scope::edits);
}

}  // namespace ochron
