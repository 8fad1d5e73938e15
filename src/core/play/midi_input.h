#pragma once

#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "base/result.h"
#include "play/key_stream.h"

namespace ochron {

/// What a MIDI message says, when it is a key pressed on any channel (MIDI 1.0: status 9n, velocity above 0).
std::optional<KeyPress> keyPressOf(std::span<const unsigned char> message);

/// A keyboard that is listened to, as long as it lives.
class MidiInput {
 public:
  virtual ~MidiInput() = default;
  virtual std::string name() const = 0;
  /// From now on its keys go there, by a thread of its own. Once.
  virtual void playInto(std::shared_ptr<KeyStream> keys) = 0;
};

/// A keyboard without hardware. Ships with the program: the computer's keys play it, and tests do.
class SimulatedKeyboard : public MidiInput {
 public:
  static constexpr const char* kName = "simulated keyboard";
  std::string name() const override { return kName; }
  void playInto(std::shared_ptr<KeyStream> keys) override { keys_ = std::move(keys); }
  /// By any one thread. False when too many wait to be taken, or nobody listens.
  bool press(int key, int velocity = 96) { return keys_ && keys_->press({key, velocity}); }

 private:
  std::shared_ptr<KeyStream> keys_;
};

/// Real keyboards by RtMidi, of the ALSA sequencer.
class RtMidiInput : public MidiInput {
 public:
  /// The names of the keyboards there are; none when the system has no MIDI.
  static std::vector<std::string> ports();
  /// Fails with a sentence when there is none of this name, or when it is taken.
  static Result<std::unique_ptr<MidiInput>> open(const std::string& port);
  ~RtMidiInput() override;
  std::string name() const override;
  void playInto(std::shared_ptr<KeyStream> keys) override;

 private:
  RtMidiInput();
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace ochron
