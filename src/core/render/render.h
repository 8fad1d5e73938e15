#pragma once

#include <span>

#include "render/render_plan.h"

namespace ochron {

/// Adds one channel's sound from song time `at` on to `out`. Outside ramps at gain 1 this is the recording bit for bit
/// when `out` was silent. Allocates nothing, locks nothing; the block size cannot be heard. Any thread.
void addSegments(const SegmentList& segments, Frames at, std::span<float> out) noexcept;

/// Adds one channel of a track with its silent spans and its gain and mute envelopes, without mixer gain and pan. `out`
/// must be silent.
void addTrack(const TrackPlan& track, std::size_t channel, Frames at, std::span<float> out) noexcept;

/// Puts a track's sound through its gain and pan and the song's gain; in place. A mono track is the same on both sides.
void applyMixer(const TrackPlan& track, const GainCurve& song, Frames at, std::span<float> left,
                std::span<float> right) noexcept;

/// Adds the mix of all audible tracks to left and right, which must be silent, with the song's own gain. `scratch` is
/// at least as long as a side. `peaks`, when not empty, receives each track's peak after its mixer gain. Tracks in
/// `leftOut` are not heard.
void addMix(const RenderPlan& plan, Frames at, std::span<float> left, std::span<float> right, std::span<float> scratch,
            std::span<float> peaks, const TrackMask& leftOut = {}) noexcept;

}  // namespace ochron
