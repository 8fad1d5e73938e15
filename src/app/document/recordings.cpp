#include "document/recordings.h"

#include <QStringList>
#include <algorithm>

#include "base/all_cores.h"
#include "files/atomic_file.h"
#include "media/cache_folder.h"
#include "store/project.h"

namespace ochron {
namespace fs = std::filesystem;

namespace {

MediaTrouble trouble(MediaTrouble::Kind kind, const std::string& sentence) {
  return {kind, QString::fromStdString(sentence)};
}

/// Songs of an older version do not know the content: what else they know must fit.
bool looksLike(const Media& m, const AudioFileInfo& info, const DecodedMedia& decoded) {
  if (m.channels != info.channels || m.fileRate != info.rate) return false;
  return decoded.damage() || m.length.value <= 0 || std::abs(m.length.value - decoded.length().value) <= 1;
}

}  // namespace

QString MediaTrouble::brief(const QString& path) const {
  switch (kind) {
    case Kind::missing: return Recordings::tr("recording missing: %1").arg(path);
    case Kind::replaced: return Recordings::tr("another recording lies there now: %1").arg(path);
    case Kind::unreadable: return Recordings::tr("cannot be read: %1").arg(path);
    case Kind::damaged: break;
  }
  return Recordings::tr("damaged: only a part could be read");
}

Recordings::Recordings(Jobs& jobs, QObject* parent)
    : QObject(parent), jobs_(jobs), index_(std::make_shared<ContentIndex>(userCacheFolder() / "recordings.index")) {}

void Recordings::clear() {
  song_.reset();
  entries_.clear();
  refresh();
}

bool Recordings::fits(const Entry& e, const Media& m) const {
  return e.path == m.path && song_ && e.rate == song_->rate &&
         (e.asked == m.fingerprint || e.content == m.fingerprint) && !(e.media && e.media->broken());
}

void Recordings::refresh() {
  pool_.clear();
  troubles_.clear();
  complete_ = true;
  if (!song_) return;
  for (const auto& m : song_->media) {
    const auto e = entries_.find(m.id);
    if (e == entries_.end() || !fits(e->second, m)) {
      complete_ = false;
      continue;
    }
    if (e->second.media) pool_[m.id] = e->second.media;
    if (e->second.trouble) troubles_[m.id] = *e->second.trouble;
  }
}

void Recordings::follow(const std::shared_ptr<const Song>& song, const fs::path& cacheFolder) {
  const bool same = song_ && song_->media == song->media && song_->rate == song->rate;
  if (same && complete_) {
    song_ = song;
    return;
  }
  const bool reading = same && jobs_.runs("media");
  song_ = song;
  cacheFolder_ = cacheFolder;
  refresh();
  if (complete_ || reading) return;
  std::vector<Media> wanted;
  for (const auto& m : song->media)
    if (const auto e = entries_.find(m.id); e == entries_.end() || !fits(e->second, m)) wanted.push_back(m);
  jobs_.start(
      tr("reading recordings"),
      [this, wanted, index = index_,
       settings = DecodeSettings{cacheFolder, song->rate, Damaged::accept}](Progress& progress) -> Jobs::Finish {
        std::vector<std::optional<Entry>> all(wanted.size());
        onAllCores(wanted.size(), progress, [&](std::size_t i, Progress& part) {
          auto entry = load(wanted[i], *index, settings, part);
          if (!part.cancelled()) all[i] = std::move(entry);
        });
        std::map<MediaId, Entry> loaded;
        for (std::size_t i = 0; i < wanted.size(); ++i)
          if (all[i]) loaded[wanted[i].id] = std::move(*all[i]);
        index->keep();
        return [this, loaded] { take(loaded); };
      },
      "media", Jobs::Scope::song, Jobs::Kind::follow);
}

Recordings::Entry Recordings::load(const Media& m, ContentIndex& index, const DecodeSettings& settings,
                                   Progress& progress) {
  Entry e{m.path, m.fingerprint, {}, settings.rate, nullptr, std::nullopt};
  const auto failed = [&](const Error& error) {
    const bool missing = error.kind == ErrorKind::notFound;
    e.trouble = trouble(missing ? MediaTrouble::Kind::missing : MediaTrouble::Kind::unreadable,
                        missing ? m.path + " is not there. Say where it is now." : error.message);
    return e;
  };
  if (auto ok = checkReadable(m.path); !ok) return failed(ok.error());
  const auto content = index.of(m.path, progress);
  if (!content) return failed(content.error());
  e.content = *content;
  const auto replaced = [&] {
    e.media = nullptr;
    e.trouble = trouble(MediaTrouble::Kind::replaced,
                        m.path + " is not the recording that was imported. Use it in its place, or find the old one.");
    return e;
  };
  if (isContentId(m.fingerprint) && m.fingerprint != e.content) return replaced();
  const auto reader = AudioFileReader::open(m.path, Damaged::accept);
  if (!reader) return failed(reader.error());
  auto media = decodeMedia(m.path, e.content, settings, progress);
  if (!media) return failed(media.error());
  if (const auto now = index.of(m.path, progress); !now || *now != e.content)
    return failed({ErrorKind::ioFailed,
                   m.path + " was changed while it was read. Try again when nothing writes to it any more.",
                   {}});
  if (!isContentId(m.fingerprint) && !looksLike(m, reader->info(), **media)) return replaced();
  e.media = *media;
  if (const auto& damage = e.media->damage()) e.trouble = trouble(MediaTrouble::Kind::damaged, damage->what);
  return e;
}

void Recordings::take(const std::map<MediaId, Entry>& loaded) {
  QStringList sentences;
  for (const auto& [id, entry] : loaded) {
    if (entry.trouble) sentences << entry.trouble->sentence;
    entries_[id] = entry;
  }
  refresh();
  emit changed();
  if (!sentences.isEmpty()) emit found(sentences);
}

Result<Recordings::Read> Recordings::read(const fs::path& file, const fs::path& cacheFolder, int rate, Damaged damaged,
                                          Progress& progress) {
  if (auto ok = checkReadable(file); !ok) return tl::unexpected(ok.error());
  const auto reader = AudioFileReader::open(file, damaged);
  if (!reader) return tl::unexpected(reader.error());
  const auto content = index_->of(file, progress);
  if (!content) return tl::unexpected(content.error());
  auto media = decodeMedia(file, *content, {cacheFolder, rate, damaged}, progress);
  if (!media) return tl::unexpected(media.error());
  if (const auto now = index_->of(file, progress); !now || *now != *content)
    return fail(ErrorKind::ioFailed,
                file.string() + " was changed while it was read. Import it when nothing writes to it any more.");
  const auto& info = reader->info();
  return Read{{absolutePath(file).string(), *content, info.channels, info.rate, (*media)->length()},
              info.timeReference,
              *media,
              info.bpm};
}

void Recordings::put(MediaId id, const Read& read) {
  Entry e{read.found.path, read.found.fingerprint, read.found.fingerprint, read.media->rate(), read.media,
          std::nullopt};
  if (const auto& damage = read.media->damage()) e.trouble = trouble(MediaTrouble::Kind::damaged, damage->what);
  entries_[id] = std::move(e);
}

void Recordings::lookAgain() {
  std::erase_if(entries_, [](const auto& e) { return e.second.trouble && !e.second.media; });
  if (!song_) return;
  refresh();
  follow(song_, cacheFolder_);
}

void Recordings::noticeChanges() {
  const bool any = std::any_of(entries_.begin(), entries_.end(),
                               [](const auto& e) { return e.second.media && e.second.media->broken(); });
  if (!song_ || !any) return;
  refresh();
  follow(song_, cacheFolder_);
}

Song Recordings::identified(Song song) const {
  for (auto& m : song.media) {
    const auto e = entries_.find(m.id);
    if (e != entries_.end() && fits(e->second, m) && e->second.media && !isContentId(m.fingerprint))
      m.fingerprint = e->second.content;
  }
  return song;
}

}  // namespace ochron
