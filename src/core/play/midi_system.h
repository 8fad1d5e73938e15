#pragma once

#include <RtMidi.h>

#include <filesystem>
#include <string>
#include <utility>
#include <vector>

#include "base/result.h"

namespace ochron {

// What inputs and outputs share of the library.

inline constexpr const char* kMidiClient = "Orthochron";

/// The library writes to standard error when a system has no MIDI; nobody reads that.
inline void quietMidi(RtMidiError::Type, const std::string&, void*) {}

inline bool hasMidiSystem() {
  std::error_code ec;
  return std::filesystem::exists("/dev/snd/seq", ec);
}

/// Names of the ports that others have there; none without MIDI.
template <class Make>
std::vector<std::string> midiPorts(const Make& make) {
  std::vector<std::string> out;
  if (!hasMidiSystem()) return out;
  try {
    const auto system = make();
    for (unsigned i = 0; i < system->getPortCount(); ++i)
      if (auto name = system->getPortName(i); name.find(kMidiClient) == std::string::npos)
        out.push_back(std::move(name));
  } catch (const RtMidiError&) { out.clear(); }
  return out;
}

/// One with the port of a name open. `what`: "keyboard", "MIDI port", for the sentence where that fails.
template <class Make>
auto openMidiPort(const Make& make, const std::string& port, const std::string& what) -> Result<decltype(make())> {
  if (!hasMidiSystem()) return fail(ErrorKind::notFound, "This machine has no MIDI (no ALSA sequencer).");
  try {
    auto system = make();
    for (unsigned i = 0; i < system->getPortCount(); ++i) {
      if (system->getPortName(i) != port) continue;
      system->openPort(i);
      if (system->isPortOpen()) return system;
    }
  } catch (const RtMidiError& e) {
    return fail(ErrorKind::ioFailed, "The " + what + " \"" + port + "\" cannot be used: " + e.getMessage() + ".");
  }
  return fail(ErrorKind::notFound,
              "The " + what + " \"" + port + "\" is not there. Connect it, or choose another one.");
}

}  // namespace ochron
