// A groove out of a MIDI file.
#include <cmath>

#include "fuzz/check.h"
#include "store/midi_file.h"

using namespace ochron;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  for (const auto& grid : {Grid{16, StepKind::straight, 50}, Grid{8, StepKind::triplet, 50}}) {
    const auto g = grooveFromMidi({reinterpret_cast<const char*>(data), size}, "g.mid", grid);
    if (!g) continue;
    OCHRON_HOLDS(g->offsetsMs.size() == g->loudness.size());
    for (const double ms : g->offsetsMs) OCHRON_HOLDS(std::isfinite(ms));
  }
  return 0;
}
