#include <RtAudio.h>

#include <algorithm>
#include <array>
#include <atomic>

#include "play/device.h"
#include "play/rate_converter.h"

namespace ochron {

struct RtAudioDevice::State {
  std::unique_ptr<RtAudio> audio;
  AudioSource* source = nullptr;
  std::unique_ptr<RateConverter> converter;  ///< when the device does not run at the rate asked for
  std::string label;
  std::atomic<std::int64_t> dropOuts{0};

  static int callback(void* out, void*, unsigned int frames, double, RtAudioStreamStatus status, void* self) {
    auto& s = *static_cast<State*>(self);
    if (status & RTAUDIO_OUTPUT_UNDERFLOW) s.dropOuts.fetch_add(1, std::memory_order_relaxed);
    auto* samples = static_cast<float*>(out);
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

}  // namespace

RtAudioDevice::RtAudioDevice() : state_(std::make_unique<State>()) {}
RtAudioDevice::~RtAudioDevice() { stop(); }

Result<std::unique_ptr<RtAudioDevice>> RtAudioDevice::open(const std::string& wanted) {
  for (const auto& api : kApis) {
    if (!wanted.empty() && wanted != api.key) continue;
    std::error_code ec;
    if (api.api == RtAudio::LINUX_ALSA && !std::filesystem::exists("/dev/snd", ec)) continue;  // no sound card
    try {
      std::unique_ptr<RtAudioDevice> device(new RtAudioDevice);
      device->state_->audio = std::make_unique<RtAudio>(api.api);
      auto& audio = *device->state_->audio;
      audio.showWarnings(false);
      if (audio.getCurrentApi() != api.api || audio.getDeviceCount() == 0) continue;
      const auto info = audio.getDeviceInfo(audio.getDefaultOutputDevice());
      if (info.outputChannels < 2) continue;
      device->state_->label = std::string(api.label) + ", " + info.name;
      return device;
    } catch (const RtAudioError&) {
      continue;  // this kind of device is not to be had here; the next one may be
    }
  }
  return fail(ErrorKind::notFound,
              "No sound device answers. Connect one or start the sound server; until then the simulated device plays.");
}

std::string RtAudioDevice::name() const { return state_->label; }

Result<void> RtAudioDevice::start(AudioSource& source, const DeviceSettings& settings) {
  stop();
  auto& audio = *state_->audio;
  RtAudio::StreamParameters out;
  out.deviceId = audio.getDefaultOutputDevice();
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
}

std::int64_t RtAudioDevice::dropOuts() const { return state_->dropOuts.load(); }

}  // namespace ochron
