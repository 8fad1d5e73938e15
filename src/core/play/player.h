#pragma once

#include <memory>

#include "play/device.h"
#include "play/engine.h"

namespace ochron {

/// The engine on a device, with a thread that keeps the recordings' pages around the play position in memory.
class Player {
 public:
  explicit Player(int rate);
  ~Player();

  Engine& engine();
  /// Another sample rate, with another engine: nothing plays afterwards, and the device starts again. Fails when it
  /// does not play at that rate; then nothing is heard until another device is used.
  Result<void> setRate(int rate);
  int rate() const;
  /// As the engine's, once the recordings there are in memory; a slow disk is waited for 60 ms.
  void seek(Frames to);
  void audition(const Audition& what);
  /// Stops the old device and starts this one. On failure nothing plays and the error says why.
  Result<void> useDevice(std::unique_ptr<AudioDevice> device, int blockFrames = DeviceSettings{}.blockFrames);
  AudioDevice* device();
  /// Keyboards play into this; what they played is read from it.
  const std::shared_ptr<KeyStream>& keys() const;
  /// The plan's notes come out of this.
  const std::shared_ptr<NoteStream>& notes() const;
  void setPlan(const std::shared_ptr<const PlayPlan>& plan);
  /// Hands over a plan that did not fit earlier, and frees old ones. Call some 30 times a second.
  void tick();

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace ochron
