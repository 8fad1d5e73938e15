#pragma once

#include <functional>
#include <span>
#include <vector>

namespace ochron {

/// Where a moment's formants lie and where they are to lie, as ratios of their frequencies to the recorded ones.
struct FormantPlace {
  double now = 1;
  double wanted = 1;
};

/// Moves the formants of sound and nothing else: `sound` is `recorded` at another pitch, frame for frame at the same
/// time and of equal length. What colours it is the spectrum's envelope of the recording, moved by `place(frame)`.now;
/// a filter without phase, so that the mics of a set stay in step, brings it to `.wanted`. The envelope is smoothed in
/// the cepstrum up to half of the moment's period and rises to the harmonics (true envelope, Röbel & Rodet 2005). Gains
/// are held within 24 dB.
std::vector<float> withFormants(std::span<const float> sound, std::span<const float> recorded, int rate,
                                const std::function<FormantPlace(std::size_t)>& place);

}  // namespace ochron
