#pragma once

#include <array>
#include <string_view>

namespace ochron {

/// What a thing keeps to when the tempo changes: the clock (it stays where it is) or the grid (it keeps its bars and
/// beats). Clips hold by their start, and what belongs to them goes along: pins, their envelopes, their sync point.
/// Locked ranges keep to the clock: what lies in them stays as it sounds.
enum class Hold { clock, grid };
inline constexpr std::array<std::string_view, 2> kHoldNames{"clock", "grid"};

}  // namespace ochron
