#pragma once

#include <QObject>
#include <optional>

#include "document/selection.h"

namespace ochron {

/// Commands that say only "this": removed, nudged, described. What they are done to is what the selection means, in
/// every step.
class ThisDesk : public QObject {
  Q_OBJECT
 public:
  explicit ThisDesk(Document& document);

  /// Notes are given back to the plan, seams likewise; a range is cut out in the Clips step only.
  bool canRemove() const { return removed().has_value(); }
  void remove();
  bool canNudge() const { return nudged().has_value(); }
  void nudge(Frames by);
  /// By steps of the grid.
  void nudgeByGrid(int steps);
  /// Copies or cuts the clips, else the range.
  bool canCopy() const;
  /// "Snare, bar 10 beat 2, 3.8 ms late, goes to 5.3 ms late"; where the play line is when nothing is chosen.
  QString words() const;

 private:
  using Thing = Selection::Thing;
  std::optional<Thing> removed() const;
  std::optional<Thing> nudged() const;
  /// Song time that what is nudged begins at.
  Frames start() const;
  void nudgeHit(Frames by);
  void nudgeSeam(Frames by);
  void nudgePoint(Frames by);

  Document& doc_;
};

}  // namespace ochron
