#pragma once

#include <array>
#include <string_view>

namespace ochron {

/// How the place before a moved hit was closed.
enum class SeamFill {
  none,          ///< both pieces lie as they were recorded, or the user cut here
  continuation,  ///< pieces moved apart; the earlier one's own sound goes on until the joint
  shortened,     ///< pieces moved together; the earlier one ends sooner
  stretched,     ///< the earlier piece's sustain is stretched over the gap
  faded,         ///< no sound to fill the gap with: it fades out and in
};
inline constexpr std::array<std::string_view, 5> kSeamFillNames{"none", "continuation", "shortened", "stretched",
                                                                "faded"};

}  // namespace ochron
