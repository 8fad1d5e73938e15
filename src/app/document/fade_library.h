#pragma once

#include <QString>
#include <vector>

#include "base/result.h"
#include "song/clip.h"

namespace ochron {

/// The user's own fades, by name; kept for all songs in one JSON file of the program's data folder.
class FadeLibrary {
 public:
  static constexpr int kRate = 48'000;
  struct Kept {
    QString name;
    Fade fade;  ///< its length in frames at kRate, whatever song it was made in
    /// As it is in a song of another rate, and the other way round.
    Fade inSong(int rate) const;
    static Kept ofSong(const QString& name, Fade fade, int rate);
  };
  /// In order of their names. A damaged file is moved aside first, so that it is never overwritten; the sentence says
  /// where it is, and the library begins anew.
  static std::vector<Kept> fades(QString* problem = nullptr);
  static Result<void> keep(const Kept& fade);
  static Result<void> drop(const QString& name);
};

}  // namespace ochron
