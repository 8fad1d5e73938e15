#pragma once

#include <array>
#include <string_view>

namespace ochron {

/// How sound between pins is brought to its length.
enum class StretchMethod {
  drums,   ///< attacks are copied to their places, only what rings on between them is stretched
  single,  ///< one voice, period by period where its line is known; else as chords
  chords,  ///< the same for chords and mixes, all mics together
  tape,    ///< read faster or slower: pitch goes along
};
inline constexpr std::array<std::string_view, 4> kStretchMethodNames{"drums", "single", "chords", "tape"};

}  // namespace ochron
