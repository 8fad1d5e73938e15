#pragma once

#include <QString>
#include <vector>

#include "render/export_stems.h"

namespace ochron {

/// The user's own sets of choices for exports, by name, kept for all songs.
class ExportChoices {
 public:
  struct Kept {
    QString name;
    ExportSettings settings;  ///< without a range
  };
  static std::vector<Kept> all(QString* problem = nullptr);
  static Result<void> keep(const Kept& choices);
  static Result<void> drop(const QString& name);
};

}  // namespace ochron
