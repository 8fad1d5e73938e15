#pragma once

#include "song/timing.h"
#include "store/json_reader.h"

namespace ochron {

Json gridToJson(const Grid& grid);
Grid readGrid(JsonReader& r, const Json& j);
Json timingToJson(const TimingSettings& settings);
TimingSettings readTiming(JsonReader& r, const Json& j);
Json grooveToJson(const Groove& groove);
Groove readGroove(JsonReader& r, const Json& j);
Json planToJson(const TimingPlan& plan);
TimingPlan readPlan(JsonReader& r, const Json& j);

}  // namespace ochron
