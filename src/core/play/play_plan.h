#pragma once

#include <vector>

#include "base/units.h"
#include "play/click.h"
#include "render/render_plan.h"
#include "song/layer_strokes.h"

namespace ochron {

/// What the engine plays: the song as edited and as recorded, and the click. Immutable.
struct PlayPlan {
  RenderPlan edited;
  RenderPlan original;
  float originalGain = 1;  ///< brings the original to the edited version's loudness
  float editedGain = 1;    ///< brings a version that is tried to the loudness of the one before
  std::vector<ClickEvent> clicks;
  std::vector<LayerNote> notes;  ///< sent while the edited version plays; in order
};

/// A stretch of song played for the ear: with short fades at its ends, once or over and over.
struct Audition {
  FrameRange range;
  bool loop = false;
  bool click = false;
  float lift = 1;  ///< quiet material is raised by up to this factor; loud material is held below -6 dBFS
};

}  // namespace ochron
