#pragma once

#include <array>
#include <span>
#include <vector>

#include "dsp/grain_shift.h"
#include "render/render.h"

namespace ochron {

/// Some tracks of what plays, heard in another key.
class KeyTrial {
 public:
  /// `most`: frames of a block.
  KeyTrial(int rate, std::size_t most) : shift_(rate), left_(most), right_(most) {}

  /// No tracks: all as they are.
  void want(const TrackMask& tracks, double cents) noexcept {
    wanted_ = tracks;
    wantedCents_ = tracks.any() ? cents : 0;
  }
  /// Other tracks only once what is heard of the present ones is their own sound again; true when they changed: the
  /// source is to stand where the play line is.
  bool follow() noexcept;
  /// Nothing sounds: what is wanted holds at once.
  void settle() noexcept;
  /// Whether the source may go elsewhere without a step: not within 10 ms of the last time.
  bool mayJump() const noexcept { return tracks_.none() || shift_.settled(); }
  /// The source stands elsewhere.
  void jump() noexcept { shift_.jump(); }
  /// Tracks that are heard through it.
  const TrackMask& tracks() const noexcept { return tracks_; }
  /// The next frames of them, from a source that gives these tracks alone.
  std::array<std::span<float>, 2> hear(std::size_t frames, GrainShift::Source& source) noexcept;

 private:
  GrainShift shift_;
  TrackMask tracks_;
  TrackMask wanted_;
  double wantedCents_ = 0;
  std::vector<float> left_;
  std::vector<float> right_;
};

}  // namespace ochron
