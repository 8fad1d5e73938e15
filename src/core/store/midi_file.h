#pragma once

#include <filesystem>
#include <map>
#include <string>
#include <vector>

#include "feel/plan_timing.h"
#include "files/outputs.h"
#include "media/pool.h"
#include "song/song.h"

namespace ochron {

/// Standard MIDI files (format 1, 960 pulses to the quarter note).

/// A set's hits as they stand now, as notes on the General MIDI percussion channel, one note number a drum class, with
/// velocities from their strength, and the song's tempo map. The file begins with bar 1, or with the bar of the first
/// hit when that comes earlier. A ramp of tempo is written as a tempo for each sixteenth note.
Result<void> writeHitsMidi(const Song& song, const TimingResult& timing, const std::string& name,
                           const std::filesystem::path& file, Outputs& outputs);

/// The whole song from the bar that `from` lies in: tempo map, meters, markers and sections, and a track for each set:
/// what it plays of performances that are notes, the notes of its line, or its hits on the percussion channel. `timing`
/// by set; `tempo` is written in place of the song's own (playedTempo).
Result<void> writeSongMidi(const Song& song, const std::map<SetId, TimingResult>& timing, const MediaPool& pool,
                           const TempoMap& tempo, Frames from, const std::filesystem::path& file, Outputs& outputs);

/// A note of a pattern.
struct PatternNote {
  Ticks at;  ///< from where the file begins
  Ticks length;
  int key = 60;
  double strength = 1;  ///< 0 to 1
};
/// Notes on the first channel, from a place of the tempo map on.
Result<void> writePatternMidi(const TempoMap& map, Ticks from, const std::vector<PatternNote>& notes,
                              const std::string& name, const std::filesystem::path& file, Outputs& outputs);
/// The strokes that a layer answers, as notes of its drum on the percussion channel with velocities from their
/// strength, and the song's tempo map from bar 1 on.
Result<void> writeLayerMidi(const Song& song, const Layer& layer, const std::filesystem::path& file, Outputs& outputs);

/// A tempo map alone, from bar 1 on.
Result<void> writeTempoMidi(const TempoMap& map, const std::filesystem::path& file, Outputs& outputs);

/// A groove as one bar of notes at 120 BPM, each as early or late and as loud as the groove has it.
Result<void> writeGrooveMidi(const Groove& groove, const std::filesystem::path& file, Outputs& outputs);

/// The notes of a line at 120 BPM, from the recording's beginning on. With `bends` each has its own pitch (a bend range
/// of two semitones) and follows what was sung, at most every 10 ms; without, the nearest key.
Result<void> writeLineMidi(const SungLine& line, const std::string& name, bool bends, const std::filesystem::path& file,
                           Outputs& outputs);

}  // namespace ochron
