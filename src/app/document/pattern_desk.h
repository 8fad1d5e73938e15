#pragma once

#include <QObject>
#include <filesystem>
#include <vector>

#include "document/document.h"
#include "document/song_memory.h"
#include "edits/pattern_edits.h"

namespace ochron {

/// Patterns of the set whose slices are under the fingers: kept from the lanes, laid at the play line, made into
/// others.
class PatternDesk : public QObject, public SongMemory {
  Q_OBJECT
 public:
  explicit PatternDesk(Document& document);

  /// Those of the active set, in the order in which they were kept.
  std::vector<const Pattern*> patterns() const;
  /// The one that commands mean; null when the set has none.
  const Pattern* chosen() const;
  void choose(PatternId pattern);
  void chooseBy(int by);

  /// What the set plays in the chosen range, else in the bars of the chosen clips, else in the bar of the play line.
  void keep();
  /// At the play line, which goes on to its end unless the song plays: pressed again, it is laid once more.
  void lay(int times = 1);
  void shuffle();
  void vary();
  void rename(const QString& name);
  void duplicate();
  void remove();
  void writeMidi(const std::filesystem::path& file);
  void forget() override;

 signals:
  void changed();

 private:
  FrameRange toKeep() const;
  void change(const QString& name, const Pattern& pattern);

  Document& doc_;
  PatternId chosen_;
  std::uint32_t drawing_ = 0;  ///< so that each variation is another one
};

}  // namespace ochron
