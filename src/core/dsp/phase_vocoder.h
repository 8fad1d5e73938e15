#pragma once

#include <complex>
#include <cstdint>
#include <map>
#include <span>
#include <vector>

#include "base/units.h"
#include "dsp/sliding_source.h"
#include "dsp/steady_windows.h"

namespace ochron {

/// Which frames of a source land on which of what becomes of it.
struct StretchMap {
  std::map<std::int64_t, std::int64_t> keys;  ///< from frames of the result to those of the source; two at least, both
                                              ///< rising, straight between them and going on as at the ends
  std::vector<FrameRange> fresh;  ///< of the result, in order: there it is in the recording's own phases again

  double source(double frame) const;
};

/// Changes the length of sound without its pitch: a phase vocoder whose phases are locked to the peaks of the spectrum
/// (Laroche & Dolson, "Improved phase vocoder time-scale modification of audio", 1999), each carried on by what the
/// recording itself does between two windows as far apart as in the result (Puckette, "Phase-locked vocoder", 1995),
/// with windows as long as the material bears (SteadyWindows). All channels are turned by the same angles, found in
/// all of them together: what is alike in two channels, or late in one, stays so. Where the map runs at the recording's
/// own speed and nothing was turned before, the result is the recording. Not thread-safe.
class PhaseVocoder {
 public:
  PhaseVocoder(int rate, std::size_t channels, StretchMap map, StreamSource source);
  PhaseVocoder(const PhaseVocoder&) = delete;
  PhaseVocoder& operator=(const PhaseVocoder&) = delete;

  /// The next frames of the result, from frame 0 on; all channels of `out` are of one length.
  void make(ChannelSpans out);

 private:
  using Bins = std::vector<std::complex<float>>;
  struct Scale {
    RealFft fft;
    std::vector<float> window;
  };
  /// A window about a frame of the result.
  struct Place {
    std::int64_t frame = 0;
    std::int64_t source = 0;
    std::size_t scale = 0;
    bool fresh = false;
  };
  Place placeAt(std::int64_t frame);
  int size(std::size_t scale) const { return shortest_ << scale; }
  void analyse(std::int64_t source, std::size_t scale, std::vector<Bins>& out);
  void carryOn(const Place& to);
  void lockToPeaks(const Bins& carried);
  void addWindow(const Place& at);

  int shortest_;
  StretchMap map_;
  SlidingSource source_;
  SteadyWindows windows_;
  std::vector<Scale> scales_;
  Place last_;
  Bins turned_;  ///< unit numbers by which the bins of the last window were turned
  std::vector<Bins> now_;
  std::vector<Bins> lastBins_;
  std::vector<Bins> earlier_;
  std::vector<float> power_;
  std::int64_t next_ = 0;   ///< frame of the next window's middle
  std::int64_t given_ = 0;  ///< frames given so far
  std::size_t freshFrom_ = 0;
  std::vector<std::vector<float>> sums_;  ///< from half a longest window before `given_` on
  std::vector<float> weights_;
};

}  // namespace ochron
