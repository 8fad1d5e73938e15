#pragma once

#include <QObject>
#include <filesystem>
#include <memory>

#include "document/jobs.h"
#include "document/song_memory.h"
#include "edits/print_edits.h"
#include "render/export.h"
#include "render/print_sound.h"
#include "store/archive.h"

namespace ochron {

class Document;

/// What the print step works on: the song written to files.
class PrintDesk : public QObject, public SongMemory {
  Q_OBJECT
 public:
  explicit PrintDesk(Document& document);
  void forget() override;

  /// Every file that an export would write, in its place.
  static Result<std::vector<std::filesystem::path>> filesOf(const Song& song, const ExportSettings& settings,
                                                            const std::filesystem::path& target);
  /// What measure() found last.
  struct Measured {
    std::shared_ptr<const Song> song;
    FrameRange range;
    LoudnessReport report;
  };
  /// Null before it was asked for, and in another song.
  const Measured* loudness() const { return measured_ ? &*measured_ : nullptr; }
  /// Measures the mix of a range in the background.
  void measure(FrameRange range, bool mono = false);
  /// "-2.3 dB for -14.0 LUFS (-11.7 before).", and what held it.
  static QString wordsFor(const ExportLoudness& loudness);
  /// Writes in the background; all files appear together at the end, or none. Files that are there already are listed
  /// and asked about once, but for a mix that the user has named.
  void exportTo(const ExportSettings& settings, const std::filesystem::path& target);

  /// What a print would do to levels, row by row of its plan; null until that is known, which levelled() tells.
  const std::vector<PrintLevel>* levelsFor(const PrintAsk& ask, const PrintPlan& plan);
  /// Commits to audio in the background: the files come into the song's folder, what they were made of is kept with
  /// them. One step to undo.
  void commit(const PrintAsk& ask);
  /// The latest print of a set is what it was made of again.
  void takeBack(SetId set);
  /// The latest print of a set is made anew out of what it was made of, as that sounds now, and of what was done to the
  /// print since. One step to undo.
  void printAnew(SetId set);
  /// Says how far the latest print of a set is from what it would be now.
  void compare(SetId set);
  /// Whether all recordings can be heard; else says what would have holes.
  bool allAtHand(const QString& what);
  /// The latest print of a set that is no trim; null when there is none.
  const Print* latestOf(SetId set) const;
  /// Copies recordings that lie elsewhere into the song's folder, in the background.
  void gather();
  /// Puts the song with all its recordings into one file, in the background.
  void archive(const std::filesystem::path& file, ArchivePacking packing);
  /// Unpacks such a file in the background, then opens the song in it.
  void openArchive(const std::filesystem::path& file, const std::filesystem::path& folder);
  /// Moves what lies in the song's media folder and is used neither by the song nor by anything that undo gives back
  /// aside, asked first.
  void clean();
  /// The slices of a set as they are heard, an instrument of them and their order, to a folder, in the background;
  /// asked as an export does before files are replaced.
  void writeCells(SetId set, const std::filesystem::path& folder);
  /// Writes a hand-over folder in the background.
  void handOver(const std::filesystem::path& folder, bool recordings);

 signals:
  void measured();
  void levelled();
  void unpacked(const QString& folder);

 private:
  /// Prints what `base`, made of the song that is open, plays.
  void print(const QString& name, const std::shared_ptr<const Song>& base, const PrintAsk& ask);
  /// Asks about those of the files that are there already; false when one may not be written to, or not be replaced.
  bool mayWrite(const std::vector<std::filesystem::path>& files, const std::filesystem::path& named = {}) const;
  /// The end of a job whose recordings changed meanwhile: nothing of it is kept.
  Jobs::Finish changedMeanwhile(const Error& error);
  Document& doc_;
  std::optional<Measured> measured_;
  struct Levelled {
    std::shared_ptr<const Song> song;
    PrintAsk ask;
    std::optional<std::vector<PrintLevel>> levels;  ///< none: under way, or failed
  };
  std::optional<Levelled> levelled_;
  std::vector<Song> used_;  ///< of every list of recordings since the song was opened, a song that has it
};

}  // namespace ochron
