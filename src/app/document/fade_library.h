#pragma once

#include <QStringList>
#include <optional>

#include "base/result.h"
#include "song/clip.h"

namespace ochron {

/// The user's own fades, by name; kept for all songs in one JSON file of the program's data folder.
class FadeLibrary {
 public:
  struct Kept {
    QString name;
    Fade fade;   ///< its length in frames at 48 kHz
  };
  static std::vector<Kept> fades();
  static Result<void> keep(const Kept& fade);
  static Result<void> drop(const QString& name);
};

}  // namespace ochron
