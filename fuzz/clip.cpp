// A clip and its fades as they stand in song.json.
#include "fuzz/check.h"
#include "store/clip_json.h"

using namespace ochron;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const auto j = Json::parse(data, data + size, nullptr, false);
  if (j.is_discarded()) return 0;
  JsonReader r;
  const auto clip = readClip(r, j);
  if (!r.ok()) return 0;
  JsonReader again;
  OCHRON_HOLDS(readClip(again, clipToJson(clip)) == clip && again.ok());
  return 0;
}
