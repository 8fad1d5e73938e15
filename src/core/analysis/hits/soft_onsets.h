#pragma once

#include <cstdint>
#include <span>
#include <vector>

namespace ochron {

/// A place where new sound sets in, known to some 10 ms.
struct SoftOnset {
  std::int64_t at = 0;  ///< frame
  double fresh = 0;     ///< share of the sound after it that was not there before, 0 to 1
};

/// Where sound is compared: windows on either side of a place. Chosen on lines of bass, guitars and bowed strings with
/// truth (docs/figures.md).
struct FreshSettings {
  double windowSeconds;
  double gapSeconds;    ///< from the place to the middle of the nearest window on either side
  double spanSeconds;   ///< over which windows are added up
  double apartSeconds;  ///< an onset is the highest within this on either side
  double counts;        ///< share of new sound that counts at the default sensitivity
  double beatsBelow;  ///< Hz: there two notes are one that swells and falls, so what sounded shortly before is not new
};
inline constexpr FreshSettings kBowed{0.07, 0.02, 0.06, 0.06, 0.08, 0};        ///< slow attacks, vibrato, legato
inline constexpr FreshSettings kStruck{0.04, 0.025, 0.005, 0.035, 0.07, 120};  ///< plucked and hammered strings

/// Onsets of instruments that sound on: places where most of what sounds after did not sound
/// before, in bands of a quarter tone, each against itself and its neighbours before (as SuperFlux does against
/// vibrato, Boeck & Widmer 2013). A tone that goes on brings nothing new, whatever its beating and vibrato do; a new
/// note does, also played legato. `rate` in Hz. Places where less than `leastFresh` is new are left out.
std::vector<SoftOnset> findSoftOnsets(std::span<const float> samples, int rate, const FreshSettings& settings,
                                      double leastFresh);

/// Whether a guide sounds on between its strokes (bass, strings, voice) rather than decaying at once (drums): the
/// median of the least that is left of the loud strokes 120 to 200 ms later, from the peaks of each millisecond.
bool soundsOn(const std::vector<float>& millisecondPeaks, const std::vector<std::int64_t>& strokesMs);

}  // namespace ochron
