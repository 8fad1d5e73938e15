#pragma once

#include "song/pattern.h"
#include "store/json_reader.h"

namespace ochron {

Json patternToJson(const Pattern& pattern);
Pattern readPattern(JsonReader& r, const Json& x);

}  // namespace ochron
