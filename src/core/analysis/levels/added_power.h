#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "analysis/levels/band_energy.h"
#include "base/units.h"

namespace ochron {

/// How much power an attack adds to each band of a mic, millisecond by millisecond: small enough to be kept of every
/// mic of a set.
class AddedPower {
 public:
  using Bands = std::array<double, BandEnergy::kBands>;

  /// `offset`: take time of the recording's first frame; `rate` in Hz.
  AddedPower(const BandEnergy& energy, int rate, Frames offset);

  /// Mean power of the 20 ms from a place of the take on, less that of the 10 ms before; 0 where it falls. So long
  /// after, a mic some metres away has heard it too.
  Bands at(Frames take) const;
  /// Mean power of those 10 ms before.
  Bands before(Frames take) const;
  /// Under this nothing is told from noise.
  double floor(std::size_t band) const { return floor_[band]; }

 private:
  double mean(std::size_t band, std::int64_t fromMs, std::int64_t toMs) const;
  int rate_;
  Frames offset_;
  std::vector<std::array<float, BandEnergy::kBands>> ms_;
  Bands floor_{};
};

}  // namespace ochron
