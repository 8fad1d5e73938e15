#pragma once

#include <string>

#include "base/result.h"
#include "media/pool.h"
#include "seams/checks.h"

namespace ochron {

/// What fixCheck() would do about a check, in two or three words.
std::string fixName(CheckKind kind);

/// Does the plain thing about a check: removes a weak hit, joins two hits that want one place, leaves alone what would
/// move too far, fills or fades a gap the other way, or looks for the place and length at which a seam holds its bars
/// best. Refused when there is nothing better.
Result<Song> fixCheck(const Song& song, SetId set, const Check& check, const MediaPool& pool);

}  // namespace ochron
