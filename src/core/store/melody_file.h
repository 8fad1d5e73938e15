#pragma once

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

#include "base/result.h"
#include "terms/sung.h"

namespace ochron {

/// A melody that a line can be brought to: notes in order and apart, in seconds from the file's beginning.
///
/// What it may be is told by its content: a MIDI file (drums left out; where a note begins its bend counts), a table
/// of notes as CSV (a heading that names start, end and hertz or midi, perhaps cents; without one those three: start,
/// end, hertz), JAMS with a note_midi or note_hz annotation, or what `orthochron-cli pitch --json` prints. A note that
/// goes on into the next ends there; notes that begin together are a chord and refused. 100 000 notes at most.
Result<std::vector<SungNote>> loadMelody(const std::filesystem::path& file);
/// The same from the file's bytes; `name` is for the error's sentence.
Result<std::vector<SungNote>> melodyFromText(std::string_view text, const std::string& name);

}  // namespace ochron
