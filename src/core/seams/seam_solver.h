#pragma once

#include <optional>
#include <vector>

#include "seams/mic_view.h"

namespace ochron {

/// Two neighbouring pieces of one take that are to be joined.
struct JointProblem {
  Frames lastAttack;    ///< take time of the earlier piece's last hit, or where that piece begins
  Frames nextAttack;    ///< take time of the later piece's first hit
  Frames earlierShift;  ///< song time minus take time
  Frames laterShift;
  Frames earliest;  ///< take time before which the later piece may not reach

  bool operator==(const JointProblem&) const = default;
};

struct JointSettings {
  double leadInMs = 5;
  double crossfadeMs = 4;
  int rate = 48'000;
  std::optional<Frames> leadIn = {};  ///< decided by the user: no search
  std::optional<Frames> length = {};
  std::optional<SeamFill> fill = {};
};

struct Joint {
  Frames at;         ///< song time of the crossfade's middle, where the later piece begins
  Frames crossfade;  ///< whole length; 0 with `faded`
  SeamFill fill = SeamFill::none;
  Frames earlierEnd;   ///< song time; equals `at` unless faded
  Frames sustainFrom;  ///< with `stretched`: take time from which the earlier piece is stretched
  Frames sustainTo;    ///< and take time that then meets earlierEnd
  Frames earliest;     ///< song time: how far the joint may be dragged
  Frames latest;
};

/// Chooses where to join, for all mics together: inside the stretch where neither piece shows the other's attack, as
/// quiet as can be, as alike as can be on both sides, and close to the lead-in asked for.
///
/// With attacks a (earlier) and b (later) and shifts s1, s2 that stretch is [a + max(s1, s2) + protection,
/// b + min(s1, s2) - guard] in song time: from there on the later piece no longer holds a's attack, and until there the
/// earlier one does not yet hold b's. It is empty only when the pieces move apart by nearly the whole time between the
/// attacks; then the earlier sustain is stretched over the gap, or fades when it is too short for that.
Joint solveJoint(const JointProblem& problem, const JointSettings& settings, const std::vector<MicView>& mics);

}  // namespace ochron
