#pragma once

#include <atomic>

#include "base/spsc_ring.h"
#include "base/units.h"

namespace ochron {

/// A key of a MIDI keyboard that was pressed.
struct KeyPress {
  int key = 60;       ///< 0 to 127, 60 is middle C
  int velocity = 96;  ///< 1 to 127

  bool operator==(const KeyPress&) const = default;
};

/// Keys from a keyboard's port straight to the audio thread, and from there to who controls: no other work on any
/// thread stands between a finger and its sound. Three threads, one for each side; none waits or allocates.
class KeyStream {
 public:
  /// A key as the audio thread met it, at the beginning of a block.
  struct Heard {
    KeyPress key;
    Frames at;             ///< the song's place
    bool playing = false;  ///< the song was
    bool struck = false;   ///< it struck a sound; else it is for who controls alone
  };

  /// The port's thread. False when too many wait.
  bool press(KeyPress key) noexcept { return pressed_.tryPush(key); }

  /// Controlling thread: keys from this one up strike the sounds of the engine's bank, in their order; kNoKeys: none.
  static constexpr int kNoKeys = -1;
  void strikeFrom(int key) noexcept { first_.store(key, std::memory_order_relaxed); }
  /// Controlling thread: the next key that was met; false when there is none.
  bool next(Heard& heard) noexcept { return heard_.tryPop(heard); }
  /// While no audio thread runs: keys are met by the controlling thread.
  void meetWithoutSound() noexcept {
    KeyPress key;
    while (pressed_.tryPop(key)) tell({key, {}, false, false});
  }

  /// Audio thread.
  bool take(KeyPress& key) noexcept { return pressed_.tryPop(key); }
  int strikesFrom() const noexcept { return first_.load(std::memory_order_relaxed); }
  void tell(Heard heard) noexcept { heard_.tryPush(heard); }

 private:
  SpscRing<KeyPress, 128> pressed_;
  SpscRing<Heard, 256> heard_;
  std::atomic<int> first_{kNoKeys};
};

}  // namespace ochron
