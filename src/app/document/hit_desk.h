#pragma once

#include <QObject>
#include <QString>
#include <filesystem>

#include "song/song.h"

namespace ochron {

class Document;

/// What the hits step works on: finding the hits of a set, saying what counts, going through them, correcting them.
class HitDesk : public QObject {
  Q_OBJECT
 public:
  explicit HitDesk(Document& document);

  /// Whether hits of the active set are being looked for.
  bool finding() const;

  /// Finds the hits of what a set plays, in the background.
  void find(SetId set);
  /// Names the hits that sound like the current one as that one is named, in the background.
  void nameAlike();
  void setSettings(const HitSettings& settings, const QString& gesture = {});
  /// While a control that decides what counts as a hit is held, the lanes show the threshold.
  bool shownThreshold() const { return shownThreshold_; }
  void showThreshold(bool on);
  /// The chosen hit goes, the next one is chosen.
  void remove();
  /// To the next hit, or from the play line when none is chosen.
  void step(int by);
  /// Puts the current hit's onset where a mic of the set hears the attack nearest to its present place.
  void setOnsetFrom(TrackId mic);
  /// The active set's hits as a table or notes; the file's ending decides: .csv, .json, .mid.
  void write(const std::filesystem::path& file);

 signals:
  void changed();

 private:
  Document& doc_;
  bool shownThreshold_ = false;
};

}  // namespace ochron
