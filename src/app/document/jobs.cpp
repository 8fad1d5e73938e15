#include "document/jobs.h"

#include <QCoreApplication>
#include <QElapsedTimer>
#include <QTimer>
#include <algorithm>
#include <chrono>
#include <future>
#include <thread>

namespace ochron {
namespace {
constexpr double kPaceKnownAfter = 0.02;  // of the work
}  // namespace

struct Jobs::Job {
  QString what;
  QString slot;
  Work work;
  Scope scope = Scope::song;
  Kind kind = Kind::task;
  std::shared_ptr<Progress> progress = std::make_shared<Progress>();
  QElapsedTimer since;
  std::promise<void> worked;
  std::shared_future<void> through = worked.get_future().share();  // the worker is
};

Jobs::Jobs(QObject* parent)
    : QObject(parent),
      tasks_(std::make_unique<Workers>(Workers::forAllCores(), Workers::Priority::normal)),
      refreshers_(std::make_unique<Workers>(Workers::forAllCores(), Workers::Priority::background)),
      keepers_(std::make_unique<Workers>(1, Workers::Priority::normal)) {
  // Progress moves while something runs.
  auto* timer = new QTimer(this);
  connect(timer, &QTimer::timeout, this, [this] {
    if (busy()) emit changed();
  });
  timer->start(100);
}

Jobs::~Jobs() {
  cancelAll();
  tasks_.reset();
  refreshers_.reset();
  keepers_.reset();
}

void Jobs::start(const QString& what, Work work, const QString& slot, Scope scope, Kind kind) {
  auto job = std::make_shared<Job>();
  job->what = what;
  job->slot = slot;
  job->work = std::move(work);
  job->scope = scope;
  job->kind = kind == Kind::task && what.isEmpty() ? Kind::refresh : kind;
  if (!slot.isEmpty()) {
    std::erase_if(waiting_, [&](const auto& w) { return w->slot == slot; });
    for (const auto& r : running_)
      if (r->slot == slot) r->progress->cancel();
    if (runs(slot)) return waiting_.push_back(std::move(job));
  }
  launch(job);
}

void Jobs::launch(const std::shared_ptr<Job>& job) {
  running_.push_back(job);
  job->since.start();
  emit changed();
  auto& workers = job->kind == Kind::keep ? *keepers_ : job->kind == Kind::refresh ? *refreshers_ : *tasks_;
  workers.give([this, job] {
    auto finish = job->progress->cancelled() ? Finish{} : job->work(*job->progress);
    {
      const std::lock_guard lock(doneMutex_);
      done_.emplace_back(job, std::move(finish));
    }
    job->worked.set_value();
    QMetaObject::invokeMethod(this, &Jobs::takeDone, Qt::QueuedConnection);
  });
}

/// What workers are through with. The results themselves are handed over here, the event only says that there are some.
void Jobs::takeDone() {
  for (;;) {
    std::pair<std::shared_ptr<Job>, Finish> next;
    {
      const std::lock_guard lock(doneMutex_);
      if (done_.empty()) return;
      next = std::move(done_.front());
      done_.pop_front();
    }
    finished(next.first, next.second);
  }
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
    launch(waiting);
  }
  emit changed();
}

void Jobs::beginSong() {
  std::erase_if(waiting_, [](const auto& w) { return w->scope != Scope::files; });
  for (const auto& r : running_)
    if (r->scope != Scope::files) r->progress->cancel();
}

void Jobs::cancelAll() {
  waiting_.clear();
  for (const auto& r : running_) r->progress->cancel();
}

void Jobs::cancelTasks() {
  std::erase_if(waiting_, [](const auto& w) { return w->kind == Kind::task; });
  for (const auto& r : running_)
    if (r->kind == Kind::task) r->progress->cancel();
}

bool Jobs::hasTasks() const {
  const auto isTask = [](const auto& job) { return job->kind == Kind::task; };
  return std::any_of(running_.begin(), running_.end(), isTask) || std::any_of(waiting_.begin(), waiting_.end(), isTask);
}

void Jobs::emptySlot(const QString& slot) {
  std::erase_if(waiting_, [&](const auto& w) { return w->slot == slot; });
  for (const auto& r : running_) {
    if (r->slot != slot) continue;
    r->progress->cancel();
    r->through.wait();
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
  while (busy()) {
    QCoreApplication::processEvents();
    if (busy()) std::this_thread::sleep_for(std::chrono::milliseconds(1));  // the cores are for the work
  }
}

}  // namespace ochron
