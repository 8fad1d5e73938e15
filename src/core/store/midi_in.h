#pragma once

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

#include "base/result.h"
#include "song/timing.h"
#include "time/tempo_map.h"

namespace ochron {

/// The mean placement and loudness of all notes of a file at each line of `grid` within the bar, over all bars of the
/// file's first meter. Fails when it is no MIDI file, counts in frames instead of beats, holds no note, or one more
/// than 2^31 quarter notes after its start.
Result<Groove> readGrooveMidi(const std::filesystem::path& file, const Grid& grid);
/// The same of bytes in memory; `name` is for the groove and the error's sentence.
Result<Groove> grooveFromMidi(std::string_view bytes, const std::string& name, const Grid& grid);

/// The tempo map and the markers of a file.
struct MidiMap {
  struct Marker {
    Ticks at;
    std::string name;
  };
  TempoMap map;
  std::vector<Marker> markers;
};
/// Tempos and meters of a file, its beginning at `origin` on the song's clock. Fails when it is no MIDI file, says no
/// tempo, or one outside kBpmRange.
Result<MidiMap> readMapMidi(const std::filesystem::path& file, int rate, Frames origin);
/// The same of bytes in memory; `name` is for the error's sentence.
Result<MidiMap> mapFromMidi(std::string_view bytes, const std::string& name, int rate, Frames origin);

}  // namespace ochron
