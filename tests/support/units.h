// Short ways to write numbers with units in tests.
#pragma once

#include <cmath>
#include <cstdint>

#include "base/units.h"

namespace ochron::test {

inline constexpr int kRate = 48'000;  ///< frames a second of what tests make up

constexpr Frames f(std::int64_t n) { return Frames{n}; }

/// A place in seconds, at kRate.
inline Frames atSeconds(double s) { return Frames{std::llround(s * kRate)}; }

}  // namespace ochron::test
