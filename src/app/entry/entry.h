#pragma once

#include <string>

#include "base/result.h"
#include "time/tempo_map.h"

namespace ochron {

/// What a typed number stands for.
enum class Quantity {
  position,  ///< song time in frames; seconds unless a unit is given
  length,    ///< in frames; milliseconds unless a unit is given
  gain,      ///< dB
  percent,
  pitch,  ///< cents, unless semitones (st) are given
  plain,
};

/// A number as typed: "12", "-3 dB", "2 beats", or relative to what is there: "+3", "-=3", "*0.5", "/2". A bare minus
/// is a negative value, because gains and pans are often negative. "+" adds. Units: ms, s, samples (smp), beats (b),
/// dB, %, cents (c), semitones (st).
struct Entry {
  enum class How { set, add, multiply } how = How::set;
  double value = 0;  ///< in frames for times

  double applied(double old) const { return how == How::set ? value : how == How::add ? old + value : old * value; }
};

/// `map` and `at` say how long a beat is there. Fails with a sentence on what is no number or has a unit that does not
/// fit.
Result<Entry> parseEntry(const std::string& text, Quantity quantity, const TempoMap& map, Frames at);

/// The number as it is shown, with its unit: "12.345 s", "20.0 ms", "-3.0 dB".
std::string entryText(double value, Quantity quantity, int rate);

}  // namespace ochron
