#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QWidget>

#include "document/document.h"
#include "panel/step_page.h"
#include "render/export.h"

namespace ochron {

class PrintBench;

/// Export of the mix or the tracks.
class PrintStep : public StepPage {
  Q_OBJECT
 public:
  PrintStep(Document& document, QWidget* parent);
  QWidget* makeBench(ViewState& view, QWidget* parent) override;
  StepState state() const override;
  /// What the controls say now.
  ExportSettings settings() const;

 private:
  void refresh();
  void run();

  QComboBox* what_;
  QComboBox* format_;
  QComboBox* depth_;
  QComboBox* range_;
  QCheckBox* midi_;
  QCheckBox* click_;
  QLabel* length_;
  PrintBench* bench_ = nullptr;
};

}  // namespace ochron
