#include <QSettings>
#include <QStringList>

#include "document/clip_desk.h"
#include "document/document.h"
#include "document/key_desk.h"
#include "document/pitch_desk.h"
#include "document/round_desk.h"
#include "document/sounding.h"
#include "document/tempo_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "edits/media_edits.h"
#include "media/cache_folder.h"
#include "store/project.h"

namespace ochron {
namespace fs = std::filesystem;

namespace {
constexpr const char* kRoomKey = "keeping/room gb";

fs::path ownCache() { return userCacheFolder() / "decoded"; }

CacheLimits cacheLimits() {
  CacheLimits limits;
  limits.mostBytes = static_cast<std::uint64_t>(Document::cacheRoom() * 1e9);
  return limits;
}
}  // namespace

double Document::cacheRoom() {
  return kCacheRoomRange.clamp(QSettings().value(kRoomKey, kCacheRoomRange.fallback).toDouble());
}

void Document::setCacheRoom(double gigabytes) {
  QSettings().setValue(kRoomKey, kCacheRoomRange.clamp(gigabytes));
  trimCaches();
  tell(tr("Decoded and made sound takes %1 GB at most; what gives way is made again when it is needed.")
           .arg(cacheRoom()));
}

/// In the background: folders may hold thousands of files.
void Document::trimCaches() {
  jobs_.start(
      {},
      [folder = cacheFolder(), limits = cacheLimits()](Progress&) -> Jobs::Finish {
        trimCache(folder, limits);
        return {};
      },
      "trim");
}

/// Another song is open from here on; where it lies is the keeper's.
void Document::beginSong(std::shared_ptr<const Song> song, bool saved) {
  cancelGesture();
  roundDesk_->end();
  emit gestureOver();
  jobs_.beginSong();
  jobs_.emptySlot("autosave");
  keeper_.leave();
  keeper_.begin();
  recordings_.clear();
  history_.clear();
  sounding_->beginSong();
  seamMeasures_.clear();
  currentHit_.reset();
  currentSeam_.reset();
  range_ = {};
  saved_ = saved ? song : nullptr;
  song_ = std::move(song);
  tempoDesk_->forget();
  pitchDesk_->forget();
  keyDesk_->forget();
  transport_->beginSong();
}

void Document::newSong() {
  beginSong(std::make_shared<const Song>(), true);
  afterChange();
  emit selectionChanged();
}

bool Document::open(const fs::path& path, Copy copy, OpenAs as) {
  const auto folder = projectFolder(path);
  auto found = copy == Copy::autosaved ? findAutosave(folder) : Autosave{};
  auto song = found.song ? Result<Song>(std::move(*found.song)) : openProject(folder);
  if (!song) {
    warn(QString::fromStdString(song.error().message));
    return false;
  }
  beginSong(std::make_shared<const Song>(std::move(*song)), copy == Copy::saved);
  if (const auto sentence = keeper_.begin(folder, as))
    warn(QString::fromStdString(*sentence), tr("Save as\u2026"), "song.saveas");
  addRecent(folder);
  afterChange();
  emit selectionChanged();
  return true;
}

bool Document::openCopy(const fs::path& folder) {
  auto song = openProject(folder);
  if (!song) {
    warn(QString::fromStdString(song.error().message));
    return false;
  }
  beginSong(std::make_shared<const Song>(std::move(*song)), true);
  afterChange();
  emit selectionChanged();
  return true;
}

bool Document::openKept(const KeptCopies::Copy& copy) {
  if (!openCopy(copy.folder)) return false;
  saved_.reset();
  autosave();
  emit songChanged();
  emit told(tr("\"%1\" is open. Save it to keep it.").arg(QString::fromStdString(copy.name)));
  return true;
}

bool Document::save(const fs::path& path) {
  endGesture();
  const auto folder = projectFolder(path);
  Song named = recordings_.identified(*song_);
  named.name = folder.stem().string();
  jobs_.emptySlot("autosave");
  if (auto ok = keeper_.save(named, folder); !ok) {
    autosave();
    warn(QString::fromStdString(ok.error().message), tr("Save as\u2026"), "song.saveas");
    return false;
  }
  song_ = std::make_shared<const Song>(std::move(named));
  saved_ = song_;
  recordings_.follow(song_, cacheFolder());
  addRecent(folder);
  emit told(tr("Saved as %1.").arg(QString::fromStdString(folder.string())));
  emit songChanged();
  return true;
}

std::optional<KeptCopies::Copy> Document::keepAside(const fs::path& folder) {
  auto copy = keeper_.kept().takeFrom(folder, projectFolder(folder).stem().string());
  if (copy) return *copy;
  warn(QString::fromStdString(copy.error().message));
  return {};
}

void Document::leave() {
  jobs_.cancelAll();
  jobs_.finishAll();
  keeper_.leave();
  trimCache(ownCache(), cacheLimits());
  if (!keeper_.folder().empty() && keeper_.as() == OpenAs::owner) trimCache(keeper_.folder() / "cache", cacheLimits());
}

void Document::relink(MediaId id, const fs::path& file) {
  const auto name = QString::fromStdString(file.filename().string());
  jobs_.start(
      tr("reading %1").arg(name),
      [this, id, file, name, cache = cacheFolder(), rate = song_->rate](Progress& progress) -> Jobs::Finish {
        auto read = recordings_.read(file, cache, rate, Damaged::accept, progress);
        if (!read) {
          if (read.error().kind == ErrorKind::cancelled) return {};
          return [this, text = QString::fromStdString(read.error().message)] { warn(text); };
        }
        return [this, id, name, read = std::move(*read)] {
          const auto* m = song_->find(id);
          if (!m) return tell(tr("This recording is not in the song any more."));
          if (const auto& damage = read.media->damage(); damage && !asked(name, damage->what, tr("Use its good part")))
            return;
          const bool same = isContentId(m->fingerprint)
                                ? m->fingerprint == read.found.fingerprint
                                : m->channels == read.found.channels && m->length == read.found.length;
          if (!same && !asked(name,
                              tr("This is not the recording that was imported. Used in its place it is as long and as "
                                 "loud as it is; what the song does with it stays.")
                                  .toStdString(),
                              tr("Use it")))
            return;
          recordings_.put(id, read);
          const auto title = QString::fromStdString(m->name);
          if (same)
            edit(tr("Relink %1").arg(title), relinkMedia(*song_, id, read.found.path));
          else
            edit(tr("Use another recording for %1").arg(title), replaceMedia(*song_, id, read.found));
          recordings_.lookAgain();
          emit mediaChanged();
        };
      },
      {}, Jobs::Scope::edits);
}

bool Document::asked(const QString& title, const std::string& text, const QString& yes) const {
  return asker_ && asker_(title, QString::fromStdString(text), yes);
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
  return keeper_.folder().empty() ? ownCache() : cacheFolderOf(keeper_.folder());
}

void Document::autosave() {
  jobs_.start(
      {},
      [this, song = song_, folder = keeper_.autosaveFolder()](Progress&) -> Jobs::Finish {
        auto ok = autosaveProject(*song, folder);
        if (ok) return [this] { autosaveFailed_ = false; };
        return [this, message = QString::fromStdString(ok.error().message)] {
          // Said once, until it works again: every edit would say it.
          if (std::exchange(autosaveFailed_, true)) return;
          warn(tr("The copy for the time between saves could not be written, so save soon. %1").arg(message),
               tr("Save"), "song.save");
        };
      },
      "autosave");
}

}  // namespace ochron
