#pragma once

#include <QObject>
#include <QString>
#include <filesystem>
#include <map>
#include <memory>
#include <optional>
#include <vector>

#include "document/jobs.h"
#include "edits/media_edits.h"
#include "files/content_id.h"
#include "media/pool.h"
#include "song/song.h"

namespace ochron {

/// What is wrong with a recording of the song.
struct MediaTrouble {
  enum class Kind {
    missing,     ///< nothing is where the song says
    unreadable,  ///< it may not or cannot be read
    replaced,    ///< another recording lies there; it is not used until the user says so
    damaged,     ///< a part of it can be read, and is used
  };
  Kind kind = Kind::missing;
  QString sentence;

  /// In a few words, for the place where it would be seen; `path` as in the song.
  QString brief(const QString& path) const;
};

/// The recordings of the open song: decoded in the background, known by their content, with what is wrong with them.
class Recordings : public QObject {
  Q_OBJECT
 public:
  Recordings(Jobs& jobs, QObject* parent);

  /// What can be heard of the song that was followed last.
  const MediaPool& pool() const { return pool_; }
  const std::map<MediaId, MediaTrouble>& troubles() const { return troubles_; }
  /// False while recordings of that song are still to be read.
  bool complete() const { return complete_; }

  /// Another song is open.
  void clear();
  /// The song is this now: what it needs and is not here is read; what lies elsewhere now is read again.
  void follow(const std::shared_ptr<const Song>& song, const std::filesystem::path& cacheFolder);
  /// A recording that has just been read for this song.
  struct Read {
    FoundMedia found;
    std::optional<std::int64_t> timeReference;  ///< BWF, at the file's rate
    std::shared_ptr<const DecodedMedia> media;
    std::optional<double> bpm;  ///< as its tempo chunk says
  };
  /// Reads one file whole, for a song of this rate. Worker threads.
  Result<Read> read(const std::filesystem::path& file, const std::filesystem::path& cacheFolder, int rate,
                    Damaged damaged, Progress& progress);
  /// Keeps on the disk what the contents of files were found to be, so that it is paid once.
  void rememberContents() { index_->keep(); }
  /// Takes what was read as the recording of this name, before the song that names it is followed.
  void put(MediaId id, const Read& read);
  /// Reads recordings with a trouble again: they may be back.
  void lookAgain();
  /// Reads recordings again that were written to since they were read.
  void noticeChanges();
  /// The song with the content of its recordings noted where an older version of the program did not.
  Song identified(Song song) const;

 signals:
  /// Recordings came in, or troubles did.
  void changed();
  /// For the user: what was found to be wrong while reading.
  void found(const QStringList& sentences);

 private:
  struct Entry {
    std::string path;
    std::string asked;    ///< the content the song named when this was read
    std::string content;  ///< what it is
    int rate = 0;         ///< Hz, it was read for a song of
    std::shared_ptr<const DecodedMedia> media;
    std::optional<MediaTrouble> trouble;
  };
  bool fits(const Entry& entry, const Media& media) const;
  static Entry load(const Media& media, ContentIndex& index, const DecodeSettings& settings, Progress& progress);
  void take(const std::map<MediaId, Entry>& loaded);
  void refresh();

  Jobs& jobs_;
  std::shared_ptr<ContentIndex> index_;
  std::shared_ptr<const Song> song_;
  std::filesystem::path cacheFolder_;
  std::map<MediaId, Entry> entries_;
  MediaPool pool_;
  std::map<MediaId, MediaTrouble> troubles_;
  bool complete_ = true;
};

}  // namespace ochron
