#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QPushButton>
#include <QWidget>

#include "document/document.h"
#include "panel/controls.h"
#include "panel/step_page.h"

namespace ochron {

/// How pieces are joined: for all seams by the plan's settings, for chosen ones by decisions of their own.
class SeamsStep : public StepPage {
  Q_OBJECT
 public:
  SeamsStep(Document& document, QWidget* parent);
  QWidget* makeBench(ViewState& view, QWidget* parent) override;
  StepState state() const override;

 private:
  void refresh();
  bool forAll() const { return scope_->currentIndex() == 0; }
  void change(const QString& name, const std::function<void(TimingSettings&)>& all,
              const std::function<void(SeamOverride&)>& chosen, const QString& gesture = {});
  QComboBox* combo(const QString& name, const QStringList& items, const QString& tip);

  QComboBox* scope_;
  SettingControl* leadIn_;
  SettingControl* length_;
  SettingControl* bias_;
  QComboBox* law_;
  QComboBox* shape_;
  QComboBox* fill_;
  QCheckBox* click_;
  QCheckBox* lift_;
  QPushButton* release_;
};

}  // namespace ochron
