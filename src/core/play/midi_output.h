#pragma once

#include <cstdint>
#include <memory>
#include <mutex>
#include <span>
#include <string>
#include <vector>

#include "base/result.h"
#include "play/note_stream.h"

namespace ochron {

/// A port that messages are sent to, from one thread.
class MidiOutput {
 public:
  virtual ~MidiOutput() = default;
  virtual std::string name() const = 0;
  virtual void send(std::span<const unsigned char> message) = 0;
};

/// A port without hardware, which keeps what it was sent. Ships with the program.
class SimulatedMidiOutput : public MidiOutput {
 public:
  static constexpr const char* kName = "simulated MIDI port";
  std::string name() const override { return kName; }
  void send(std::span<const unsigned char> message) override;
  /// What was sent so far, with when it was; any thread.
  std::vector<MidiEvent> sent() const;

 private:
  static constexpr std::size_t kKept = 4096;
  mutable std::mutex mutex_;
  std::vector<MidiEvent> sent_;
};

/// Real ports by RtMidi, of the ALSA sequencer.
class RtMidiOutput : public MidiOutput {
 public:
  /// The names of the ports there are; none when the system has no MIDI.
  static std::vector<std::string> ports();
  /// Fails with a sentence when there is none of this name, or when it is taken.
  static Result<std::unique_ptr<MidiOutput>> open(const std::string& port);
  ~RtMidiOutput() override;
  std::string name() const override;
  void send(std::span<const unsigned char> message) override;

 private:
  RtMidiOutput();
  struct State;
  std::unique_ptr<State> state_;
};

/// Sends the notes of a stream when they are due, by a thread of its own. At its end every note that sounds is ended.
class MidiSender {
 public:
  MidiSender(std::shared_ptr<NoteStream> notes, std::shared_ptr<MidiOutput> output);
  ~MidiSender();
  MidiSender(const MidiSender&) = delete;
  MidiSender& operator=(const MidiSender&) = delete;
  const MidiOutput& output() const;

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace ochron
