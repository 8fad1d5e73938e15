#pragma once

#include <cstdint>
#include <variant>

#include "base/units.h"
#include "play/live_voices.h"
#include "play/play_plan.h"
#include "render/render.h"

namespace ochron {

/// What a controlling thread asks of the engine.
namespace command {

struct Play {};
struct Stop {};
struct Seek {
  Frames to;
};
struct Loop {
  FrameRange range;  ///< empty: off
};
struct Click {
  bool on = false;
  float gain = 1;
};
struct Version {
  bool original = false;
};
struct Hear {
  Audition what;
};
struct Key {
  TrackMask tracks;  ///< none: all as they are
  double cents = 0;
};

struct Bank {
  LiveVoices::Given* sounds = nullptr;  ///< none: nothing can be struck
};
struct Strike {
  int sound = 0;       ///< of the bank
  float strength = 1;  ///< 0 to 1
};
struct Hush {};  ///< what was struck ends

}  // namespace command

using Command =
    std::variant<command::Stop, command::Play, command::Seek, command::Loop, command::Click, command::Version,
                 command::Hear, command::Key, command::Bank, command::Strike, command::Hush>;

/// A command and when it is due. They are done in the order they were sent in.
struct TimedCommand {
  Command what;
  std::int64_t at = 0;  ///< frame of the engine's clock; what is past is due at once
};

}  // namespace ochron
