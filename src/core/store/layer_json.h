#pragma once

#include "song/song.h"
#include "store/json_reader.h"

namespace ochron {

// Keys as docs/file-format.md lists them.
Json layerToJson(const Layer& layer);
Layer readLayer(JsonReader& r, const Json& j);

}  // namespace ochron
