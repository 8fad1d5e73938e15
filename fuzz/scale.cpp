// A scale file in the Scala format.
#include <cmath>

#include "fuzz/check.h"
#include "store/scala_file.h"

using namespace ochron;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const auto s = scalaFromText({reinterpret_cast<const char*>(data), size}, 0, "s.scl");
  if (!s) return 0;
  OCHRON_HOLDS(!s->steps.empty() && s->steps.front() == 0 && s->steps.back() < s->octave);
  for (std::size_t i = 1; i < s->steps.size(); ++i) OCHRON_HOLDS(s->steps[i] > s->steps[i - 1]);
  OCHRON_HOLDS(std::isfinite(s->nearest(7'000)) && std::abs(s->nearest(7'000) - 7'000) <= s->octave);
  return 0;
}
