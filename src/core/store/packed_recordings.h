#pragma once

#include <filesystem>

#include "base/progress.h"
#include "base/result.h"

namespace ochron {

/// Writes a recording as FLAC, where that holds it sample for sample (WAV and AIFF of 16 or 24 bit); what it wrote is
/// read again and held against the recording. False when it stays as it is: nothing is written then. What a file tells
/// beside its sound is not taken along.
Result<bool> packAsFlac(const std::filesystem::path& recording, const std::filesystem::path& flac, Progress& progress);

}  // namespace ochron
