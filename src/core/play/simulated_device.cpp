#include <pthread.h>
#include <sched.h>

#include <atomic>
#include <chrono>
#include <ctime>
#include <optional>
#include <thread>

#include "media/audio_file.h"
#include "play/device.h"

namespace ochron {
namespace {

constexpr int kBuffered = 3;  // blocks, as on a sound card: one is late when those have run out

/// As a sound server's thread would have it. Where the user may not, the thread runs like any other.
void askForRealTime() {
  sched_param priority{};
  priority.sched_priority = sched_get_priority_min(SCHED_RR) + 10;
  pthread_setschedparam(pthread_self(), SCHED_RR, &priority);
}

/// What this thread itself has computed so far, whatever else the machine did meanwhile.
std::chrono::nanoseconds worked() {
  timespec t{};
  clock_gettime(CLOCK_THREAD_CPUTIME_ID, &t);
  return std::chrono::seconds(t.tv_sec) + std::chrono::nanoseconds(t.tv_nsec);
}

}  // namespace

struct SimulatedDevice::State {
  std::thread thread;
  std::atomic<bool> running{false};
  std::atomic<int> stallMs{0};
  std::atomic<std::int64_t> dropOuts{0};
  std::atomic<std::int64_t> overruns{0};
  std::atomic<std::int64_t> blocks{0};
  std::atomic<bool> unplugged{false};
  DeviceSettings settings;
  std::filesystem::path recordTo;
  std::optional<AudioFileWriter> writer;
  Result<void> recorded;

  void run(AudioSource& source) {
    using Clock = std::chrono::steady_clock;
    const auto n = static_cast<std::size_t>(settings.blockFrames);
    std::vector<float> left(n);
    std::vector<float> right(n);
    std::vector<float> both(2 * n);
    const auto blockTime =
        std::chrono::nanoseconds(static_cast<std::int64_t>(1e9 * settings.blockFrames / settings.rate));
    askForRealTime();
    auto due = Clock::now();
    const auto buffered = blockTime * kBuffered;
    while (running.load(std::memory_order_relaxed)) {
      if (unplugged.load(std::memory_order_relaxed)) {
        std::this_thread::sleep_for(blockTime);
        continue;
      }
      const auto before = worked();
      source.process(left, right);
      if (worked() - before > blockTime) overruns.fetch_add(1);
      blocks.fetch_add(1);
      if (const int ms = stallMs.exchange(0); ms > 0) std::this_thread::sleep_for(std::chrono::milliseconds(ms));
      if (writer && recorded) {
        for (std::size_t i = 0; i < n; ++i) {
          both[2 * i] = left[i];
          both[2 * i + 1] = right[i];
        }
        recorded = writer->write(both);
      }
      due += blockTime;
      const auto now = Clock::now();
      if (now > due + buffered) {
        dropOuts.fetch_add(1);
        due = now;
      }
      std::this_thread::sleep_until(due);
    }
  }
};

SimulatedDevice::SimulatedDevice() : state_(std::make_unique<State>()) {}
SimulatedDevice::~SimulatedDevice() { stop(); }

Result<void> SimulatedDevice::start(AudioSource& source, const DeviceSettings& settings) {
  stop();
  if (!state_->recordTo.empty()) {
    auto writer = AudioFileWriter::create(state_->recordTo, {FileFormat::wav, SampleFormat::float32, settings.rate, 2});
    if (!writer) return tl::unexpected(writer.error());
    state_->writer.emplace(std::move(*writer));
    state_->recorded = {};
  }
  state_->settings = settings;
  state_->running = true;
  state_->thread = std::thread([this, &source] { state_->run(source); });
  return {};
}

void SimulatedDevice::stop() {
  state_->running = false;
  if (state_->thread.joinable()) state_->thread.join();
  if (state_->writer && state_->recorded) state_->recorded = state_->writer->finish();
  state_->writer.reset();
}

std::int64_t SimulatedDevice::dropOuts() const { return state_->dropOuts.load(); }
std::int64_t SimulatedDevice::overruns() const { return state_->overruns.load(); }
void SimulatedDevice::unplug() { state_->unplugged = true; }

DeviceRun SimulatedDevice::runs() const {
  if (!state_->running) return {};
  const auto& s = state_->settings;
  return {s.rate, s.blockFrames, kBuffered * s.blockFrames, state_->blocks};
}

void SimulatedDevice::recordTo(const std::filesystem::path& file) { state_->recordTo = file; }
void SimulatedDevice::stall(int milliseconds) { state_->stallMs = milliseconds; }
const Result<void>& SimulatedDevice::recorded() const { return state_->recorded; }

}  // namespace ochron
