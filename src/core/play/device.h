#pragma once

#include <array>
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

/// How a device runs since start(): it may have rounded what was asked for.
struct DeviceRun {
  int rate = 0;             ///< Hz; 0: it does not run
  int blockFrames = 0;      ///< at that rate
  int latencyFrames = 0;    ///< from a block's computation until it is heard, as far as the system tells
  std::int64_t blocks = 0;  ///< asked for so far: while it plays this grows
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
  virtual DeviceRun runs() const = 0;
};

/// Runs in real time without hardware. Ships with the program; tests and machines without a sound card use it.
class SimulatedDevice : public AudioDevice {
 public:
  static constexpr const char* kApi = "simulated";  ///< of its output
  SimulatedDevice();
  ~SimulatedDevice() override;
  std::string name() const override { return "simulated sound device"; }
  Result<void> start(AudioSource& source, const DeviceSettings& settings) override;
  void stop() override;
  std::int64_t dropOuts() const override;
  DeviceRun runs() const override;
  /// Blocks whose computation alone took longer than they last, on this thread's own clock: the source's fault on any
  /// machine, however busy. A drop-out without one is the machine's.
  std::int64_t overruns() const;

  /// Writes all that is played to a WAV file (32-bit float), finished by stop(). Set before start().
  void recordTo(const std::filesystem::path& file);
  /// Makes the next block come this much too late.
  void stall(int milliseconds);
  /// From now on it asks for no more blocks, as a device whose plug was pulled.
  void unplug();
  /// Whether stop() could finish the recording.
  const Result<void>& recorded() const;

 private:
  struct State;
  std::unique_ptr<State> state_;
};

/// A place where sound can be heard.
struct SoundOutput {
  std::string api;         ///< "jack", "pulse", "alsa" or SimulatedDevice::kApi
  std::string name;        ///< as the system calls it; empty for the simulated one
  std::string label;       ///< to be read: "PulseAudio, Built-in Audio"
  bool first = false;      ///< the system's own choice among those of its kind
  std::vector<int> rates;  ///< Hz; empty: any

  bool operator==(const SoundOutput&) const = default;
};

inline constexpr std::array kBlockSizes{64, 128, 256, 512, 1'024, 2'048};  // frames

/// What the user chose to hear by.
struct SoundChoice {
  std::string api;   ///< empty: the first kind that has an output
  std::string name;  ///< empty: the system's own choice
  int blockFrames = 256;

  bool operator==(const SoundChoice&) const = default;
  /// Whether it can be heard by an output.
  bool fits(const SoundOutput& output) const {
    return (api.empty() ? output.api != SimulatedDevice::kApi : output.api == api) &&
           (name.empty() || output.name == name);
  }
};

/// A real device by RtAudio: JACK, PulseAudio/PipeWire or ALSA.
class RtAudioDevice : public AudioDevice {
 public:
  /// The output of that kind and name; empty ones as in SoundChoice. Fails when it is not there.
  static Result<std::unique_ptr<RtAudioDevice>> open(const std::string& api, const std::string& name = {});
  /// All outputs of two channels and more that answer now. Asks every sound system, which may take a second.
  static std::vector<SoundOutput> outputs();
  ~RtAudioDevice() override;
  std::string name() const override;
  Result<void> start(AudioSource& source, const DeviceSettings& settings) override;
  void stop() override;
  std::int64_t dropOuts() const override;
  DeviceRun runs() const override;

 private:
  RtAudioDevice();
  struct State;
  std::unique_ptr<State> state_;
};

/// All places where sound can be heard, the simulated one last.
std::vector<SoundOutput> soundOutputs();
/// Opens what was chosen; fails when it is not there.
Result<std::unique_ptr<AudioDevice>> openSound(const SoundChoice& choice);

}  // namespace ochron
