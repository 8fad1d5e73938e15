#pragma once

#include <array>
#include <optional>
#include <vector>

#include "analysis/drums/own_drum.h"
#include "analysis/levels/added_power.h"
#include "base/progress.h"
#include "base/units.h"
#include "dsp/samples.h"
#include "terms/drum_class.h"

namespace ochron {

/// One mic's sound, one channel, in take time from `offset` on.
struct GuideSignal {
  Samples samples;
  Frames offset;
  MicHears hears = MicHears::unknown;
  bool guide = true;  ///< false: it makes no hits, but tells what the guides hear of other drums
};

/// One stroke as one mic hears it.
struct MicStroke {
  Frames at;              ///< take time
  int mic = 0;            ///< index of its signal
  double sure = 0;        ///< above 0 it counts, -1 to 1
  bool byOthers = false;  ///< it counts only because another mic hears it too
  double loud = 0;        ///< against the loud strokes of the mic, 1 for such a one
  DrumClass drum = DrumClass::other;
  bool close = false;              ///< on the mic of its own drum
  std::array<double, 5> sounds{};  ///< how far it sounds like each drum: kick, snare, tom, hat, cymbal

  /// 0 to 1; 0.05 counts at the default sensitivity.
  double claim() const;
  /// 0 to 1: how likely a stroke of its drum this is.
  double confidence() const;
};

/// What one mic hears.
struct MicHearing {
  MicHears hears = MicHears::unknown;
  bool guide = true;
  bool silent = false;
  bool soundsOn = false;            ///< an instrument that is no drum
  std::vector<MicStroke> strokes;   ///< sorted
  std::optional<AddedPower> power;  ///< of drum mics
};

/// What a mic stands beside.
struct Beside {
  bool guides = false;  ///< other guides of the set are listened to as well
  bool drums = false;   ///< the set has a drum's own mic: what overheads and rooms hear is a kit, however it rings
};

/// Listens to one mic. A mic that is no guide and no drum's own gives its power only. When cancelled, what there is.
MicHearing listenTo(const GuideSignal& signal, int mic, Beside beside, int rate, Progress& progress);

}  // namespace ochron
