#pragma once

#include <array>
#include <atomic>
#include <cstdint>

#include "base/spsc_ring.h"

namespace ochron {

/// A short MIDI message, and when it is to be sent.
struct MidiEvent {
  std::int64_t due = 0;  ///< ns of std::chrono::steady_clock
  std::array<unsigned char, 3> bytes{};

  bool operator==(const MidiEvent&) const = default;
};

/// Notes from the audio thread to the thread that sends them: neither waits or allocates.
class NoteStream {
 public:
  /// Any thread: whether somebody sends them.
  void want(bool on) noexcept { wanted_.store(on, std::memory_order_relaxed); }
  bool wanted() const noexcept { return wanted_.load(std::memory_order_relaxed); }
  /// Any thread: ns from when a block is computed until it is heard.
  void setDelay(std::int64_t ns) noexcept { delay_.store(ns, std::memory_order_relaxed); }
  std::int64_t delay() const noexcept { return delay_.load(std::memory_order_relaxed); }

  /// Audio thread. What finds no room is lost.
  void put(MidiEvent event) noexcept { events_.tryPush(event); }
  /// The thread that sends: the next one; false when there is none.
  bool next(MidiEvent& event) noexcept { return events_.tryPop(event); }

 private:
  SpscRing<MidiEvent, 1024> events_;
  std::atomic<bool> wanted_{false};
  std::atomic<std::int64_t> delay_{0};
};

}  // namespace ochron
