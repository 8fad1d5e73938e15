#include "document/jobs.h"

#include <sys/resource.h>
#include <unistd.h>

#include <QCoreApplication>
#include <QThreadPool>
#include <QTimer>
#include <algorithm>

namespace ochron {
namespace {
constexpr int kBackgroundNice = 10;
}

Jobs::Jobs(QObject* parent) : QObject(parent) {
  // Progress moves while something runs.
  auto* timer = new QTimer(this);
  connect(timer, &QTimer::timeout, this, [this] {
    if (busy()) emit changed();
  });
  timer->start(100);
}

Jobs::~Jobs() {
  cancelAll();
  QThreadPool::globalInstance()->waitForDone();
}

void Jobs::start(const QString& what, Work work, const QString& slot) {
  if (!slot.isEmpty())
    for (auto& r : running_)
      if (r.slot == slot) r.progress->cancel();
  auto progress = std::make_shared<Progress>();
  running_.push_back({what, slot, progress});
  emit changed();
  QThreadPool::globalInstance()->start([this, progress, work = std::move(work)] {
    // Sound and the hand on the controls come first.
    setpriority(PRIO_PROCESS, static_cast<id_t>(gettid()), kBackgroundNice);
    auto finish = progress->cancelled() ? Finish{} : work(*progress);
    QMetaObject::invokeMethod(
        this,
        [this, progress, finish = std::move(finish)] {
          std::erase_if(running_, [&](const Running& r) { return r.progress == progress; });
          if (finish && !progress->cancelled()) finish();
          emit changed();
        },
        Qt::QueuedConnection);
  });
}

void Jobs::cancelAll() {
  for (auto& r : running_) r.progress->cancel();
}

QString Jobs::what() const {
  for (const auto& r : running_)
    if (!r.what.isEmpty()) return r.what;
  return {};
}

double Jobs::fraction() const {
  for (const auto& r : running_)
    if (!r.what.isEmpty()) return r.progress->fraction();
  return 0;
}

void Jobs::finishAll() {
  while (busy()) QCoreApplication::processEvents(QEventLoop::AllEvents | QEventLoop::WaitForMoreEvents, 20);
}

}  // namespace ochron
