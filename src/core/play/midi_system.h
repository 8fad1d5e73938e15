#pragma once

#include <RtMidi.h>

#include <filesystem>
#include <string>

namespace ochron {

// What inputs and outputs share of the library.

inline constexpr const char* kMidiClient = "Orthochron";

/// The library writes to standard error when a system has no MIDI; nobody reads that.
inline void quietMidi(RtMidiError::Type, const std::string&, void*) {}

inline bool hasMidiSystem() {
  std::error_code ec;
  return std::filesystem::exists("/dev/snd/seq", ec);
}

}  // namespace ochron
