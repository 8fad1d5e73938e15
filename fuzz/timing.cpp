// A timing plan as it stands in song.json.
#include "fuzz/check.h"
#include "store/timing_json.h"

using namespace ochron;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const auto j = Json::parse(data, data + size, nullptr, false);
  if (j.is_discarded()) return 0;
  JsonReader r;
  const auto plan = readPlan(r, j);
  if (!r.ok()) return 0;
  JsonReader again;
  OCHRON_HOLDS(readPlan(again, planToJson(plan)) == plan && again.ok());
  return 0;
}
