#pragma once

#include <QObject>
#include <QString>
#include <QStringList>
#include <memory>

#include "play/midi_output.h"

namespace ochron {

class Document;

/// The MIDI port that layers are sent to while the song plays: none, the simulated one, or one of the machine's; kept
/// by its name.
class NoteOutDesk : public QObject {
  Q_OBJECT
 public:
  explicit NoteOutDesk(Document& document);
  ~NoteOutDesk() override;

  /// The ports there are now, the simulated one last.
  static QStringList ports();
  /// Empty: none.
  QString port() const;
  /// From now on, and the next time: says why not when it cannot be had.
  void usePort(const QString& name);
  /// A port that is there already.
  void use(std::shared_ptr<MidiOutput> output);
  /// The one that was used last, at the start.
  void useKept();

 signals:
  void changed();

 private:
  Document& doc_;
  std::unique_ptr<MidiSender> sender_;
};

}  // namespace ochron
