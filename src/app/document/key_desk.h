#pragma once

#include <QObject>
#include <QTimer>
#include <array>
#include <memory>
#include <optional>

#include "document/song_memory.h"
#include "play/midi_input.h"
#include "song/song.h"

namespace ochron {

class Document;

/// Keys tried on the active set while the song plays: heard at once, nothing is changed until one is kept.
class KeyDesk : public QObject, public SongMemory {
  Q_OBJECT
 public:
  explicit KeyDesk(Document& document);

  bool trying() const { return trying_; }
  /// What is tried, or was last: semitones above the recording, and cents on top.
  int semitones() const { return semitones_; }
  double cents() const { return cents_; }
  void tryKey(int semitones, double cents);
  /// What was recorded is heard again.
  void asRecorded();
  /// The clips that are chosen in the set, else all of it, are transposed by what is tried.
  void keep();

  /// How well the set fits the other tracks, moved up by 0 to 11 semitones: -1 to 1. None until it was listened for.
  const std::optional<std::array<double, 12>>& fits() const { return fits_; }
  /// Listens in the background; drums have no key and do not count.
  void hearFits();
  /// A keyboard whose keys are tried, middle C as recorded; null: none.
  void useKeyboard(std::unique_ptr<MidiInput> keyboard);
  const MidiInput* keyboard() const { return keyboard_.get(); }
  /// Opens one by its name: a port of the system's, or the simulated one; empty: none. What cannot be used is said.
  void chooseKeyboard(const QString& name);
  /// The computer's keys play the simulated keyboard; false when another one, or none, is used.
  bool playSimulated(int semitones);

  void forget() override;

 signals:
  void changed();

 private:
  void send();
  void follow();
  void takeKeys();

  Document& doc_;
  std::unique_ptr<MidiInput> keyboard_;
  QTimer listening_;
  SetId set_;  ///< what it is tried on
  bool trying_ = false;
  int semitones_ = 0;
  double cents_ = 0;
  std::optional<std::array<double, 12>> fits_;
  SetId listened_;         ///< what fits_ is of, or will be
  std::size_t takes_ = 0;  ///< how many there were then
};

}  // namespace ochron
