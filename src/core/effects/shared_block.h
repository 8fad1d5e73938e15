#pragma once

#include <linux/futex.h>
#include <sys/syscall.h>
#include <unistd.h>

#include <array>
#include <atomic>
#include <cstdint>
#include <ctime>
#include <type_traits>

namespace ochron {

/// What an effect and the program that plays it share: memory that both have mapped. The program fills `sound`, counts
/// `asked` up and wakes the effect; the effect works on `sound` in place and sets `answered` to what was asked. Whoever
/// waits looks for a while before it sleeps, so that most blocks need no system call.
struct SharedBlock {
  static constexpr std::uint32_t kMostFrames = 1024;
  static constexpr std::size_t kMostControls = 256;

  enum State : std::uint32_t { starting, ready, failed };

  std::atomic<std::uint32_t> state{starting};
  std::atomic<std::uint32_t> asked{0};
  std::atomic<std::uint32_t> answered{0};
  std::atomic<std::uint32_t> effectSleeps{0};
  std::atomic<std::uint32_t> callerSleeps{0};
  std::atomic<std::uint32_t> latency{0};  ///< frames
  std::uint32_t rate = 48'000;
  std::uint32_t channels = 1;  ///< of `sound` that are used, 1 or 2; the effect has that many
  std::uint32_t frames = 0;    ///< of this block
  std::uint32_t live = 0;      ///< 1: it may run on silence while nothing is asked, so that what it tells is of now
  std::array<std::atomic<float>, kMostControls> controls{};  ///< by the number of an input control
  std::array<std::atomic<float>, kMostControls> readings{};  ///< by the number of an output control
  std::array<std::array<float, kMostFrames>, 2> sound{};
  std::array<float, kMostFrames> key{};  ///< what inputs beyond those for `sound` hear
  std::array<char, 512> message{};       ///< why it failed
};
static_assert(std::atomic<std::uint32_t>::is_always_lock_free && std::atomic<float>::is_always_lock_free);
static_assert(std::is_trivially_destructible_v<SharedBlock>);

/// Sleeps while `word` is `value`, for at most so long (nanoseconds). Between processes (futex(2)).
inline void sleepWhile(const std::atomic<std::uint32_t>& word, std::uint32_t value, std::int64_t nanoseconds) {
  timespec t{};
  t.tv_sec = nanoseconds / 1'000'000'000;
  t.tv_nsec = nanoseconds % 1'000'000'000;
  ::syscall(SYS_futex, reinterpret_cast<const std::uint32_t*>(&word), FUTEX_WAIT, value, &t, nullptr, 0);
}
inline void wake(const std::atomic<std::uint32_t>& word) {
  ::syscall(SYS_futex, reinterpret_cast<const std::uint32_t*>(&word), FUTEX_WAKE, 1, nullptr, nullptr, 0);
}

}  // namespace ochron
