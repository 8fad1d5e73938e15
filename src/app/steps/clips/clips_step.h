#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QPushButton>

#include "document/clip_desk.h"
#include "document/document.h"
#include "panel/controls.h"
#include "panel/fold.h"
#include "panel/step_page.h"

namespace ochron {

/// Edits by hand: the values of what is chosen, where to cut, fades, silence, envelopes, and what drags snap to.
class ClipsStep : public StepPage {
  Q_OBJECT
 public:
  ClipsStep(Document& document, QWidget* parent);
  QWidget* makeBench(ViewState& view, QWidget* parent) override;
  StepState state() const override;

 private:
  void buildCut(Fold* fold);
  void buildFades(Fold* fold);
  void buildSilence(Fold* fold);
  void buildEnvelopes(Fold* fold);
  void buildSnap(Fold* fold);
  void refresh();
  void change(const std::function<void(HandSettings&)>& change);
  QPushButton* button(QVBoxLayout* to, const QString& text, const char* action, const QString& tip = {});
  /// Two buttons in one row.
  void pair(QVBoxLayout* to, const QString& a, const char* actionA, const QString& b, const char* actionB);
  QDoubleSpinBox* number(QVBoxLayout* to, const QString& title, const SettingRange& range, double HandSettings::*value);
  QCheckBox* tick(QVBoxLayout* to, const QString& title, const QString& tip,
                  const std::function<bool&(HandSettings&)>& of);

  Fold* silence_ = nullptr;
  QComboBox* fades_ = nullptr;
  QComboBox* envelope_ = nullptr;
  QLabel* envelopeHint_ = nullptr;
  QLabel* found_ = nullptr;
  SettingControl* level_ = nullptr;
  SettingControl* length_ = nullptr;
  SettingControl* pad_ = nullptr;
  std::vector<std::function<void()>> readers_;
};

}  // namespace ochron
