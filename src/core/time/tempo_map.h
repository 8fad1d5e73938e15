#pragma once

#include <memory>
#include <vector>

#include "base/result.h"
#include "base/setting.h"
#include "base/units.h"

namespace ochron {

inline constexpr SettingRange kBpmRange{"tempo", "BPM", 10, 999, 0.01, 120};

/// From `at` on the tempo is `bpm` quarter notes a minute. With `ramp` it changes linearly in musical time to the next
/// event's tempo; the last event never ramps.
struct TempoEvent {
  Ticks at;
  double bpm = 120;
  bool ramp = false;

  bool operator==(const TempoEvent&) const = default;
};

struct Meter {
  int beats = 4;  ///< 1 to 64
  int unit = 4;   ///< 1, 2, 4, 8, 16, 32 or 64

  bool operator==(const Meter&) const = default;
  Ticks beatLength() const { return Ticks{4 * kTicksPerQuarter / unit}; }
  Ticks barLength() const { return beatLength() * beats; }
};

/// From bar `bar` on (bar 0 is the first) the meter is `meter`.
struct MeterEvent {
  int bar = 0;
  Meter meter;

  bool operator==(const MeterEvent&) const = default;
};

/// Bars and beats counted from 0; screens add 1. Bars before the start are negative.
struct MusicalPosition {
  int bar = 0;
  int beat = 0;
  Ticks rest;
};

/// The one place where seconds, frames and musical time meet. Immutable; monotonic; toTicks inverts toFrames exactly as
/// long as a tick is shorter than a frame (above 27 BPM at 48 kHz).
class TempoMap {
 public:
  /// 120 BPM, 4/4 at 48 kHz.
  TempoMap();
  /// `origin` is where tick 0 lies on the song's clock. Events may come in any order; the first tempo is extended to
  /// everything before it. Fails on an empty list, a tempo outside kBpmRange, a meter outside its ranges, or two events
  /// at one place.
  static Result<TempoMap> make(int rate, Frames origin, std::vector<TempoEvent> tempos, std::vector<MeterEvent> meters);
  static Result<TempoMap> steady(int rate, double bpm, Meter meter = {}, Frames origin = {});

  int rate() const { return data_->rate; }
  Frames origin() const { return data_->origin; }
  const std::vector<TempoEvent>& tempos() const { return data_->tempos; }
  const std::vector<MeterEvent>& meters() const { return data_->meters; }

  double secondsFromOrigin(Ticks t) const;
  Frames toFrames(Ticks t) const;
  Ticks toTicks(Frames f) const;
  double bpmAt(Ticks t) const;

  Ticks barStart(int bar) const;
  int barAt(Ticks t) const;
  /// The bar that a frame lies in: from the frame at which its line is shown and heard. That frame may lie a fraction
  /// before the line itself, so places in frames are always asked for like this.
  int barAt(Frames f) const;
  Meter meterOfBar(int bar) const;
  MusicalPosition position(Ticks t) const;
  MusicalPosition position(Frames f) const;

  bool operator==(const TempoMap& o) const {
    return data_ == o.data_ ||
           (rate() == o.rate() && origin() == o.origin() && tempos() == o.tempos() && meters() == o.meters());
  }

 private:
  struct Segment {
    Ticks at;
    double seconds = 0;  ///< from tick 0
    double bpm = 120;
    double slope = 0;  ///< BPM per tick
  };
  struct MeterSpan {
    int bar = 0;
    Ticks at;
    Meter meter;
  };
  /// Shared between versions of a song.
  struct Data {
    int rate = 48'000;
    Frames origin;
    std::vector<TempoEvent> tempos{TempoEvent{}};
    std::vector<MeterEvent> meters{MeterEvent{}};
    std::vector<Segment> segments;
    std::vector<MeterSpan> spans;

    void index();
    const Segment& segmentAt(Ticks t) const;
  };
  explicit TempoMap(Data data);
  static double secondsInto(const Segment& s, double ticks);

  std::shared_ptr<const Data> data_;
};

}  // namespace ochron
