#pragma once

#include <array>

#include "terms/drum_class.h"

namespace ochron {

/// Keys of the percussion channel (General MIDI Level 1).
inline constexpr int kOpenHatKey = 46;

/// What a key of the percussion channel strikes.
constexpr DrumClass drumOfKey(int key) {
  switch (key) {
    case 35:
    case 36: return DrumClass::kick;
    case 37:
    case 38:
    case 39:
    case 40: return DrumClass::snare;
    case 41:
    case 43:
    case 45:
    case 47:
    case 48:
    case 50: return DrumClass::tom;
    case 42:
    case 44:
    case kOpenHatKey: return DrumClass::hat;
    case 49:
    case 51:
    case 52:
    case 53:
    case 55:
    case 57:
    case 59: return DrumClass::cymbal;
    default: return DrumClass::other;
  }
}

/// The key a drum is written as.
constexpr int keyOfDrum(DrumClass drum) {
  constexpr std::array<int, kDrumClassNames.size()> kKeys{36, 38, 45, 42, 49, 39};
  return kKeys[static_cast<std::size_t>(drum)];
}

}  // namespace ochron
