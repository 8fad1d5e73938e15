#pragma once

#include "song/foreign.h"
#include "store/json_reader.h"

namespace ochron {

/// What `read`, a song's file, has beyond `known`, the same song as this program writes it. Entries of lists are told
/// apart by their ids; what lies in lists without ids belongs to their owner and is not looked into.
std::vector<ForeignKeys::Key> foreignIn(const Json& read, const Json& known);
/// Puts foreign keys back where they were, as far as their owners are there and have no key of that name.
void putForeign(Json& song, const std::vector<ForeignKeys::Key>& keys);

}  // namespace ochron
