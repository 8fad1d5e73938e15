#pragma once

#include <vector>

#include "analysis/drums/mic_strokes.h"

namespace ochron {

/// From takes with truth (docs/figures.md).
struct HeardTogetherSettings {
  double reachMs = 6;       ///< so near to each other two mics hear one stroke; overheads lie within 2 m of each other
  double doubts = 0.33;     ///< by so much two mics together may fall short of being sure
  double roomLateMs = 30;   ///< a room hears a stroke by so much later than a mic that is near, 10 m
  double heardNear = -0.3;  ///< so sure of it a near mic is that heard it at all
};

/// What two mics hear at once is no accident of either: ringing, beating cymbals and hiss make attacks of their own in
/// each, a faint ride or hat in both. Strokes that would not count on one of the wide mics alone are made as sure as
/// two of them are together. Strokes on the mic of their own drum stay as they are: what both hear there may be bleed.
/// Rooms hear the same echoes together: theirs count by themselves, and where mics are near, only what these hear, too.
void believeTogether(std::vector<MicHearing>& mics, int rate, const HeardTogetherSettings& settings = {});

}  // namespace ochron
