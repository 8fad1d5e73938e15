// A groove, a tempo map and notes out of a MIDI file.
#include <cmath>

#include "fuzz/check.h"
#include "media/midi_notes.h"
#include "store/midi_in.h"

using namespace ochron;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string_view bytes(reinterpret_cast<const char*>(data), size);
  for (const auto& grid : {Grid{16, StepKind::straight, 50}, Grid{8, StepKind::triplet, 50}}) {
    const auto g = grooveFromMidi(bytes, "g.mid", grid);
    if (!g) continue;
    OCHRON_HOLDS(g->offsetsMs.size() == g->loudness.size());
    for (const double ms : g->offsetsMs) OCHRON_HOLDS(std::isfinite(ms));
  }
  if (const auto map = mapFromMidi(bytes, "g.mid", 48'000, Frames{})) {
    Frames before{-1};
    for (std::int64_t quarter = 0; quarter < 64; ++quarter) {
      const auto at = map->map.toFrames(Ticks{quarter * kTicksPerQuarter});
      OCHRON_HOLDS(at > before);
      before = at;
    }
  }
  if (const auto file = readMidi(bytes, "g.mid")) {
    const auto notes = playedNotes(*file, 48'000, "g.mid");
    for (std::size_t i = 0; notes && i < notes->size(); ++i) {
      OCHRON_HOLDS((*notes)[i].at < (*notes)[i].end);
      OCHRON_HOLDS(i == 0 || (*notes)[i - 1].at <= (*notes)[i].at);
    }
  }
  return 0;
}
