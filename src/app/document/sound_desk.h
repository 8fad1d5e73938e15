#pragma once

#include <QObject>
#include <QString>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "document/jobs.h"
#include "play/player.h"

class QTimer;

namespace ochron {

class Document;

/// Where the song is heard: the output that the user chose, kept by its name, and what becomes of it. One that is not
/// there is waited for; meanwhile another one plays.
class SoundDesk : public QObject {
  Q_OBJECT
 public:
  SoundDesk(Document& document, Player& player);
  ~SoundDesk() override;

  const SoundChoice& choice() const { return choice_; }
  /// Heard by this from now on, also next time.
  void choose(const SoundChoice& choice);
  /// Tries the chosen one again.
  void again();
  /// The song's rate is another one now.
  void followRate();

  /// What can be chosen; empty until it has been asked for (list()).
  const std::vector<SoundOutput>& outputs() const { return outputs_; }
  /// Asks the machine, in the background.
  void list();

  QString name() const;
  DeviceRun runs() const;
  /// Times the sound was interrupted since the device was started.
  std::int64_t dropOuts() const;
  /// Whether the chosen one is heard; else another one is, or none.
  bool isChosenHeard() const { return waitsFor_.isEmpty(); }
  /// Looks after the device. Call some 30 times a second.
  void tick();

  /// How outputs are opened and found (openSound, soundOutputs); tests give their own, before the next use.
  struct Machine {
    std::function<Result<std::unique_ptr<AudioDevice>>(const SoundChoice&)> open;
    std::function<std::vector<SoundOutput>()> outputs;
  };
  void useMachine(Machine machine) { machine_ = std::move(machine); }

 signals:
  void changed();

 private:
  /// Plays by what is chosen, else by any, else by the simulated device; says what is not as chosen. True: as chosen.
  bool use();
  void wait(const QString& name);
  void lost();
  /// The play line moves and nothing is heard.
  void goOnSilently();
  bool isHeardByAnother() { return !silent_ && player_.engine().playing(); }
  void lookForIt();
  /// Finds out in the background which outputs there are.
  void ask(Jobs::Kind kind, std::function<void()> then);

  Document& doc_;
  Player& player_;
  Machine machine_;
  SoundChoice choice_;
  std::vector<SoundOutput> outputs_;
  QString waitsFor_;  ///< name of the chosen output that is not there
  QTimer* waiting_;
  bool silent_ = false;  ///< nothing is heard until what is waited for is there
  std::int64_t dropOutsTold_ = 0;
  std::int64_t blocks_ = 0;  ///< when it was last looked at
  int stillFor_ = 0;         ///< looks since it asked for a block
};

}  // namespace ochron
