#pragma once

#include <QObject>
#include <QString>
#include <deque>
#include <functional>
#include <memory>
#include <mutex>
#include <vector>

#include "base/progress.h"
#include "document/workers.h"

namespace ochron {

/// Work away from the main thread. `work` runs on a worker and gives back what is to be done with its result on the
/// main thread; after a cancel that is not called.
///
/// Jobs of one slot run one after the other: a new one cancels the one that runs and takes the place of one that waits.
/// Jobs belong to the song that was open when they were started: its results are dropped when another one is
/// (beginSong), but for those that work on files alone.
class Jobs : public QObject {
  Q_OBJECT
 public:
  using Finish = std::function<void()>;
  using Work = std::function<Finish(Progress&)>;
  enum class Scope {
    song,   ///< works something out about the open song
    edits,  ///< its result changes the open song
    files,  ///< works on files alone
  };

  enum class Kind {
    task,     ///< the user asked for it and waits: it has a name and is cancelled by hand
    follow,   ///< what eye and ear wait for after every change; nobody cancels it by hand
    refresh,  ///< what nobody waits for: as follow, and it yields to all other programs
    keep,     ///< keeps the user's work: a thread of its own, which nothing occupies
  };

  explicit Jobs(QObject* parent);
  ~Jobs() override;
  void start(const QString& what, Work work, const QString& slot = {}, Scope scope = Scope::song,
             Kind kind = Kind::task);
  /// Another song is open from now on.
  void beginSong();
  void cancelAll();
  /// What the user asked for is not wanted any more.
  void cancelTasks();
  /// Whether something runs or waits that the user asked for.
  bool hasTasks() const;
  /// Drops what waits in a slot, and returns when nothing of it runs any more. Its result is dropped too.
  void emptySlot(const QString& slot);
  /// While held, results that change the song wait: nothing moves under a hand that drags.
  void holdResults(bool held);
  /// Results that wait for the hand to let go.
  std::size_t resultsHeld() const { return held_.size(); }
  bool busy() const { return !running_.empty(); }
  bool runs(const QString& slot) const;
  /// Name and fraction of the oldest visible job; empty when nothing runs.
  QString what() const;
  double fraction() const;
  /// Seconds until the oldest visible job is done, by its pace so far; negative while unknown.
  double secondsLeft() const;
  /// Waits until everything is done and applied (tests, closing).
  void finishAll();

 signals:
  void changed();

 private:
  struct Job;
  void launch(const std::shared_ptr<Job>& job);
  void takeDone();
  void finished(const std::shared_ptr<Job>& job, const Finish& finish);
  const Job* oldestVisible() const;

  std::vector<std::shared_ptr<Job>> running_;
  std::vector<std::shared_ptr<Job>> waiting_;  // at most one a slot
  std::deque<std::pair<std::shared_ptr<Job>, Finish>> held_;
  bool holding_ = false;
  std::mutex doneMutex_;
  std::deque<std::pair<std::shared_ptr<Job>, Finish>> done_;  // by workers, not yet taken
  std::unique_ptr<Workers> tasks_;
  std::unique_ptr<Workers> refreshers_;
  std::unique_ptr<Workers> keepers_;
};

}  // namespace ochron
