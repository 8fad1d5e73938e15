// A groove file in JSON.
#include <cmath>

#include "fuzz/check.h"
#include "store/groove_file.h"

using namespace ochron;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const auto g = grooveFromJson({reinterpret_cast<const char*>(data), size}, "g.groove.json");
  if (!g) return 0;
  OCHRON_HOLDS(g->offsetsMs.size() == g->loudness.size());
  for (const double ms : g->offsetsMs) OCHRON_HOLDS(std::isfinite(ms));
  for (const double l : g->loudness) OCHRON_HOLDS(l >= 0 && l <= 1);
  return 0;
}
