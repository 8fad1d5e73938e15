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
  /// Stops the old device and starts this one. On failure nothing plays and the error says why.
  Result<void> useDevice(std::unique_ptr<AudioDevice> device);
  AudioDevice* device();
  void setPlan(std::shared_ptr<const PlayPlan> plan);
  /// Hands over a plan that did not fit earlier, and frees old ones. Call some 30 times a second.
  void tick();

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace ochron
