#include "render/render.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "dsp/fade.h"

namespace ochron {
namespace {

float gainIn(const Ramp& r, double x) noexcept {
  if (r.kind == Ramp::Kind::fade) return fadeGain(r.shape, r.bend, x);
  return crossfadeGains(r.law, r.shape, r.bend, r.likeness, x).in;
}
float gainOut(const Ramp& r, double x) noexcept {
  if (r.kind == Ramp::Kind::fade) return fadeGain(r.shape, r.bend, 1.0 - x);
  return crossfadeGains(r.law, r.shape, r.bend, r.likeness, x).out;
}

float rampGain(const Segment& s, std::int64_t f, std::int64_t inEnd, std::int64_t outStart) noexcept {
  float g = s.gain;
  // Half a frame in: the curve is symmetric and reaches neither end.
  if (f < inEnd)
    g *= gainIn(s.in, (static_cast<double>(f - s.rampStart.value) + 0.5) / static_cast<double>(s.in.length.value));
  if (f >= outStart)
    g *= gainOut(s.out, (static_cast<double>(f - outStart) + 0.5) / static_cast<double>(s.out.length.value));
  return g;
}

/// Frames whose samples are read at once where they do not lie as floats.
constexpr std::int64_t kBlock = 512;

/// A stretch of a segment; `from` and `to` are indexed by song time.
void addStretch(const Segment& s, std::int64_t first, std::int64_t last, const float* from, float* to) noexcept {
  // Three stretches: in-ramp, plain, out-ramp. Ramps may overlap in a very short piece.
  const auto inEnd = s.in.kind == Ramp::Kind::none ? s.start.value : (s.rampStart + s.in.length).value;
  const auto outStart = s.out.kind == Ramp::Kind::none ? s.end().value : (s.rampEnd - s.out.length).value;
  const auto plainFirst = std::clamp(inEnd, first, std::max(first, last));
  const auto plainLast = std::clamp(outStart, plainFirst, std::max(plainFirst, last));
  if (s.curve) {
    CurveReader curve(*s.curve, Frames{first});
    for (auto f = first; f < last; ++f) to[f] += from[f] * rampGain(s, f, inEnd, outStart) * curve.at(Frames{f});
    return;
  }
  const auto ramped = [&](std::int64_t a, std::int64_t b) {
    for (auto f = a; f < b; ++f) to[f] += from[f] * rampGain(s, f, inEnd, outStart);
  };
  ramped(first, plainFirst);
  if (s.gain == 1.0f)
    for (auto f = plainFirst; f < plainLast; ++f) to[f] += from[f];
  else
    for (auto f = plainFirst; f < plainLast; ++f) to[f] += from[f] * s.gain;
  ramped(plainLast, last);
}

void addSegment(const Segment& s, Frames at, std::span<float> out) noexcept {
  const auto first = std::max(s.start, at).value;
  const auto last = std::min(s.end(), at + Frames{std::ssize(out)}).value;
  std::array<float, kBlock> room;  // NOLINT(cppcoreguidelines-pro-type-member-init): filled where it is read
  const auto step = s.samples.plain() ? std::max<std::int64_t>(1, last - first) : kBlock;
  for (auto a = first; a < last; a += step) {
    const auto b = std::min(last, a + step);
    const auto part = s.samples.subspan(static_cast<std::size_t>(a - s.start.value), static_cast<std::size_t>(b - a));
    addStretch(s, a, b, part.in(room).data() - a, out.data() - at.value);
  }
}

}  // namespace

void addSegments(const SegmentList& list, Frames at, std::span<float> out) noexcept {
  const auto end = at + Frames{std::ssize(out)};
  const auto& segments = list.segments;
  const auto first = std::upper_bound(list.ends.begin(), list.ends.end(), at) - list.ends.begin();
  for (auto it = segments.begin() + first; it != segments.end() && it->start < end; ++it)
    if (it->end() > at) addSegment(*it, at, out);
}

void addTrack(const TrackPlan& track, std::size_t channel, Frames at, std::span<float> out) noexcept {
  addSegments(*track.channels[std::min(channel, track.channels.size() - 1)], at, out);
  applyGain(track.gain, at, out);
}

namespace {
void addSide(std::span<const float> from, Frames at, float gain, const GainCurve& pan, std::span<float> to) noexcept {
  if (pan.empty()) {
    for (std::size_t i = 0; i < from.size(); ++i) to[i] += from[i] * gain;
    return;
  }
  CurveReader curve(pan, at);
  for (std::size_t i = 0; i < from.size(); ++i)
    to[i] += from[i] * gain * curve.at(at + Frames{static_cast<std::int64_t>(i)});
}
}  // namespace

void applyMixer(const TrackPlan& track, const GainCurve& song, Frames at, std::span<float> left,
                std::span<float> right) noexcept {
  const auto side = [&](std::span<float> sound, float gain, const GainCurve& pan) {
    for (auto& v : sound) v *= gain;
    applyGain(pan, at, sound);
    applyGain(song, at, sound);
  };
  side(left, track.left, track.panLeft);
  side(right, track.right, track.panRight);
}

void addMix(const RenderPlan& plan, Frames at, std::span<float> left, std::span<float> right, std::span<float> scratch,
            std::span<float> peaks, const TrackMask& leftOut) noexcept {
  for (std::size_t t = 0; t < plan.tracks.size(); ++t) {
    const auto& track = plan.tracks[t];
    if (t < peaks.size()) peaks[t] = 0;
    if (!track.audible || (t < leftOut.size() && leftOut[t])) continue;
    float peak = 0;
    for (std::size_t c = 0; c < track.channels.size(); ++c) {
      const auto side = scratch.first(left.size());
      std::fill(side.begin(), side.end(), 0.0f);
      addTrack(track, c, at, side);
      const bool stereo = track.channels.size() > 1;
      if (!stereo || c == 0) addSide(side, at, track.left, track.panLeft, left);
      if (!stereo || c == 1) addSide(side, at, track.right, track.panRight, right);
      for (const float s : side) peak = std::max(peak, std::abs(s));
    }
    if (t < peaks.size()) peaks[t] = peak * std::max(track.left, track.right);
  }
  applyGain(plan.gain, at, left);
  applyGain(plan.gain, at, right);
}

}  // namespace ochron
