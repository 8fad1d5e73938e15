#pragma once

#include <QObject>
#include <memory>

#include "document/song_memory.h"
#include "play/play_plan.h"
#include "song/song.h"

namespace ochron {

class Document;

/// A print by ear: in the place of a set's latest print what it was made of is heard, alive and with what was done to
/// the print since, while the rest of the song plays on as it is. Nothing is changed by it. It ends when the song
/// changes or another set is chosen.
class PrintTrial : public QObject, public SongMemory {
  Q_OBJECT
 public:
  explicit PrintTrial(Document& document);

  /// What the print was made of is heard, or waited for while its sound is made.
  bool on() const { return alive_ != nullptr; }
  /// From the print to what it was made of, and back.
  void turn(SetId set);
  void end();
  void forget() override { end(); }

 signals:
  void changed();

 private:
  void make();

  Document& doc_;
  SetId set_;
  std::shared_ptr<const Song> alive_;  ///< the song with the print taken back; null: the print is heard
  std::shared_ptr<const PlayPlan> plan_;
};

}  // namespace ochron
