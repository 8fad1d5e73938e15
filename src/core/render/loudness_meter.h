#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "base/units.h"

namespace ochron {

/// How loud something is (ITU-R BS.1770-4, EBU R 128, EBU Tech 3342 for the range; by libebur128). Where nothing is
/// loud enough to be measured a value is missing.
struct LoudnessReport {
  std::optional<double> integrated;  ///< LUFS
  std::optional<double> momentary;   ///< the highest, LUFS, of 400 ms
  std::optional<double> shortTerm;   ///< the highest, LUFS, of 3 s
  std::optional<double> range;       ///< LU
  std::optional<double> truePeak;    ///< dBTP, the highest of all channels
  struct Point {
    double seconds = 0;
    std::optional<double> momentary, shortTerm;
  };
  std::vector<Point> curve;  ///< every 100 ms
};

/// Measures sound as it comes.
class LoudnessMeter {
 public:
  LoudnessMeter(int rate, int channels);
  ~LoudnessMeter();
  LoudnessMeter(LoudnessMeter&&) noexcept;
  LoudnessMeter& operator=(LoudnessMeter&&) = delete;
  /// Whole frames, interleaved.
  void add(std::span<const float> interleaved);
  LoudnessReport report() const;

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace ochron
