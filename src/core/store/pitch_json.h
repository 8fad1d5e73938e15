#pragma once

#include "song/song.h"
#include "store/json_reader.h"

namespace ochron {

// Keys as docs/file-format.md lists them.
Json lineToJson(const SungLine& line);
SungLine readLine(JsonReader& r, const Json& j);
Json pitchPlanToJson(const PitchPlan& plan);
PitchPlan readPitchPlan(JsonReader& r, const Json& j);

}  // namespace ochron
