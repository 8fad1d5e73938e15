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

/// Onsets of instruments that sound on: places where the magnitude that rises between the 43 ms before and the 43 ms
/// after (40 Hz to 6 kHz, each bin against itself and its neighbours before, as SuperFlux does against vibrato) is
/// highest. A tone that goes on brings nothing new, whatever its waveform, beating and vibrato do; a new note does,
/// also at the same pitch or played legato. `rate` in Hz. Places where less than `leastFresh` is new are left out.
std::vector<SoftOnset> findSoftOnsets(std::span<const float> samples, int rate, double leastFresh);

/// Whether a guide sounds on between its strokes (bass, strings, voice) rather than decaying at once (drums): the
/// median of the least that is left of the loud strokes 120 to 200 ms later, from the peaks of each millisecond.
bool soundsOn(const std::vector<float>& millisecondPeaks, const std::vector<std::int64_t>& strokesMs);

}  // namespace ochron
