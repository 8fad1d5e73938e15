#pragma once

#include "song/song.h"
#include "store/json_reader.h"

namespace ochron {

// Keys as docs/file-format.md lists them.
Json printToJson(const Print& print);
Print readPrint(JsonReader& r, const Json& j);
Json bundleToJson(const Bundle& bundle);
Bundle readBundle(JsonReader& r, const Json& j);

}  // namespace ochron
