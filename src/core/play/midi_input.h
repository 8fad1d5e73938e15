#pragma once

#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "base/result.h"
#include "base/spsc_ring.h"

namespace ochron {

/// A key of a MIDI keyboard that was pressed.
struct KeyPress {
  int key = 60;       ///< 0 to 127, 60 is middle C
  int velocity = 96;  ///< 1 to 127

  bool operator==(const KeyPress&) const = default;
};

/// What a MIDI message says, when it is a key pressed on any channel (MIDI 1.0: status 9n, velocity above 0).
std::optional<KeyPress> keyPressOf(std::span<const unsigned char> message);

/// A keyboard that is listened to. Used by one thread.
class MidiInput {
 public:
  virtual ~MidiInput() = default;
  virtual std::string name() const = 0;
  /// The next key that was pressed since the last call; none when nothing waits.
  virtual std::optional<KeyPress> next() = 0;
};

/// A keyboard without hardware. Ships with the program: the computer's keys play it, and tests do. Keys may be pressed
/// by another thread than the one that listens.
class SimulatedKeyboard : public MidiInput {
 public:
  static constexpr const char* kName = "simulated keyboard";
  std::string name() const override { return kName; }
  std::optional<KeyPress> next() override;
  /// False when too many wait to be taken.
  bool press(int key, int velocity = 96);

 private:
  SpscRing<KeyPress, 128> waiting_;
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
  std::optional<KeyPress> next() override;

 private:
  RtMidiInput();
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace ochron
