#pragma once

#include <QWidget>

#include "checks/checks.h"
#include "document/document.h"

namespace ochron {

class ViewState;

/// What the rail says of a step.
struct StepState {
  QString brief;     ///< two words
  QString full;      ///< a line
  int toLookAt = 0;  ///< decisions of this step that deserve a look
};

/// One step of the working order: its controls, which stand in the step panel, and its own working surface under the
/// lanes.
class StepPage : public QWidget {
 public:
  StepPage(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {}
  /// Called once, when the window is built.
  virtual QWidget* makeBench(ViewState& view, QWidget* parent) = 0;
  virtual StepState state() const = 0;

 protected:
  /// Checks of some kinds that the active set has.
  int checksOf(CheckGroup group) const;

  Document& doc_;
};

/// A step with its name.
struct StepEntry {
  Step step;
  QString name;
  StepPage* page;
};

}  // namespace ochron
