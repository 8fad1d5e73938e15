#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/result.h"

namespace ochron {

/// What a Standard MIDI File (1.0) holds, in pulses; every list sorted by place.
struct MidiFile {
  static constexpr int kPercussion = 9;  ///< channel
  struct Note {
    std::int64_t at = 0;
    std::int64_t end = 0;
    int key = 60;      ///< 0 to 127
    int velocity = 0;  ///< 1 to 127
    int channel = 0;   ///< 0 to 15
    double bend = 0;   ///< semitones that its channel is bent by where it begins
  };
  struct Tempo {
    std::int64_t at = 0;
    double bpm = 120;    ///< quarter notes a minute
    double seconds = 0;  ///< of its place, from the file's beginning
  };
  struct MeterChange {
    std::int64_t at = 0;
    int beats = 4;
    int unit = 4;
  };
  struct Marker {
    std::int64_t at = 0;
    std::string text;
  };
  int division = 480;  ///< pulses to the quarter note
  std::int64_t length = 0;
  std::vector<Note> notes;
  std::vector<Tempo> tempos;
  std::vector<MeterChange> meters;
  std::vector<Marker> markers;

  /// From the file's beginning, by its tempos; 120 until the first.
  double seconds(std::int64_t pulse) const;
};

/// Chunk by chunk, every length held against what is there. Fails when it is no MIDI file, counts in film frames, holds
/// several songs, is damaged or goes on for more than 2^31 pulses; `head` begins the sentence: "x.mid cannot be
/// read".
Result<MidiFile> readMidi(std::string_view bytes, const std::string& head);
/// The same of a file of 16 MiB at most.
Result<MidiFile> readMidiFile(const std::filesystem::path& file, const std::string& head);
/// Whether a file begins as one.
bool isMidiFile(const std::filesystem::path& file);

}  // namespace ochron
