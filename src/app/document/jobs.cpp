#include "document/jobs.h"

#include <sys/resource.h>
#include <unistd.h>

#include <QCoreApplication>
#include <QElapsedTimer>
#include <QSemaphore>
#include <QThreadPool>
#include <QTimer>
#include <algorithm>

namespace ochron {
namespace {
constexpr int kBackgroundNice = 10;
constexpr double kPaceKnownAfter = 0.02;  // of the work
}  // namespace

struct Jobs::Job {
  QString what;
  QString slot;
  Work work;
  Scope scope = Scope::song;
  std::shared_ptr<Progress> progress = std::make_shared<Progress>();
  QElapsedTimer since;
  QSemaphore worked;  // released when the worker is through
};

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

void Jobs::start(const QString& what, Work work, const QString& slot, Scope scope) {
  auto job = std::make_shared<Job>();
  job->what = what;
  job->slot = slot;
  job->work = std::move(work);
  job->scope = scope;
  if (!slot.isEmpty()) {
    std::erase_if(waiting_, [&](const auto& w) { return w->slot == slot; });
    for (const auto& r : running_)
      if (r->slot == slot) r->progress->cancel();
    if (runs(slot)) return waiting_.push_back(std::move(job));
  }
  launch(std::move(job));
}

void Jobs::launch(std::shared_ptr<Job> job) {
  running_.push_back(job);
  job->since.start();
  emit changed();
  QThreadPool::globalInstance()->start([this, job] {
    // Sound and the hand on the controls come first.
    setpriority(PRIO_PROCESS, static_cast<id_t>(gettid()), kBackgroundNice);
    auto finish = job->progress->cancelled() ? Finish{} : job->work(*job->progress);
    job->worked.release();
    QMetaObject::invokeMethod(
        this, [this, job, finish = std::move(finish)] { finished(job, finish); }, Qt::QueuedConnection);
  });
}

void Jobs::finished(const std::shared_ptr<Job>& job, const Finish& finish) {
  if (holding_ && finish && job->scope == Scope::edits && !job->progress->cancelled()) {
    held_.emplace_back(job, finish);
    return;
  }
  std::erase(running_, job);
  if (finish && !job->progress->cancelled()) finish();
  const auto next = std::find_if(waiting_.begin(), waiting_.end(),
                                 [&](const auto& w) { return !job->slot.isEmpty() && w->slot == job->slot; });
  if (next != waiting_.end()) {
    auto waiting = *next;
    waiting_.erase(next);
    launch(std::move(waiting));
  }
  emit changed();
}

void Jobs::beginSong() {
  std::erase_if(waiting_, [](const auto& w) { return w->scope == Scope::song; });
  for (const auto& r : running_)
    if (r->scope != Scope::files) r->progress->cancel();
}

void Jobs::cancelAll() {
  waiting_.clear();
  for (const auto& r : running_) r->progress->cancel();
}

void Jobs::emptySlot(const QString& slot) {
  std::erase_if(waiting_, [&](const auto& w) { return w->slot == slot; });
  for (const auto& r : running_) {
    if (r->slot != slot) continue;
    r->progress->cancel();
    r->worked.acquire();
    r->worked.release();
  }
}

void Jobs::holdResults(bool held) {
  holding_ = held;
  while (!holding_ && !held_.empty()) {
    const auto [job, finish] = std::move(held_.front());
    held_.pop_front();
    finished(job, finish);
  }
}

bool Jobs::runs(const QString& slot) const {
  return std::any_of(running_.begin(), running_.end(), [&](const auto& r) { return r->slot == slot; });
}

const Jobs::Job* Jobs::oldestVisible() const {
  for (const auto& r : running_)
    if (!r->what.isEmpty()) return r.get();
  return nullptr;
}

QString Jobs::what() const {
  const auto* job = oldestVisible();
  return job ? job->what : QString();
}

double Jobs::fraction() const {
  const auto* job = oldestVisible();
  return job ? job->progress->fraction() : 0;
}

double Jobs::secondsLeft() const {
  const auto* job = oldestVisible();
  const double done = job ? job->progress->fraction() : 0;
  return done < kPaceKnownAfter ? -1 : static_cast<double>(job->since.elapsed()) / 1000 * (1 - done) / done;
}

void Jobs::finishAll() {
  holdResults(false);
  while (busy()) QCoreApplication::processEvents(QEventLoop::AllEvents | QEventLoop::WaitForMoreEvents, 20);
}

}  // namespace ochron
