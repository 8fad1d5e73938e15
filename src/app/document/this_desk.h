#pragma once

#include <QObject>
#include <functional>
#include <optional>
#include <vector>

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
  /// Chooses the next of what is worked on (by > 0) or the one before: of what is meant, else of what the open step is
  /// about. With `extend` clips, pins and notes are added to those that are chosen; of all else the range grows.
  void step(int by, bool extend = false);
  /// Notes, pins, or clips.
  void chooseAll();
  /// The first or the last one.
  void stepToEnd(bool last);
  /// Clips to the mic set below (by > 0) or above.
  bool canChangeSet() const;
  void changeSet(int by);
  /// Up or down: notes by a step of the scale, points and clips in level, a layer's stroke by 1 dB.
  bool canRaise() const;
  void raise(int by);
  /// Copies or cuts the clips, else the range.
  bool canCopy() const;
  /// "Snare, bar 10 beat 2, 3.8 ms late, goes to 5.3 ms late"; where the play line is when nothing is chosen.
  QString words() const;

 private:
  using Thing = Selection::Thing;
  /// Something that can be stepped to.
  struct Stop {
    Frames at;
    bool chosen = false;
    std::function<void(bool add)> choose;
  };
  Thing stepped() const;
  std::vector<Stop> stops() const;
  void addStops(const MicSet& set, std::vector<Stop>& to) const;
  void go(const Stop& stop, bool extend);
  std::optional<Thing> raised() const;
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
