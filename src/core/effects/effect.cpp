#include "effects/effect.h"

#include <fcntl.h>
#include <signal.h>
#include <spawn.h>
#include <sys/mman.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <new>
#include <thread>

#include "effects/catalog.h"
#include "effects/shared_block.h"
#include "files/whole_folder.h"

extern char** environ;

namespace ochron {
namespace {

static_assert(Effect::kMostFrames == SharedBlock::kMostFrames);
constexpr auto kHangs = std::chrono::seconds(2);  // without an answer
constexpr int kMemoryInChild = 3;
constexpr const char* kStateFolder = "state";
constexpr auto kLook = std::chrono::microseconds(60);  // before it sleeps

std::int64_t now() { return Effect::Clock::now().time_since_epoch().count(); }

}  // namespace

Effect::Effect(EffectInfo info, int rate, int channels, Shared<EffectState> held, bool live)
    : info_(std::move(info)), rate_(rate), channels_(channels), held_(std::move(held)), live_(live) {}

Result<std::shared_ptr<Effect>> Effect::start(const EffectInfo& info, int rate, int channels,
                                              const std::map<std::string, double>& values,
                                              const Shared<EffectState>& state, bool live) {
  std::shared_ptr<Effect> effect(new Effect(info.atRate(rate), rate, std::clamp(channels, 1, 2), state, live));
  effect->memory_ = ::memfd_create("orthochron effect", MFD_CLOEXEC);
  if (effect->memory_ < 0 || ::ftruncate(effect->memory_, sizeof(SharedBlock)) != 0)
    return fail(ErrorKind::ioFailed, info.name + " could not be started: there is no memory for it.");
  void* mapped = ::mmap(nullptr, sizeof(SharedBlock), PROT_READ | PROT_WRITE, MAP_SHARED, effect->memory_, 0);
  if (mapped == MAP_FAILED)
    return fail(ErrorKind::ioFailed, info.name + " could not be started: there is no memory for it.");
  effect->block_ = new (mapped) SharedBlock;
  effect->setAll(values);
  if (auto ok = effect->layOut(); !ok) return tl::unexpected(ok.error());
  if (auto ok = effect->launch(); !ok) return tl::unexpected(ok.error());
  return effect;
}

Effect::~Effect() {
  if (process_ > 0) {
    ::kill(process_, SIGKILL);
    ::waitpid(process_, nullptr, 0);
  }
  if (block_) ::munmap(block_, sizeof(SharedBlock));
  if (memory_ >= 0) ::close(memory_);
}

/// What it holds as files for its process, which may read them as long as it runs.
Result<void> Effect::layOut() {
  if (held_->files.empty()) return {};
  auto folder = ScratchFolder::make();
  if (!folder) return tl::unexpected(folder.error());
  folder_.emplace(std::move(*folder));
  return writeWholeFolder(folder_->path() / kStateFolder, held_->files);
}

Result<void> Effect::launch() {
  const auto program = effectsProgram();
  if (!program) return tl::unexpected(program.error());
  block_->state.store(SharedBlock::starting);
  block_->rate = static_cast<std::uint32_t>(rate_);
  block_->channels = static_cast<std::uint32_t>(channels_);
  block_->live = live_ ? 1 : 0;
  block_->asked.store(0);
  block_->answered.store(0);
  block_->message.fill('\0');
  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  posix_spawn_file_actions_addopen(&actions, STDOUT_FILENO, "/dev/null", O_WRONLY, 0);
  posix_spawn_file_actions_addopen(&actions, STDERR_FILENO, "/dev/null", O_WRONLY, 0);
  posix_spawn_file_actions_adddup2(&actions, memory_, kMemoryInChild);
  const std::string name = program->string();
  const std::string state = folder_ ? (folder_->path() / kStateFolder).string() : std::string();
  std::array<char*, 5> args{const_cast<char*>(name.c_str()), const_cast<char*>(info_.uri.c_str()),
                            const_cast<char*>(info_.bundle.c_str()), const_cast<char*>(state.c_str()), nullptr};
  const int failed = ::posix_spawn(&process_, name.c_str(), &actions, nullptr, args.data(), environ);
  posix_spawn_file_actions_destroy(&actions);
  if (failed != 0) {
    process_ = 0;
    return fail(ErrorKind::ioFailed, info_.name + " could not be started. Close some programs and try again.");
  }
  return {};
}

void Effect::stop(const std::string& why) {
  plays_.store(false, std::memory_order_release);
  trouble_ = why;
  if (process_ <= 0) return;
  ::kill(process_, SIGKILL);
  ::waitpid(process_, nullptr, 0);
  process_ = 0;
}

Effect::State Effect::state() const {
  if (!trouble_.empty()) return State::stopped;
  return plays_.load(std::memory_order_relaxed) ? State::ready : State::starting;
}

void Effect::watch() {
  if (!trouble_.empty()) return;
  const auto told = block_->state.load(std::memory_order_acquire);
  if (told == SharedBlock::failed)
    return stop(info_.name + " cannot be used: " + std::string(block_->message.data()) + ".");
  int status = 0;
  if (process_ > 0 && ::waitpid(process_, &status, WNOHANG) == process_) {
    process_ = 0;
    return stop(info_.name + " broke down, and sound goes past it. Restart it, or take it out.");
  }
  // One that has answered since is not late, whether it was asked again or not.
  if (block_->answered.load(std::memory_order_acquire) == block_->asked.load(std::memory_order_acquire))
    lateSince_.store(0, std::memory_order_relaxed);
  const auto late = lateSince_.load(std::memory_order_relaxed);
  if (late != 0 && now() - late > std::chrono::nanoseconds(kHangs).count())
    return stop(info_.name + " does not answer any more, and sound goes past it. Restart it, or take it out.");
  if (told == SharedBlock::ready) plays_.store(true, std::memory_order_release);
}

Result<void> Effect::restart() {
  stop({});
  lateSince_.store(0);
  return launch();
}

bool Effect::waitUntilReady(std::chrono::milliseconds most) {
  const auto until = Clock::now() + most;
  for (watch(); state() == State::starting && Clock::now() < until; watch())
    std::this_thread::sleep_for(std::chrono::milliseconds(1));
  return state() == State::ready;
}

void Effect::setAll(const std::map<std::string, double>& values, const std::set<std::string>& left) {
  for (std::size_t i = 0; i < info_.controls.size(); ++i) {
    const auto& c = info_.controls[i];
    if (left.contains(c.symbol)) continue;
    const auto found = values.find(c.symbol);
    const double value = found == values.end() ? c.fallback : found->second;
    set(i, static_cast<float>(std::clamp(value, std::min(c.low, c.high), std::max(c.low, c.high))));
  }
}

Frames Effect::latency() const { return Frames{block_->latency.load(std::memory_order_relaxed)}; }

void Effect::set(std::size_t control, float value) noexcept {
  if (control < SharedBlock::kMostControls) block_->controls[control].store(value, std::memory_order_relaxed);
}
float Effect::value(std::size_t control) const noexcept {
  return control < SharedBlock::kMostControls ? block_->controls[control].load(std::memory_order_relaxed) : 0;
}
float Effect::reading(std::size_t control) const noexcept {
  return control < SharedBlock::kMostControls ? block_->readings[control].load(std::memory_order_relaxed) : 0;
}

bool Effect::ask(ChannelSpans sound, std::span<const float> key) noexcept {
  frames_ = 0;
  if (!plays_.load(std::memory_order_acquire)) return false;
  // One that is late with an earlier block is not asked again before it has answered.
  if (block_->answered.load(std::memory_order_acquire) != block_->asked.load(std::memory_order_relaxed)) return false;
  frames_ = sound.front().size();
  block_->frames = static_cast<std::uint32_t>(frames_);
  for (std::size_t c = 0; c < static_cast<std::size_t>(channels_); ++c)
    std::copy_n(sound[std::min(c, sound.size() - 1)].begin(), frames_, block_->sound[c].begin());
  if (key.empty())
    std::copy_n(block_->sound[0].begin(), frames_, block_->key.begin());
  else
    std::copy_n(key.begin(), frames_, block_->key.begin());
  asked_ = block_->asked.load(std::memory_order_relaxed) + 1;
  block_->asked.store(asked_);
  if (block_->effectSleeps.load() != 0) wake(block_->asked);
  return true;
}

bool Effect::answer(ChannelSpans sound, Clock::time_point latest) noexcept {
  if (frames_ == 0) return false;
  const auto look = Clock::now() + kLook;
  while (block_->answered.load(std::memory_order_acquire) != asked_) {
    const auto t = Clock::now();
    if (t >= latest || !plays_.load(std::memory_order_relaxed)) {
      if (lateSince_.load(std::memory_order_relaxed) == 0) lateSince_.store(now(), std::memory_order_relaxed);
      return false;
    }
    if (t < look) continue;
    const auto answered = block_->answered.load();
    block_->callerSleeps.store(1);
    if (block_->answered.load() == answered)
      sleepWhile(block_->answered, answered,
                 std::min<std::int64_t>(std::chrono::nanoseconds(latest - t).count(), 1'000'000));
    block_->callerSleeps.store(0);
  }
  lateSince_.store(0, std::memory_order_relaxed);
  for (std::size_t c = 0; c < sound.size(); ++c) {
    const auto& from = block_->sound[std::min<std::size_t>(c, static_cast<std::size_t>(channels_) - 1)];
    if (!std::all_of(from.begin(), from.begin() + static_cast<std::ptrdiff_t>(frames_),
                     [](float v) { return std::isfinite(v); }))
      return false;
  }
  for (std::size_t c = 0; c < sound.size(); ++c)
    std::copy_n(block_->sound[std::min<std::size_t>(c, static_cast<std::size_t>(channels_) - 1)].begin(), frames_,
                sound[c].begin());
  return true;
}

}  // namespace ochron
