#include <signal.h>
#include <unistd.h>

#include <QSettings>
#include <QStandardPaths>
#include <cstdlib>

#include "document/document.h"
#include "document/wording.h"
#include "store/project.h"

namespace ochron {
namespace fs = std::filesystem;

void Document::newSong() {
  pool_.clear();
  past_.clear(), future_.clear();
  folder_.clear();
  currentHit_.reset();
  range_ = {};
  cursor_ = {};
  auto song = std::make_shared<const Song>();
  saved_ = song;
  song_ = song;
  afterChange();
  emit selectionChanged();
}

bool Document::open(const fs::path& folder, bool fromAutosave) {
  auto song = fromAutosave ? openAutosave(folder) : openProject(folder);
  if (!song) {
    emit told(QString::fromStdString(song.error().message));
    return false;
  }
  newSong();
  folder_ = fs::absolute(folder.filename() == kSongFile ? folder.parent_path() : folder).lexically_normal();
  song_ = std::make_shared<const Song>(std::move(*song));
  saved_ = fromAutosave ? nullptr : song_;
  addRecent(folder_);
  cursor_ = song_->tempo.origin();
  afterChange();
  emit selectionChanged();
  return true;
}

bool Document::openCopy(const fs::path& folder) {
  auto song = openProject(folder);
  if (!song) {
    emit told(QString::fromStdString(song.error().message));
    return false;
  }
  newSong();
  song_ = std::make_shared<const Song>(std::move(*song));
  saved_ = song_;
  cursor_ = song_->tempo.origin();
  afterChange();
  emit selectionChanged();
  return true;
}

bool Document::save(const fs::path& folder) {
  Song named = *song_;
  named.name = folder.stem().string();
  auto ok = saveProject(named, folder);
  if (!ok) {
    emit told(QString::fromStdString(ok.error().message));
    return false;
  }
  std::error_code ec;
  fs::remove_all(recoveryFolder_, ec);
  folder_ = fs::absolute(folder).lexically_normal();
  song_ = std::make_shared<const Song>(std::move(named));
  saved_ = song_;
  addRecent(folder_);
  emit told(tr("Saved as %1.").arg(QString::fromStdString(folder_.string())));
  emit songChanged();
  return true;
}

fs::path Document::findRecovery() const {
  std::error_code ec;
  for (const auto& entry : fs::directory_iterator(recoveryFolder_.parent_path(), ec)) {
    const auto name = entry.path().stem().string();
    const int pid = std::atoi(name.substr(name.rfind('-') + 1).c_str());
    if (pid > 0 && pid != ::getpid() && ::kill(pid, 0) != 0 && hasAutosave(entry.path())) return entry.path();
  }
  return {};
}

void Document::recover(const fs::path& folder) {
  auto song = openAutosave(folder);
  if (!song) {
    emit told(QString::fromStdString(song.error().message));
    return;
  }
  newSong();
  saved_ = nullptr;
  replaceSong(std::make_shared<const Song>(std::move(*song)));
  std::error_code ec;
  fs::remove_all(folder, ec);
  emit told(tr("Recovered. Save it to keep it."));
}

void Document::leave() {
  jobs_.cancelAll();
  jobs_.finishAll();
  std::error_code ec;
  fs::remove_all(recoveryFolder_, ec);
  if (!folder_.empty()) discardAutosave(folder_);
}

std::vector<MediaId> Document::missingMedia() const {
  std::vector<MediaId> out;
  std::error_code ec;
  for (const auto& m : song_->media)
    if (!pool_.contains(m.id) && !fs::exists(m.path, ec)) out.push_back(m.id);
  return out;
}

void Document::relink(MediaId media, const fs::path& file) {
  const auto* m = song_->find(media);
  auto reader = AudioFileReader::open(file);
  if (!m || !reader) {
    emit told(QString::fromStdString(reader ? "This recording is not in the song any more." : reader.error().message));
    return;
  }
  auto print = fingerprint(file);
  if (!m->fingerprint.empty() && print && *print != m->fingerprint)
    emit told(tr("%1 is not the recording that was imported; it is used in its place.")
                  .arg(QString::fromStdString(file.filename().string())));
  edit(tr("Relink %1").arg(QString::fromStdString(m->name)),
       relinkMedia(*song_, media, fs::absolute(file).lexically_normal().string()));
}

QStringList Document::recent() const { return QSettings().value("recent").toStringList(); }

void Document::addRecent(const fs::path& folder) {
  auto list = recent();
  const auto text = QString::fromStdString(folder.string());
  list.removeAll(text);
  list.prepend(text);
  QSettings().setValue("recent", QStringList(list.mid(0, 10)));
}

fs::path Document::cacheFolder() const {
  if (!folder_.empty()) return folder_ / "cache";
  return fs::path(QStandardPaths::writableLocation(QStandardPaths::CacheLocation).toStdString()) / "decoded";
}

fs::path Document::autosaveFolder() const { return folder_.empty() ? recoveryFolder_ : folder_; }

void Document::autosave() {
  const auto song = song_;
  const auto folder = autosaveFolder();
  jobs_.start(
      {},
      [this, song, folder](Progress&) -> Jobs::Finish {
        auto ok = autosaveProject(*song, folder);
        if (ok) return {};
        const auto message = QString::fromStdString(ok.error().message);
        return [this, message] { emit told(message); };
      },
      "autosave");
}

void Document::loadMedia() {
  const auto song = song_;
  const auto cache = cacheFolder();
  auto have = pool_;
  jobs_.start(
      tr("reading recordings"),
      [this, song, cache, have](Progress& progress) mutable -> Jobs::Finish {
        std::error_code ec;
        double done = 0;
        for (const auto& m : song->media) {
          Progress one;
          if (progress.cancelled()) return {};
          if (!have.contains(m.id) && fs::exists(m.path, ec)) {
            auto media = decodeMedia(m.path, cache, song->rate, one);
            if (media)
              have[m.id] = *media;
            else
              return [this, text = QString::fromStdString(media.error().message)] { emit told(text); };
          }
          progress.report(++done / static_cast<double>(song->media.size()));
        }
        return [this, have] {
          pool_.insert(have.begin(), have.end());
          planned_.reset();
          compile();
          measure();
          emit mediaChanged();
          if (const auto missing = missingMedia(); !missing.empty())
            emit told(tr("%1 not where the song expects. Open step 1 to relink.")
                          .arg(counted(missing.size(), "recording is", "recordings are")));
        };
      },
      "media");
}

}  // namespace ochron
