#pragma once

#include <vector>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

/// How a set's line is tuned. Refused while something of the set is locked.
Result<Song> setTuning(const Song& song, SetId set, const TuneSettings& settings);

/// A wish for some notes. A wish for nothing gives them back to the plan. Refused while something of the set is locked.
Result<Song> setNoteWishes(const Song& song, SetId set, const std::vector<std::pair<NoteName, NoteWish>>& wishes);

/// Keeps what was heard of a take's line.
Result<Song> setLine(const Song& song, TakeId take, SetId set, const SungLine& line);

/// Clips sound higher or lower by some cents, on top of the pitch envelopes they have; their length stays. Fails when a
/// pitch would be out of kPitchRange or something there is locked. Clips of a plan leave it.
Result<Song> transposeClips(const Song& song, const ClipIds& clips, double cents);
/// What becomes of the clips' formants; none: as the material says. Clips of a plan leave it.
Result<Song> setFormants(const Song& song, const ClipIds& clips, std::optional<Formants> formants);
/// As transposeClips() with all of a set, under its plan, which has to be carried out again. A single line that was
/// listened for is transposed by its pitch plan, which takes over what its clips were all moved by before.
Result<Song> transposeSet(const Song& song, SetId set, double cents);

}  // namespace ochron
