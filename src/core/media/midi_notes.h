#pragma once

#include <complex>
#include <cstdint>
#include <filesystem>
#include <memory>
#include <span>
#include <vector>

#include "base/result.h"
#include "base/units.h"
#include "media/midi_reader.h"

namespace ochron {

/// A note of a performance that was recorded as MIDI.
struct PlayedNote {
  Frames at;
  Frames end;
  int key = 60;       ///< 0 to 127
  int velocity = 0;   ///< 1 to 127
  bool drum = false;  ///< of the percussion channel: the key is a drum of General MIDI

  bool operator==(const PlayedNote&) const = default;
};
using PlayedNotes = std::vector<PlayedNote>;

/// What of many notes is asked for again and again.
struct NoteExtent {
  int lowest = 60;
  int highest = 60;
  Frames longest;
};
NoteExtent extentOf(const PlayedNotes& notes);

/// In order of their beginnings. Fails when there is none, or when it lasts more than three hours.
Result<PlayedNotes> playedNotes(const MidiFile& file, int rate, const std::string& head);
Result<PlayedNotes> readPlayedNotes(const std::filesystem::path& file, int rate);

/// Notes made heard by plain tones that die away, and plain drums: one channel, as it runs. Every note begins on its
/// frame, to the sample. The same notes give the same sound.
class PlainTones {
 public:
  static constexpr int kRate = 48'000;
  explicit PlainTones(PlayedNotes notes);  ///< at kRate
  /// All of it, with what rings after the last note.
  Frames length() const { return length_; }
  /// Frames that were filled; fewer only at the end.
  std::int64_t read(std::span<float> out);

 private:
  /// One of what a tone is made of: a turning pointer that gets shorter.
  struct Partial {
    std::complex<double> now;
    std::complex<double> turn;  ///< from frame to frame
  };
  struct Voice {
    PlayedNote note;
    std::uint32_t noise = 1;
    std::vector<Partial> partials;  ///< of a tone
    double held = 1;                ///< what letting go leaves
  };
  static Voice begin(const PlayedNote& note, std::size_t index);
  static void add(Voice& voice, Frames first, std::span<float> out);

  PlayedNotes notes_;
  Frames length_;
  Frames at_;
  std::size_t next_ = 0;
  std::vector<Voice> sounding_;
};

}  // namespace ochron
