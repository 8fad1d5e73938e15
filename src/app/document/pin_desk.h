#pragma once

#include <QObject>
#include <QString>
#include <optional>
#include <vector>

#include "document/document.h"
#include "document/selection.h"
#include "edits/pin_edits.h"

namespace ochron {

/// What the hand works on where sound is stretched: the edits of the core on the chosen pins.
class PinDesk : public QObject {
  Q_OBJECT
 public:
  explicit PinDesk(Document& document);

  /// Whether pins are seen and taken hold of in the open step.
  bool shown() const;
  /// The place that is played at a song time; drawn to a hit, or to where a note begins or
  /// ends, that is at most `reach` away.
  std::optional<PinRef> placeAt(SetId set, Frames song, Frames reach) const;
  /// The place of a hit in the clip that plays it.
  std::optional<PinRef> placeOf(SetId set, TakeId take, Frames at) const;

  /// Pins a place where it is and chooses it.
  void add(const PinRef& place);
  /// At the play line in the active set, on the hit that is there.
  void addAtPlayLine();
  /// The chosen ones go; between those that are left the sound lies evenly.
  void remove();
  /// All of the active set, or of the range.
  void removeAll();
  void nudge(Frames by);
  /// The chosen pin to a song time.
  void moveTo(Frames song);
  /// Where the chosen pin is, in song time; none unless exactly one is chosen.
  std::optional<Frames> placeOfChosen() const;
  /// How the sound beside a place is stretched, in words; with a warning beyond the plan's limit.
  QString wordsFor(const Clip& clip, Frames take) const;

 private:
  const std::vector<PinRef>& chosen() const { return doc_.selection().pins(); }
  bool edit(const QString& name, SetId set, const Result<Song>& next);

  Document& doc_;
};

}  // namespace ochron
