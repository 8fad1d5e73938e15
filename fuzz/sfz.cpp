// An SFZ instrument's text.
#include "fuzz/check.h"
#include "store/sfz_file.h"

using namespace ochron;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const auto regions = sfzRegions({reinterpret_cast<const char*>(data), size});
  OCHRON_HOLDS(regions.size() <= 4096);
  for (const auto& r : regions)
    for (const auto& [word, value] : r) OCHRON_HOLDS(word.find('=') == std::string::npos);
  return 0;
}
