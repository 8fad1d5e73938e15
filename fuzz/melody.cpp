// A melody: MIDI, CSV, JAMS or what the command line prints.
#include "fuzz/check.h"
#include "store/melody_file.h"

using namespace ochron;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const auto notes = melodyFromText({reinterpret_cast<const char*>(data), size}, "m.jams");
  if (!notes) return 0;
  OCHRON_HOLDS(!notes->empty());
  for (std::size_t i = 0; i < notes->size(); ++i) {
    const auto& n = (*notes)[i];
    OCHRON_HOLDS(n.start >= 0 && n.end > n.start && n.hertz >= 8 && n.hertz <= 13'000);
    OCHRON_HOLDS(i == 0 || (*notes)[i - 1].end <= n.start);
  }
  return 0;
}
