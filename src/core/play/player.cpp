#include "play/player.h"

#include <algorithm>
#include <atomic>
#include <chrono>
#include <cmath>
#include <condition_variable>
#include <mutex>
#include <optional>
#include <thread>

namespace ochron {
namespace {

constexpr std::int64_t kAheadSeconds = 4;
constexpr double kFirstSeconds = 0.4;                  // of that, before a jump
constexpr std::chrono::milliseconds kLongestWait{60};  // for a slow disk
constexpr std::int64_t kPageBytes = 4096;

/// Reads one sample of every page that will be needed soon, so that the audio thread never waits for the disk.
float warm(const SegmentList& list, FrameRange range) {
  float sum = 0;
  const auto& segments = list.segments;
  auto it = segments.begin() + (std::upper_bound(list.ends.begin(), list.ends.end(), range.start) - list.ends.begin());
  for (; it != segments.end() && it->start < range.end; ++it) {
    const auto first = std::max(range.start, it->start) - it->start;
    const auto last = std::min(range.end, it->end()) - it->start;
    const auto step = kPageBytes / std::abs(it->samples.frameBytes());
    for (auto i = first.value; i < last.value; i += step) sum += it->samples[static_cast<std::size_t>(i)];
  }
  return sum;
}

}  // namespace

struct Player::State {
  explicit State(int r) : rate(r), engine(std::make_unique<Engine>(r)) { connect(); }
  const std::shared_ptr<KeyStream> keys = std::make_shared<KeyStream>();
  const std::shared_ptr<NoteStream> notes = std::make_shared<NoteStream>();
  std::atomic<int> rate;
  std::unique_ptr<Engine> engine;  // replaced only while no device runs and the prefetcher is locked out
  std::unique_ptr<AudioDevice> device;
  int blockFrames = DeviceSettings{}.blockFrames;
  std::shared_ptr<const PlayPlan> waiting;  // did not fit into the engine's queue yet
  std::mutex mutex;
  std::condition_variable wake;
  std::shared_ptr<const PlayPlan> plan;
  std::optional<Frames> jump;  // where the play line goes next
  std::condition_variable warmed;
  bool quit = false;
  std::thread prefetcher;

  /// A new engine to its keys and notes.
  void connect() const {
    engine->listenTo(keys);
    engine->sendNotesTo(notes);
  }

  void prefetch() {
    volatile float sink = 0;
    std::unique_lock lock(mutex);
    while (!quit) {
      const auto current = plan;
      const auto at = jump ? *jump : engine->position();
      const bool jumps = jump.has_value();
      lock.unlock();
      const auto touch = [&](double from, double to) {
        const auto frame = [&](double seconds) { return at + Frames{std::llround(seconds * rate)}; };
        for (const auto* version : {&current->edited, &current->original})
          for (const auto& t : version->tracks)
            for (const auto& c : t.channels) sink = sink + warm(*c, {frame(from), frame(to)});
      };
      if (current) touch(0, kFirstSeconds);
      if (jumps) {
        lock.lock();
        if (jump == at) jump.reset();
        lock.unlock();
        warmed.notify_all();
      }
      if (current) touch(kFirstSeconds, kAheadSeconds);
      lock.lock();
      wake.wait_for(lock, std::chrono::milliseconds(250), [this] { return quit || jump; });
    }
  }

  /// Brings what is played there into memory, or as much of it as there is time for.
  void touch(Frames to) {
    std::unique_lock lock(mutex);
    jump = to;
    wake.notify_all();
    warmed.wait_for(lock, kLongestWait, [&] { return !jump || quit; });
  }
};

Player::Player(int rate) : state_(std::make_unique<State>(rate)) {
  state_->prefetcher = std::thread([this] { state_->prefetch(); });
}

Player::~Player() {
  if (state_->device) state_->device->stop();
  {
    const std::scoped_lock lock(state_->mutex);
    state_->quit = true;
  }
  state_->wake.notify_all();
  state_->prefetcher.join();
}

Engine& Player::engine() { return *state_->engine; }
int Player::rate() const { return state_->rate; }

void Player::seek(Frames to) {
  state_->touch(to);
  state_->engine->seek(to);
}

void Player::audition(const Audition& what) {
  state_->touch(what.range.start);
  state_->engine->audition(what);
}

Result<void> Player::setRate(int rate) {
  if (rate == state_->rate) return {};
  if (state_->device) state_->device->stop();
  {
    const std::scoped_lock lock(state_->mutex);
    state_->rate = rate;
    state_->engine = std::make_unique<Engine>(rate);
    state_->connect();
    state_->plan.reset();
    state_->waiting.reset();
  }
  return state_->device ? useDevice(std::move(state_->device), state_->blockFrames) : Result<void>{};
}
AudioDevice* Player::device() { return state_->device.get(); }
const std::shared_ptr<KeyStream>& Player::keys() const { return state_->keys; }
const std::shared_ptr<NoteStream>& Player::notes() const { return state_->notes; }

Result<void> Player::useDevice(std::unique_ptr<AudioDevice> device, int blockFrames) {
  if (state_->device) state_->device->stop();
  state_->device = std::move(device);
  state_->blockFrames = blockFrames;
  auto ok = state_->device->start(*state_->engine, {state_->rate, blockFrames});
  if (!ok) {
    state_->device.reset();
    return ok;
  }
  const auto run = state_->device->runs();
  if (run.rate > 0) state_->notes->setDelay(1'000'000'000LL * (run.blockFrames + run.latencyFrames) / run.rate);
  return ok;
}

void Player::setPlan(const std::shared_ptr<const PlayPlan>& plan) {
  {
    const std::scoped_lock lock(state_->mutex);
    state_->plan = plan;
    if (!state_->jump) state_->jump = state_->engine->position();
  }
  state_->wake.notify_all();
  state_->waiting = state_->engine->setPlan(plan) ? nullptr : plan;
}

void Player::tick() {
  state_->engine->collect();
  if (state_->waiting && state_->engine->setPlan(state_->waiting)) state_->waiting.reset();
}

}  // namespace ochron
