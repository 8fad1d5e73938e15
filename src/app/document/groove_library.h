#pragma once

#include <QStringList>
#include <filesystem>
#include <vector>

#include "base/result.h"

#include "song/timing.h"

namespace ochron {

/// The user's own grooves, one JSON file each, shared by all songs.
class GrooveLibrary {
 public:
  /// The folder in the user's data.
  static std::filesystem::path folder();
  /// Sorted by name; files that cannot be read are left out and named in `problems`.
  static std::vector<Groove> grooves(QStringList* problems = nullptr);
  /// In a file of its own; a groove of the same name gives way, one of another name never does.
  static Result<void> keep(const Groove& groove);

 private:
  static std::vector<Groove> read(QStringList& problems);
};

}  // namespace ochron
