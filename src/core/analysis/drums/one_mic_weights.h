#pragma once

#include "analysis/drums/one_mic_drums.h"

// As bench/one_mic_fit.py finds them (to some hundredths) in what bench/one_mic_study printed of the overheads and
// rooms of 12 takes of 5 kits with truth, each mic alone. Held-out kits, overhead alone: kicks 0.966 found, 0.868 of
// those named right; snares 0.897, 0.818. One loop of one-shots that had no part in it: all of its 20 kicks and 8
// snares.
namespace ochron {

inline constexpr double kKickOffset = -0.128;
inline constexpr OneMicClues kKickWeights{
    {0.209, 0.047, -0.047, -0.011, 0.07, -0.019, 0.035}, {0.063, -0.062, -0.069, -0.054, -0.06, -0.054, 0.02}, {}};
inline constexpr double kSnareOffset = 2.083;
inline constexpr OneMicClues kSnareWeights{
    {-0.141, 0.039, 0.123, 0.018, -0.083, 0.054, 0.007}, {0.021, 0.043, 0.103, 0.037, -0.028, 0.024, -0.006}, {}};
/// Of toms against snares alone; held-out kits: 0.90 of the toms told, 0.09 of the snares lost where this is above 0.
inline constexpr double kTomOffset = -3.51;
inline constexpr OneMicClues kTomWeights{{0.011, 0.013, 0.013, 0.055, 0.071, -0.027, -0.079},
                                         {0.027, -0.03, -0.027, 0.037, 0.021, -0.06, -0.135},
                                         {0.052, 0.035, 0.02, 0.044, -0.017, -0.027, -0.046}};

}  // namespace ochron
