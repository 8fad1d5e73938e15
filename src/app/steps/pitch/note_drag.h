#pragma once

#include <QString>
#include <functional>
#include <memory>
#include <vector>

#include "canvas/gesture.h"
#include "document/document.h"
#include "document/pitch_desk.h"

namespace ochron {

class ViewState;

/// Dragging the chosen notes. Up and down: by steps of the scale from where the note under the pointer is, with Shift
/// freely. To the sides: in time, a note's beginning or end where it was taken hold of; neighbours hold, with Alt what
/// follows comes along, with Ctrl all gives way. The first pixels say which of the two it is.
class NoteDrag : public Gesture {
 public:
  using Tell = std::function<void(const QString&)>;
  NoteDrag(Document& doc, ViewState& view, QPointF from, const PitchDesk::Note& note, NotePart part,
           double centsPerPixel, Tell tell);
  void move(QPointF point, Qt::KeyboardModifiers modifiers) override;

 private:
  enum class Way { none, pitch, time };
  void inPitch(double by, Qt::KeyboardModifiers modifiers);
  void inTime(double pixels, Qt::KeyboardModifiers modifiers);

  Document& doc_;
  ViewState& view_;
  PitchDesk& desk_;
  std::shared_ptr<const Song> base_;
  QPointF from_;
  PitchDesk::Note note_;
  NotePart part_;
  std::vector<PitchDesk::Note> chosen_;
  double perPixel_;
  Tell tell_;
  Way way_ = Way::none;
};

}  // namespace ochron
