#pragma once

#include <QObject>
#include <filesystem>

#include "edits/print_edits.h"
#include "render/export.h"

namespace ochron {

class Document;

/// What the print step works on: the song written to files.
class PrintDesk : public QObject {
  Q_OBJECT
 public:
  explicit PrintDesk(Document& document);

  /// Every file that an export would write, in its place.
  static std::vector<std::filesystem::path> filesOf(const Song& song, const ExportSettings& settings,
                                                    const std::filesystem::path& target);
  /// Writes in the background; all files appear together at the end, or none. Files that are there already are listed
  /// and asked about once, but for a mix that the user has named.
  void exportTo(const ExportSettings& settings, const std::filesystem::path& target);

  /// Commits to audio in the background: the files come into the song's folder, what they were made of is kept with
  /// them. One step to undo.
  void commit(const PrintAsk& ask);
  /// The latest print of a set is what it was made of again.
  void takeBack(SetId set);
  /// Copies recordings that lie elsewhere into the song's folder, in the background.
  void gather();
  /// Writes a hand-over folder in the background.
  void handOver(const std::filesystem::path& folder, bool recordings);

 private:
  bool allAtHand(const QString& what);
  bool mayReplace(const ExportSettings& settings, const std::filesystem::path& target) const;
  Document& doc_;
};

}  // namespace ochron
