#pragma once

#include <utility>
#include <vector>

#include "song/song.h"

namespace ochron {

/// Beginnings and ends that are so near to each other, or to a hit, are one place, ms.
inline constexpr double kOnePlaceMs = 30;

/// Where the notes of a set's line begin and end in a take, take time; those that lie at a hit are the hit.
class NotePlaces {
 public:
  NotePlaces(const Song& song, const MicSet& set, TakeId take);
  /// The beginning and end of one note, counted in its line.
  std::pair<Frames, Frames> of(std::size_t note) const { return places_.at(note); }
  /// All of them in order, each once.
  std::vector<Frames> all() const;

 private:
  std::vector<std::pair<Frames, Frames>> places_;
};

}  // namespace ochron
