#pragma once

#include <gtest/gtest.h>

#include <cmath>
#include <span>

#include "analysis/pitch/pitch.h"
#include "support/units.h"
#include "support/unwatched.h"

namespace ochron::test {

inline double centsOff(double hertz, double truth) { return std::abs(centsOf(hertz) - centsOf(truth)); }

/// The pitch of a line, by nobody watched.
inline PitchTrack heardPitch(std::span<const float> samples, int rate = kRate, const PitchSettings& settings = {}) {
  auto track = pitchOf(samples, rate, settings, unwatched());
  EXPECT_TRUE(track);
  return track ? *std::move(track) : PitchTrack{};
}

}  // namespace ochron::test
