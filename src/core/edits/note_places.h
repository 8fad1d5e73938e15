#pragma once

#include <utility>
#include <vector>

#include "song/song.h"

namespace ochron {

/// Beginnings and ends that are so near to each other, or to a hit, are one place, ms.
inline constexpr double kOnePlaceMs = 30;

/// Where the notes of a set's line begin and end in a take, take time, in order; those that lie at a hit are the hit.
std::vector<Frames> notePlaces(const Song& song, const MicSet& set, TakeId take);

/// The beginning and end of one note (counted in its line) among them.
std::pair<Frames, Frames> placesOf(const Song& song, const MicSet& set, TakeId take, std::size_t note);

}  // namespace ochron
