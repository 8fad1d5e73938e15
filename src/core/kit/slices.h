#pragma once

#include <optional>
#include <string>
#include <vector>

#include "song/song.h"

namespace ochron {

/// A piece of a take that can be played by itself.
struct Slice {
  FrameRange range;  ///< take time
  DrumClass drum = DrumClass::other;
  double strength = 1;
  HitId hit;  ///< it begins with; none of a grid line

  bool operator==(const Slice&) const = default;
};

/// From every hit that counts to the next one, and from the last to the end. What lies before the first is no slice.
std::vector<Slice> slicesAtHits(const Song& song, TakeId take, SetId set, FrameRange within);
/// From every frame of a rising list to the next one within a range, named by the strongest hit that begins there (10
/// ms either way).
std::vector<Slice> slicesAt(const Song& song, TakeId take, SetId set, FrameRange within,
                            const std::vector<Frames>& places);

/// Slices are played by keys from the second C of a keyboard on; of more than 92 from the lowest key on. From
/// kSliceKeys on there is no key.
inline constexpr int kSliceKeys = 128;
int keyOfSlice(std::size_t slice, std::size_t count);

/// What a slice is called: `pattern` with {input}, {n}, {class}, {bpm} and {key} filled in.
struct SliceLabel {
  std::string input;
  std::size_t number = 0;  ///< from 0
  std::size_t count = 0;
  DrumClass drum = DrumClass::other;
  double bpm = 120;
};
std::string sliceName(std::string pattern, const SliceLabel& label);

}  // namespace ochron
