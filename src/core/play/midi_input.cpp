#include "play/midi_input.h"

#include <RtMidi.h>

#include <filesystem>

namespace ochron {
namespace {

constexpr const char* kClient = "Orthochron";

/// The library writes to standard error when a system has no MIDI; nobody reads that.
void quiet(RtMidiError::Type, const std::string&, void*) {}

bool hasMidi() {
  std::error_code ec;
  return std::filesystem::exists("/dev/snd/seq", ec);
}

std::unique_ptr<RtMidiIn> makeInput() {
  auto input = std::make_unique<RtMidiIn>(RtMidi::LINUX_ALSA, kClient);
  input->setErrorCallback(quiet);
  return input;
}

}  // namespace

std::optional<KeyPress> keyPressOf(std::span<const unsigned char> message) {
  constexpr int kNoteOn = 0x90;
  if (message.size() != 3 || (message[0] & 0xF0) != kNoteOn || message[1] > 127 || message[2] > 127) return {};
  if (message[2] == 0) return {};  // stands for a key let go
  return KeyPress{message[1], message[2]};
}

std::optional<KeyPress> SimulatedKeyboard::next() {
  KeyPress pressed;
  if (!waiting_.tryPop(pressed)) return {};
  return pressed;
}

bool SimulatedKeyboard::press(int key, int velocity) {
  KeyPress pressed{key, velocity};
  return waiting_.tryPush(pressed);
}

struct RtMidiInput::State {
  std::unique_ptr<RtMidiIn> input;
  std::string port;
};

RtMidiInput::RtMidiInput() : state_(std::make_unique<State>()) {}
RtMidiInput::~RtMidiInput() = default;

std::vector<std::string> RtMidiInput::ports() {
  std::vector<std::string> out;
  if (!hasMidi()) return out;
  try {
    auto input = makeInput();
    for (unsigned i = 0; i < input->getPortCount(); ++i)
      if (auto name = input->getPortName(i); name.find(kClient) == std::string::npos) out.push_back(std::move(name));
  } catch (const RtMidiError&) { out.clear(); }
  return out;
}

Result<std::unique_ptr<MidiInput>> RtMidiInput::open(const std::string& port) {
  if (!hasMidi()) return fail(ErrorKind::notFound, "This machine has no MIDI (no ALSA sequencer).");
  try {
    std::unique_ptr<RtMidiInput> opened(new RtMidiInput);
    opened->state_->input = makeInput();
    auto& input = *opened->state_->input;
    for (unsigned i = 0; i < input.getPortCount(); ++i) {
      if (input.getPortName(i) != port) continue;
      input.openPort(i);
      if (!input.isPortOpen()) break;
      opened->state_->port = port;
      return std::unique_ptr<MidiInput>(std::move(opened));
    }
  } catch (const RtMidiError& e) {
    return fail(ErrorKind::ioFailed, "The keyboard \"" + port + "\" cannot be used: " + e.getMessage() + ".");
  }
  return fail(ErrorKind::notFound, "The keyboard \"" + port + "\" is not there. Connect it, or choose another one.");
}

std::string RtMidiInput::name() const { return state_->port; }

std::optional<KeyPress> RtMidiInput::next() {
  std::vector<unsigned char> message;
  for (;;) {
    state_->input->getMessage(&message);
    if (message.empty()) return {};
    if (const auto pressed = keyPressOf(message)) return pressed;
  }
}

}  // namespace ochron
