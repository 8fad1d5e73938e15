#pragma once

#include <cmath>
#include <compare>
#include <cstdint>
#include <typeindex>  // std::hash, without the rest of <functional>

namespace ochron {

/// A whole number of one unit. Two units never mix: converting between them goes through time/TempoMap.
template <class Tag>
struct Count {
  std::int64_t value = 0;

  constexpr Count() = default;
  constexpr explicit Count(std::int64_t v) : value(v) {}

  constexpr auto operator<=>(const Count&) const = default;
  constexpr Count operator-() const { return Count(-value); }
  constexpr Count& operator+=(Count o) { return value += o.value, *this; }
  constexpr Count& operator-=(Count o) { return value -= o.value, *this; }
  friend constexpr Count operator+(Count a, Count b) { return Count(a.value + b.value); }
  friend constexpr Count operator-(Count a, Count b) { return Count(a.value - b.value); }
  friend constexpr Count operator*(Count a, std::int64_t n) { return Count(a.value * n); }
  friend constexpr Count operator/(Count a, std::int64_t n) { return Count(a.value / n); }
};

/// Samples per channel at the song's rate (or at a file's own rate where the name says so).
using Frames = Count<struct FramesTag>;
/// Musical time: 107 520 to the quarter note, so that 1/128, triplets, quintuplets and septuplets are whole numbers.
using Ticks = Count<struct TicksTag>;

inline constexpr std::int64_t kTicksPerQuarter = 107'520;

/// Milliseconds at a sample rate, to the nearest frame, and back.
inline Frames framesFromMs(double ms, int rate) { return Frames(std::llround(ms * rate / 1000)); }
inline double msFromFrames(Frames f, int rate) { return static_cast<double>(f.value) * 1000 / rate; }

/// Half-open range [start, end).
struct FrameRange {
  Frames start;
  Frames end;

  constexpr bool operator==(const FrameRange&) const = default;
  constexpr Frames length() const { return end - start; }
  constexpr bool empty() const { return end <= start; }
  constexpr bool contains(Frames f) const { return f >= start && f < end; }
  constexpr bool overlaps(FrameRange o) const { return start < o.end && o.start < end; }
};

}  // namespace ochron

template <class Tag>
struct std::hash<ochron::Count<Tag>> {
  std::size_t operator()(ochron::Count<Tag> c) const noexcept { return static_cast<std::size_t>(c.value); }
};
