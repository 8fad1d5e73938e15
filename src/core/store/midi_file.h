#pragma once

#include <filesystem>

#include "feel/plan.h"
#include "song/song.h"

namespace ochron {

/// Standard MIDI files (format 1, 960 pulses to the quarter note).

/// A set's hits as they stand now, as notes on the General MIDI percussion channel, one note number a drum class, with
/// velocities from their strength, and the song's tempo map. The file begins with bar 1, or with the bar of the first
/// hit when that comes earlier. A ramp of tempo is written as a tempo for each sixteenth note.
Result<void> writeHitsMidi(const Song& song, const TimingResult& timing, const std::string& name,
                           const std::filesystem::path& file);

/// A groove as one bar of notes at 120 BPM, each as early or late and as loud as the groove has it.
Result<void> writeGrooveMidi(const Groove& groove, const std::filesystem::path& file);

/// The mean placement and loudness of all notes of a file at each line of `grid` within the bar, over all bars of the
/// file's first meter. Fails when it is no MIDI file, counts in frames instead of beats, or holds no note.
Result<Groove> readGrooveMidi(const std::filesystem::path& file, const Grid& grid);

}  // namespace ochron
