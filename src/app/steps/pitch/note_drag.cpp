#include "steps/pitch/note_drag.h"

#include <algorithm>
#include <cmath>

#include "canvas/view_state.h"
#include "document/pitch_desk.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "document/wording.h"
#include "time/grid.h"

namespace ochron {
namespace {

constexpr double kSnapPixels = 7;  // pixels
constexpr double kFirst = 4;       // pixels until it is known which way

}  // namespace

NoteDrag::NoteDrag(Document& doc, ViewState& view, QPointF from, const PitchDesk::Note& note, NotePart part,
                   double centsPerPixel, Tell tell)
    : doc_(doc),
      view_(view),
      desk_(doc.pitchDesk()),
      base_(doc.version()),
      from_(from),
      note_(note),
      part_(part),
      chosen_(desk_.chosen()),
      perPixel_(centsPerPixel),
      tell_(std::move(tell)) {}

void NoteDrag::move(QPointF point, Qt::KeyboardModifiers modifiers) {
  const auto by = point - from_;
  if (way_ == Way::none) {
    if (std::max(std::abs(by.x()), std::abs(by.y())) < kFirst) return;
    way_ = std::abs(by.x()) > std::abs(by.y()) ? Way::time : Way::pitch;
  }
  way_ == Way::pitch ? inPitch(-by.y() * perPixel_, modifiers) : inTime(by.x(), modifiers);
}

void NoteDrag::inPitch(double by, Qt::KeyboardModifiers modifiers) {
  if (!modifiers.testFlag(Qt::ShiftModifier))
    by = desk_.heardScale().nearest(note_.tuned.after + by) - note_.tuned.after;
  const double transposed = desk_.settings().transpose;
  std::vector<std::pair<NoteName, double>> targets;
  for (const auto& n : chosen_) targets.emplace_back(n.name, n.tuned.after - transposed + by);
  desk_.moveTo(targets, "note pitch");
  const double to = note_.tuned.after + by;
  tell_(PitchDesk::tr("%1, %2 cents from what was sung \u00b7 Shift: off the scale \u00b7 Escape takes it back")
            .arg(desk_.heardName(to))
            .arg(std::lround(to - note_.tuned.parts.centre)));
}

void NoteDrag::inTime(double pixels, Qt::KeyboardModifiers modifiers) {
  const auto was = part_ == NotePart::end ? note_.end : note_.start;
  auto to = view_.frameAt(view_.xOf(was) + pixels);
  const auto& map = base_->tempo;
  if (const auto line = nearestLine(map, doc_.timingDesk().settings().grid, map.toTicks(to));
      !modifiers.testFlag(Qt::ShiftModifier) && std::abs(view_.xOf(line.frame) - view_.xOf(to)) <= kSnapPixels)
    to = line.frame;
  const auto reach = modifiers.testFlag(Qt::AltModifier)       ? PinReach::following
                     : modifiers.testFlag(Qt::ControlModifier) ? PinReach::ends
                                                               : PinReach::neighbours;
  std::vector<NoteName> names;
  for (const auto& n : chosen_) names.push_back(n.name);
  const auto next = moveNotes(*base_, doc_.selection().set(), names, part_, to - was, reach);
  if (!next) return tell_(QString::fromStdString(next.error().message));
  if (!doc_.edit(
          part_ == NotePart::whole ? PitchDesk::tr("Move notes in time") : PitchDesk::tr("Change the length of notes"),
          next, "note time"))
    return;
  Frames now = was;
  for (const auto& n : desk_.notes())
    if (n.name == note_.name) now = part_ == NotePart::end ? n.end : n.start;
  tell_(PitchDesk::tr("%1 ms \u00b7 %2 \u00b7 Shift: no grid \u00b7 Escape takes it back")
            .arg(signedMs(msFromFrames(now - was, base_->rate)))
            .arg(reach == PinReach::following ? PitchDesk::tr("what follows comes along")
                 : reach == PinReach::ends    ? PitchDesk::tr("both sides give way")
                                              : PitchDesk::tr("neighbours hold (Alt: what follows comes, Ctrl: all)")));
}

}  // namespace ochron
