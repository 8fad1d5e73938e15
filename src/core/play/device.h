#pragma once

#include <cstdint>
#include <filesystem>
#include <memory>
#include <string>
#include <vector>

#include "base/result.h"
#include "play/engine.h"

namespace ochron {

struct DeviceSettings {
  int rate = 48'000;
  int blockFrames = 256;
};

/// Something that plays sound. start() begins calling the source; stop() (and the destructor) return when it no longer
/// does.
class AudioDevice {
 public:
  virtual ~AudioDevice() = default;
  virtual std::string name() const = 0;
  virtual Result<void> start(AudioSource& source, const DeviceSettings& settings) = 0;
  virtual void stop() = 0;
  /// Times the sound was interrupted because a block came too late.
  virtual std::int64_t dropOuts() const = 0;
};

/// Runs in real time without hardware. Ships with the program; tests and machines without a sound card use it.
class SimulatedDevice : public AudioDevice {
 public:
  SimulatedDevice();
  ~SimulatedDevice() override;
  std::string name() const override { return "simulated sound device"; }
  Result<void> start(AudioSource& source, const DeviceSettings& settings) override;
  void stop() override;
  std::int64_t dropOuts() const override;
  /// Blocks whose computation alone took longer than they last, on this thread's own clock: the source's fault on any
  /// machine, however busy. A drop-out without one is the machine's.
  std::int64_t overruns() const;

  /// Writes all that is played to a WAV file (32-bit float), finished by stop(). Set before start().
  void recordTo(const std::filesystem::path& file);
  /// Makes the next block come this much too late.
  void stall(int milliseconds);
  /// Whether stop() could finish the recording.
  const Result<void>& recorded() const;

 private:
  struct State;
  std::unique_ptr<State> state_;
};

/// A real device by RtAudio: JACK, PulseAudio/PipeWire or ALSA.
class RtAudioDevice : public AudioDevice {
 public:
  /// `api` empty: the first that has an output; else "jack", "pulse" or "alsa".
  static Result<std::unique_ptr<RtAudioDevice>> open(const std::string& api);
  ~RtAudioDevice() override;
  std::string name() const override;
  Result<void> start(AudioSource& source, const DeviceSettings& settings) override;
  void stop() override;
  std::int64_t dropOuts() const override;

 private:
  RtAudioDevice();
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace ochron
