#pragma once

#include "song/insert.h"
#include "store/json_reader.h"

namespace ochron {

/// Effects as a member `effects` of what they are in; none: no member.
void putInserts(Json& to, const InsertList& inserts);
InsertList readInserts(JsonReader& r, const Json& x);

}  // namespace ochron
