#include "play/midi_input.h"

#include "play/midi_system.h"

namespace ochron {
namespace {

std::unique_ptr<RtMidiIn> makeInput() {
  auto input = std::make_unique<RtMidiIn>(RtMidi::LINUX_ALSA, kMidiClient);
  input->setErrorCallback(quietMidi);
  return input;
}

}  // namespace

std::optional<KeyPress> keyPressOf(std::span<const unsigned char> message) {
  constexpr int kNoteOn = 0x90;
  if (message.size() != 3 || (message[0] & 0xF0) != kNoteOn || message[1] > 127 || message[2] > 127) return {};
  if (message[2] == 0) return {};  // stands for a key let go
  return KeyPress{message[1], message[2]};
}

struct RtMidiInput::State {
  std::string port;
  std::shared_ptr<KeyStream> keys;
  std::unique_ptr<RtMidiIn> input;  // goes first: its thread ends with it
};

RtMidiInput::RtMidiInput() : state_(std::make_unique<State>()) {}
RtMidiInput::~RtMidiInput() = default;

std::vector<std::string> RtMidiInput::ports() { return midiPorts(makeInput); }

Result<std::unique_ptr<MidiInput>> RtMidiInput::open(const std::string& port) {
  auto system = openMidiPort(makeInput, port, "keyboard");
  if (!system) return tl::unexpected(system.error());
  std::unique_ptr<RtMidiInput> opened(new RtMidiInput);
  opened->state_->input = std::move(*system);
  opened->state_->port = port;
  return std::unique_ptr<MidiInput>(std::move(opened));
}

std::string RtMidiInput::name() const { return state_->port; }

void RtMidiInput::playInto(std::shared_ptr<KeyStream> keys) {
  state_->keys = std::move(keys);
  state_->input->setCallback(
      [](double, std::vector<unsigned char>* message, void* to) {
        if (const auto pressed = message ? keyPressOf(*message) : std::nullopt)
          static_cast<State*>(to)->keys->press(*pressed);
      },
      state_.get());
}

}  // namespace ochron
