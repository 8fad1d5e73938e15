#pragma once

#include <QObject>
#include <QString>
#include <functional>
#include <memory>
#include <vector>

#include "base/progress.h"

namespace ochron {

/// Work away from the main thread. `work` runs on a worker and gives back what is to be done with its result on the
/// main thread; after a cancel that is not called.
class Jobs : public QObject {
  Q_OBJECT
 public:
  using Finish = std::function<void()>;
  using Work = std::function<Finish(Progress&)>;

  explicit Jobs(QObject* parent);
  ~Jobs() override;
  /// A job with a `slot` replaces one that waits in or runs in the same slot.
  void start(const QString& what, Work work, const QString& slot = {});
  void cancelAll();
  bool busy() const { return !running_.empty(); }
  /// Name and fraction of the oldest visible job; empty when nothing runs.
  QString what() const;
  double fraction() const;
  /// Waits until everything is done and applied (tests, closing).
  void finishAll();

 signals:
  void changed();

 private:
  struct Running {
    QString what;
    QString slot;
    std::shared_ptr<Progress> progress;
  };
  std::vector<Running> running_;
};

}  // namespace ochron
