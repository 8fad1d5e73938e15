#pragma once

#include <QObject>
#include <QString>
#include <optional>
#include <vector>

#include "document/document.h"
#include "edits/pin_edits.h"

namespace ochron {

/// What the hand works on where sound is stretched: the chosen pins, and the edits of the core on them.
class PinDesk : public QObject {
  Q_OBJECT
 public:
  explicit PinDesk(Document& document);

  /// A place of the recording in a clip, pinned or about to be.
  struct Place {
    SetId set;
    ClipId clip;
    Frames take;
    bool operator==(const Place&) const = default;
  };

  /// Whether pins are seen and taken hold of in the open step.
  bool shown() const;
  /// The place that is played at a song time; drawn to a hit, or to where a note begins or
  /// ends, that is at most `reach` away.
  std::optional<Place> placeAt(SetId set, Frames song, Frames reach) const;
  /// The place of a hit in the clip that plays it.
  std::optional<Place> placeOf(SetId set, TakeId take, Frames at) const;

  bool isChosen(const Place& place) const;
  const std::vector<Place>& chosen() const { return chosen_; }
  void choose(const std::vector<Place>& places, bool add = false);
  void toggle(const Place& place);

  /// Pins a place where it is and chooses it.
  void add(const Place& place);
  /// At the play line in the active set, on the hit that is there.
  void addAtPlayLine();
  /// The chosen ones go; between those that are left the sound lies evenly.
  void remove();
  /// All of the active set, or of the range.
  void removeAll();
  /// Nudging is meant for pins: some are chosen.
  bool nudges() const { return shown() && !chosen_.empty(); }
  void nudge(Frames by);
  /// The chosen pin to a song time.
  void moveTo(Frames song);
  /// Where the chosen pin is, in song time; none unless exactly one is chosen.
  std::optional<Frames> placeOfChosen() const;
  /// How the sound beside a place is stretched, in words; with a warning beyond the plan's limit.
  QString wordsFor(const Clip& clip, Frames take) const;

 signals:
  void changed();

 private:
  void prune();
  void forgetGone();
  bool edit(const QString& name, SetId set, const Result<Song>& next);

  Document& doc_;
  std::vector<Place> chosen_;
  std::optional<HitRef> hitSeen_;  ///< commands are meant for what was chosen last
};

}  // namespace ochron
