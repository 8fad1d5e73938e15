#pragma once

#include <memory>
#include <unordered_map>

#include "base/ids.h"
#include "media/decoded.h"

namespace ochron {

/// The recordings at hand, by name. A value: hand a copy to whoever works with it. Missing files are simply not in it.
using MediaPool = std::unordered_map<MediaId, std::shared_ptr<const DecodedMedia>>;

/// Fails when a recording that is read where it lies, or the decoded copy of another, was changed since it was read, by
/// a single bit. As slow as reading what was touched; not on the main thread.
Result<void> stillAsRead(const MediaPool& pool);

}  // namespace ochron
