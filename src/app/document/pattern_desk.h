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
  /// A bar to be drawn on, with the chosen clip, or the one at the play line, at its beginning.
  void begin();
  /// A clip struck at a place of the chosen pattern, where what lies within `reach` gives way.
  void draw(const Clip& clip, Ticks at, Ticks reach);
  void erase(std::size_t stroke);
  /// Values of one stroke that follow each other are one step to undo while it is held.
  void setGain(std::size_t stroke, double gainDb, const QString& gesture = {});
  /// The chosen pattern by so many bars longer.
  void lengthen(int bars);
  /// What can be struck in the chosen pattern: its own slices as they come in it first, then chosen clips of the set.
  std::vector<Clip> slices() const;
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
  void change(const QString& name, const Result<Pattern>& pattern, const QString& gesture = {});

  Document& doc_;
  PatternId chosen_;
  std::uint32_t drawing_ = 0;  ///< so that each variation is another one
};

}  // namespace ochron
