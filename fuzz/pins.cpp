// A file of pins, CSV or JSON.
#include "fuzz/check.h"
#include "store/pins_file.h"

using namespace ochron;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const auto pins = pinsFromText({reinterpret_cast<const char*>(data), size}, "pins.csv", 48'000);
  if (!pins) return 0;
  OCHRON_HOLDS(pins->size() >= 2);
  OCHRON_HOLDS(TakeMap(*pins).valid());
  return 0;
}
