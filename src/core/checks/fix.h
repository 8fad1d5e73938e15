#pragma once

#include <string>

#include "base/result.h"
#include "checks/checks.h"
#include "media/pool.h"

namespace ochron {

/// What fixCheck() would do about a check, in two or three words.
std::string fixName(CheckKind kind);

/// Does the plain thing about a check: removes a weak hit, joins two hits that want one place, leaves alone what would
/// move too far, fills or fades a gap the other way, looks for the place and length at which a seam holds its bars
/// best, leaves a note as sung, brings an anchor to its hit or takes it away. Refused when there is nothing better.
Result<Song> fixCheck(const Song& song, SetId set, const Check& check, const MediaPool& pool);

/// It is good as it is, and not listed any more.
Result<Song> acceptCheck(const Song& song, const Check& check);

}  // namespace ochron
