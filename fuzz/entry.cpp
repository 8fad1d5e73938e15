// Numbers typed into fields.
#include "entry/entry.h"

#include <cmath>
#include <string>

#include "fuzz/check.h"

using namespace ochron;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  if (size == 0) return 0;
  static const auto map = *TempoMap::steady(48'000, 120);
  const auto quantity = static_cast<Quantity>(data[0] % 6);
  const std::string text(reinterpret_cast<const char*>(data + 1), size - 1);
  const auto entry = parseEntry(text, quantity, map, Frames{96'000});
  if (!entry) {
    OCHRON_HOLDS(!entry.error().message.empty());
    return 0;
  }
  OCHRON_HOLDS(!std::isnan(entry->value));
  (void)entryText(entry->value, quantity, 48'000);
  return 0;
}
