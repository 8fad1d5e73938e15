#include "document/recording_files.h"

#include <QDir>

#include "files/file_names.h"
#include "media/audio_file.h"
#include "store/project.h"

namespace ochron {

const QStringList& recordingPatterns() {
  static const QStringList all = [] {
    QStringList patterns;
    for (const auto ending : kReadEndings) patterns << "*." + QString::fromUtf8(ending.data());
    return patterns;
  }();
  return all;
}

const QStringList& soundPatterns() {
  static const QStringList all = [] {
    auto patterns = recordingPatterns();
    patterns.removeIf([](const QString& p) { return isMidiName(p.toStdString()); });
    return patterns << "*.sfz";
  }();
  return all;
}

QStringList withoutFolders(const QStringList& files) {
  QStringList out;
  for (const auto& file : files) {
    const QDir folder(file);
    QStringList inside;
    if (folder.exists() && !looksLikeProject(file.toStdString()))
      for (const auto& name : folder.entryList(recordingPatterns(), QDir::Files, QDir::Name | QDir::IgnoreCase))
        inside << folder.filePath(name);
    out << (inside.isEmpty() ? QStringList{file} : inside);
  }
  return out;
}

}  // namespace ochron
