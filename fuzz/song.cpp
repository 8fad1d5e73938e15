// song.json: what is read is a song that writes and reads back as itself, and edits and renders without a slip.
#include "feel/plan_timing.h"
#include "fuzz/check.h"
#include "render/render_plan.h"
#include "store/song_json.h"

using namespace ochron;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const auto song = songFromJson(std::string(reinterpret_cast<const char*>(data), size), "song.json");
  if (!song) {
    OCHRON_HOLDS(!song.error().message.empty());
    return 0;
  }
  const auto again = songFromJson(songToJson(*song), "song.json");
  OCHRON_HOLDS(again && *again == *song);
  for (const auto& set : song->sets) (void)planTiming(*song, set.id);
  (void)compilePlan(*song, {});
  return 0;
}
