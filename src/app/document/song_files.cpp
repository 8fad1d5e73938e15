#include "document/song_files.h"

#include <QSettings>

#include "document/document.h"
#include "document/last_copy.h"
#include "media/cache_folder.h"
#include "store/project.h"

namespace ochron {
namespace fs = std::filesystem;

namespace {
constexpr const char* kRoomKey = "keeping/room gb";

constexpr const char* kOpening = "open";

Result<Song> readCopy(const fs::path& folder, SongFiles::Copy copy) {
  auto found = copy == SongFiles::Copy::autosaved ? findAutosave(folder) : Autosave{};
  return found.song ? Result<Song>(std::move(*found.song)) : openProject(folder, Newer::look);
}

/// What a song's file holds that is not understood, by the names of its keys.
QString wordsOf(const ForeignKeys& foreign) {
  QStringList words;
  for (const auto& key : foreign.keys)
    if (const auto word = "\"" + QString::fromStdString(key.path.back()) + "\""; !words.contains(word)) words << word;
  return words.mid(0, 6).join(", ");
}

fs::path ownCache() { return userCacheFolder() / "decoded"; }

CacheLimits cacheLimits() {
  CacheLimits limits;
  limits.mostBytes = static_cast<std::uint64_t>(SongFiles::cacheRoom() * 1e9);
  return limits;
}
}  // namespace

SongFiles::SongFiles(Document& document) : QObject(&document), doc_(document), saved_(document.version()) {}

// Room on the disk ----------------------------------------------------------------------------------------------------

double SongFiles::cacheRoom() {
  return kCacheRoomRange.clamp(QSettings().value(kRoomKey, kCacheRoomRange.fallback).toDouble());
}

void SongFiles::setCacheRoom(double gigabytes) {
  QSettings().setValue(kRoomKey, kCacheRoomRange.clamp(gigabytes));
  trimCaches();
  doc_.tell(tr("Decoded and made sound takes %1 GB at most; what gives way is made again when it is needed.")
                .arg(cacheRoom()));
}

/// In the background: folders may hold thousands of files.
void SongFiles::trimCaches() {
  doc_.jobs().start(
      {},
      [folder = cacheFolder(), limits = cacheLimits()](Progress&) -> Jobs::Finish {
        trimCache(folder, limits);
        return {};
      },
      "trim");
}

fs::path SongFiles::cacheFolder() const {
  return keeper_.folder().empty() ? ownCache() : cacheFolderOf(keeper_.folder());
}

// Opening and saving --------------------------------------------------------------------------------------------------

/// Another song is open from here on; where it lies is the keeper's.
void SongFiles::begin(Song song, bool saved) {
  doc_.leaveSong();
  keeper_.leave();
  keeper_.begin();
  LastCopy::forget();
  const auto version = std::make_shared<const Song>(std::move(song));
  saved_ = saved ? version : nullptr;
  doc_.beginSong(version);
}

void SongFiles::takeAsSaved() { saved_ = doc_.version(); }

bool SongFiles::modified() const { return !saved_ || (saved_ != doc_.version() && *saved_ != doc_.song()); }

void SongFiles::newSong() {
  begin({}, true);
  doc_.songBegun();
}

bool SongFiles::open(const fs::path& path, Copy copy, OpenAs as) {
  const auto folder = projectFolder(path);
  return opened(readCopy(folder, copy), folder, copy, as, false);
}

bool SongFiles::opening() const { return doc_.jobs().runs(kOpening); }

void SongFiles::openSoon(const fs::path& path, Copy copy, OpenAs as, bool spare) {
  const auto folder = projectFolder(path);
  doc_.jobs().start(
      tr("opening %1").arg(QString::fromStdString(folder.stem().string())),
      [this, folder, copy, as, spare](Progress&) -> Jobs::Finish {
        return
            [this, song = readCopy(folder, copy), folder, copy, as, spare] { opened(song, folder, copy, as, spare); };
      },
      kOpening, Jobs::Scope::files);
}

bool SongFiles::opened(Result<Song> song, const fs::path& folder, Copy copy, OpenAs as, bool spare) {
  if (!song) {
    doc_.warn(QString::fromStdString(song.error().message));
    return false;
  }
  const bool newer = song->foreign->format > 0;
  const auto unknown = wordsOf(*song->foreign);
  if (newer) as = OpenAs::looker;
  begin(std::move(*song), copy == Copy::saved);
  if (newer)
    doc_.warn(
        tr("%1 was saved by a newer version of Orthochron. It is only looked at here, and may sound otherwise: %2 "
           "is not understood. Update Orthochron to work on it.")
            .arg(QString::fromStdString(folder.stem().string()), unknown.isEmpty() ? tr("its format") : unknown));
  if (const auto sentence = keeper_.begin(folder, as))
    doc_.warn(QString::fromStdString(*sentence), tr("Save as\u2026"), "song.saveas");
  if (spare) {
    keeper_.spareEarlierCopy();
    doc_.warn(
        tr("The autosaved copy of this song could not be kept aside and stays where it is. Until it can be, changes "
           "are autosaved elsewhere and the song cannot be saved here. Make room on the disk."),
        tr("Save as\u2026"), "song.saveas");
  }
  addRecent(folder);
  doc_.songBegun();
  return true;
}

bool SongFiles::openCopy(const fs::path& folder) {
  auto song = openProject(folder);
  if (!song) {
    doc_.warn(QString::fromStdString(song.error().message));
    return false;
  }
  begin(std::move(*song), true);
  doc_.songBegun();
  return true;
}

bool SongFiles::openKept(const KeptCopies::Copy& copy) {
  if (!openCopy(copy.folder)) return false;
  saved_.reset();
  autosave();
  emit doc_.songChanged();
  doc_.tell(tr("\"%1\" is open. Save it to keep it.").arg(QString::fromStdString(copy.name)));
  return true;
}

bool SongFiles::save(const fs::path& path) {
  doc_.endGesture();
  const auto folder = projectFolder(path);
  Song named = doc_.recordings().identified(doc_.song());
  named.name = folder.stem().string();
  doc_.jobs().emptySlot("autosave");
  if (auto ok = keeper_.save(named, folder); !ok) {
    autosave();
    doc_.warn(QString::fromStdString(ok.error().message), tr("Save as\u2026"), "song.saveas");
    return false;
  }
  doc_.named(std::move(named));
  saved_ = doc_.version();
  LastCopy::forget();
  addRecent(folder);
  doc_.tell(tr("Saved as %1.").arg(QString::fromStdString(folder.string())));
  emit doc_.songChanged();
  return true;
}

// Between saves -------------------------------------------------------------------------------------------------------

void SongFiles::autosave() {
  LastCopy::hold(doc_.version(), keeper_.autosaveFolder());
  doc_.jobs().start(
      {},
      [this, song = doc_.version(), folder = keeper_.autosaveFolder()](Progress&) -> Jobs::Finish {
        auto ok = autosaveProject(*song, folder);
        if (ok) return [this] { autosaveFailed_ = false; };
        return [this, message = QString::fromStdString(ok.error().message)] {
          // Said once, until it works again: every edit would say it.
          if (std::exchange(autosaveFailed_, true)) return;
          doc_.warn(tr("The copy for the time between saves could not be written, so save soon. %1").arg(message),
                    tr("Save"), "song.save");
        };
      },
      "autosave", Jobs::Scope::files, Jobs::Kind::keep);
}

std::optional<KeptCopies::Copy> SongFiles::keepAside(const fs::path& folder) {
  auto copy = keeper_.kept().takeFrom(folder, projectFolder(folder).stem().string());
  if (copy) return *copy;
  doc_.warn(QString::fromStdString(copy.error().message));
  return {};
}

void SongFiles::leave() {
  doc_.jobs().cancelAll();
  doc_.jobs().finishAll();
  LastCopy::forget();
  keeper_.leave();
  trimCache(ownCache(), cacheLimits());
  if (!keeper_.folder().empty() && keeper_.as() == OpenAs::owner) trimCache(keeper_.folder() / "cache", cacheLimits());
}

QStringList SongFiles::recent() const { return QSettings().value("recent").toStringList(); }

void SongFiles::addRecent(const fs::path& folder) {
  auto list = recent();
  const auto text = QString::fromStdString(folder.string());
  list.removeAll(text);
  list.prepend(text);
  QSettings().setValue("recent", QStringList(list.mid(0, 10)));
}

}  // namespace ochron
