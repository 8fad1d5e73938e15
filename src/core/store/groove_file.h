#pragma once

#include <filesystem>

#include "base/result.h"
#include "song/timing.h"

namespace ochron {

/// A groove as a JSON file of its own, with the same keys as in song.json.
Result<void> writeGroove(const Groove& groove, const std::filesystem::path& file);
Result<Groove> readGrooveFile(const std::filesystem::path& file);

/// The file a groove of this name gets in a folder of grooves: what file systems do not take is left out.
std::filesystem::path grooveFileName(const std::string& name);

}  // namespace ochron
