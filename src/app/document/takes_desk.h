#pragma once

#include <QObject>
#include <QString>
#include <filesystem>
#include <vector>

#include "document/recordings.h"
#include "song/song.h"

namespace ochron {

class Document;

/// What the takes step works on: recordings brought into the song, and found again.
class TakesDesk : public QObject {
  Q_OBJECT
 public:
  explicit TakesDesk(Document& document);

  struct ImportFile {
    std::filesystem::path path;
    QString name;
    MicRole role = MicRole::none;
    bool inSet = false;
  };
  /// Reads the files in the background, then adds them as one take. Files that cannot be read are named; the rest goes
  /// in. A song without recordings runs at `rate` (Hz) from then on.
  void importFiles(const std::vector<ImportFile>& files, const QString& takeName, int rate);
  /// The song at another rate, all of it carried; its recordings are read again.
  void setRate(int rate);
  /// Mutes a track or plays it alone (`flag`), or not any more.
  void turn(TrackId track, bool Track::*flag);
  /// Takes `file` as the recording of this name. When it is another recording the user is asked.
  void relink(MediaId media, const std::filesystem::path& file);

 private:
  void importRead(const std::vector<ImportFile>& files, const std::vector<Recordings::Read>& reads,
                  const QString& takeName, int rate);

  Document& doc_;
};

}  // namespace ochron
