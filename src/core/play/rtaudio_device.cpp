#include <RtAudio.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <filesystem>
#include <optional>

#include "play/device.h"
#include "play/rate_converter.h"

namespace ochron {

struct RtAudioDevice::State {
  std::unique_ptr<RtAudio> audio;
  AudioSource* source = nullptr;
  std::unique_ptr<RateConverter> converter;  ///< when the device does not run at the rate asked for
  std::string label;
  unsigned device = 0;
  std::atomic<std::int64_t> dropOuts{0};
  std::atomic<std::int64_t> blocks{0};
  DeviceRun run;  ///< of the stream that is open

  static int callback(void* out, void*, unsigned int frames, double, RtAudioStreamStatus status, void* self) {
    auto& s = *static_cast<State*>(self);
    if (status & RTAUDIO_OUTPUT_UNDERFLOW) s.dropOuts.fetch_add(1, std::memory_order_relaxed);
    auto* samples = static_cast<float*>(out);
    s.blocks.fetch_add(1, std::memory_order_relaxed);
    s.source->process({samples, frames}, {samples + frames, frames});
    return 0;
  }
};

namespace {

struct Api {
  RtAudio::Api api;
  const char* key;
  const char* label;
};
constexpr std::array kApis{Api{RtAudio::UNIX_JACK, "jack", "JACK"}, Api{RtAudio::LINUX_PULSE, "pulse", "PulseAudio"},
                           Api{RtAudio::LINUX_ALSA, "alsa", "ALSA"}};
/// The rate asked for when the device runs at it, else its own. None known: the one asked for, to be refused by it.
unsigned rateFor(const RtAudio::DeviceInfo& device, unsigned wanted) {
  const auto& rates = device.sampleRates;
  if (rates.empty() || std::find(rates.begin(), rates.end(), wanted) != rates.end()) return wanted;
  return device.preferredSampleRate ? device.preferredSampleRate : rates.back();
}

/// Asked first where asking alone would take long.
bool mayBeThere(const Api& api) {
  std::error_code ec;
  return api.api != RtAudio::LINUX_ALSA || std::filesystem::exists("/dev/snd", ec);  // no sound card
}

/// The number under which RtAudio knows a device now; of an empty name the system's own choice.
std::optional<unsigned> numberOf(RtAudio& audio, const std::string& name) {
  if (name.empty()) return audio.getDefaultOutputDevice();
  for (unsigned i = 0; i < audio.getDeviceCount(); ++i)
    if (audio.getDeviceInfo(i).name == name) return i;
  return std::nullopt;
}

}  // namespace

RtAudioDevice::RtAudioDevice() : state_(std::make_unique<State>()) {}
RtAudioDevice::~RtAudioDevice() { stop(); }

std::vector<SoundOutput> RtAudioDevice::outputs() {
  std::vector<SoundOutput> out;
  for (const auto& api : kApis) {
    if (!mayBeThere(api)) continue;
    try {
      RtAudio audio(api.api);
      audio.showWarnings(false);
      if (audio.getCurrentApi() != api.api) continue;
      for (unsigned i = 0; i < audio.getDeviceCount(); ++i) {
        const auto info = audio.getDeviceInfo(i);
        if (!info.probed || info.outputChannels < 2) continue;
        out.push_back({api.key,
                       info.name,
                       std::string(api.label) + ", " + info.name,
                       info.isDefaultOutput,
                       {info.sampleRates.begin(), info.sampleRates.end()}});
      }
    } catch (const RtAudioError&) {
      continue;  // this sound system does not answer
    }
  }
  return out;
}

Result<std::unique_ptr<RtAudioDevice>> RtAudioDevice::open(const std::string& wanted, const std::string& name) {
  for (const auto& api : kApis) {
    if ((!wanted.empty() && wanted != api.key) || !mayBeThere(api)) continue;
    try {
      std::unique_ptr<RtAudioDevice> device(new RtAudioDevice);
      auto& s = *device->state_;
      s.audio = std::make_unique<RtAudio>(api.api);
      s.audio->showWarnings(false);
      if (s.audio->getCurrentApi() != api.api || s.audio->getDeviceCount() == 0) continue;
      const auto found = numberOf(*s.audio, name);
      if (!found) continue;
      const auto info = s.audio->getDeviceInfo(*found);
      if (info.outputChannels < 2) continue;
      s.device = *found;
      s.label = std::string(api.label) + ", " + info.name;
      return device;
    } catch (const RtAudioError&) {
      continue;  // this kind of device is not to be had here; the next one may be
    }
  }
  if (!name.empty())
    return fail(ErrorKind::notFound, "The sound device \"" + name + "\" is not there. Connect it or choose another.");
  return fail(ErrorKind::notFound,
              "No sound device answers. Connect one or start the sound server; until then the simulated device plays.");
}

std::string RtAudioDevice::name() const { return state_->label; }

Result<void> RtAudioDevice::start(AudioSource& source, const DeviceSettings& settings) {
  stop();
  auto& audio = *state_->audio;
  RtAudio::StreamParameters out;
  out.deviceId = state_->device;
  out.nChannels = 2;
  RtAudio::StreamOptions options;
  options.flags = RTAUDIO_NONINTERLEAVED | RTAUDIO_SCHEDULE_REALTIME;
  options.streamName = "Orthochron";
  auto block = static_cast<unsigned>(settings.blockFrames);
  try {
    const auto rate = rateFor(audio.getDeviceInfo(out.deviceId), static_cast<unsigned>(settings.rate));
    state_->source = &source;
    state_->converter.reset();
    if (static_cast<int>(rate) != settings.rate) {
      state_->converter = std::make_unique<RateConverter>(source, settings.rate, static_cast<int>(rate));
      state_->source = state_->converter.get();
    }
    audio.openStream(&out, nullptr, RTAUDIO_FLOAT32, rate, &block, &State::callback, state_.get(), &options);
    audio.startStream();
    state_->run = {static_cast<int>(rate), static_cast<int>(block), static_cast<int>(audio.getStreamLatency()), 0};
  } catch (const RtAudioError& e) {
    return fail(ErrorKind::ioFailed,
                state_->label + " does not play at " + std::to_string(settings.rate) +
                    " Hz. Choose another device or close the program that holds it.",
                e.getMessage());
  }
  return {};
}

void RtAudioDevice::stop() {
  auto& audio = state_->audio;
  if (!audio || !audio->isStreamOpen()) return;
  try {
    // stopStream() waits until what is queued was played, and RtAudio's JACK part may miss the wake-up and wait for
    // ever.
    if (audio->isStreamRunning()) audio->abortStream();
  } catch (const RtAudioError&) {
    // The server went away; closing is all that is left to do.
  }
  audio->closeStream();
  state_->run = {};
}

DeviceRun RtAudioDevice::runs() const {
  auto run = state_->run;
  run.blocks = state_->blocks.load();
  return run;
}

std::int64_t RtAudioDevice::dropOuts() const { return state_->dropOuts.load(); }

std::vector<SoundOutput> soundOutputs() {
  auto out = RtAudioDevice::outputs();
  out.push_back({SimulatedDevice::kApi, {}, SimulatedDevice().name(), false, {}});
  return out;
}

Result<std::unique_ptr<AudioDevice>> openSound(const SoundChoice& choice) {
  if (choice.api == SimulatedDevice::kApi) return std::make_unique<SimulatedDevice>();
  auto device = RtAudioDevice::open(choice.api, choice.name);
  if (!device) return tl::unexpected(device.error());
  return std::unique_ptr<AudioDevice>(std::move(*device));
}

}  // namespace ochron
