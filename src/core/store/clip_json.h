#pragma once

#include "song/ranges.h"
#include "song/song.h"
#include "store/json_reader.h"

namespace ochron {

template <class IdType>
IdType readId(JsonReader& r, const Json& j, const char* key, std::int64_t low = 1) {
  return IdType{static_cast<std::uint64_t>(
      r.integer(j, key, low, INT64_MAX, low == 0 ? std::optional<std::int64_t>(0) : std::nullopt))};
}
/// How sound is stretched, under "method"; none when it is not there.
std::optional<StretchMethod> readMethod(JsonReader& r, const Json& from);
inline Frames readFrames(JsonReader& r, const Json& j, const char* key, std::int64_t low = -kFarthest.value) {
  return Frames{r.integer(j, key, low, kFarthest.value)};
}
inline Ticks readTicks(JsonReader& r, const Json& j, const char* key, std::int64_t low = -kFarthestTick.value) {
  return Ticks{r.integer(j, key, low, kFarthestTick.value)};
}

/// Writes nothing for what is usual.
void putHold(Json& to, Hold hold, Hold usual);
Hold readHold(JsonReader& r, const Json& from, Hold usual);
Json fadeToJson(const Fade& fade);
Fade readFade(JsonReader& r, const Json& j);
/// Writes nothing for an envelope without points.
void putEnvelope(Json& to, const char* key, const Envelope& envelope);
Envelope readEnvelope(JsonReader& r, const Json& from, const char* key, const SettingRange& range);
Json clipToJson(const Clip& clip);
Clip readClip(JsonReader& r, const Json& x);

}  // namespace ochron
