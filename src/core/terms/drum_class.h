#pragma once

#include <array>
#include <string_view>

namespace ochron {

enum class DrumClass { kick, snare, tom, hat, cymbal, other };
inline constexpr std::array<std::string_view, 6> kDrumClassNames{"kick", "snare", "tom", "hat", "cymbal", "other"};

}  // namespace ochron
