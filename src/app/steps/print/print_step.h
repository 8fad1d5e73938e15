#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QWidget>

#include "document/document.h"
#include "panel/step_page.h"

namespace ochron {

class CommitPanel;
class EffectPanel;
class ExportPanel;
class PrintBench;

/// Export of the mix or the tracks; clips and tracks committed to audio and taken back; a folder to hand over.
class PrintStep : public StepPage {
  Q_OBJECT
 public:
  PrintStep(Document& document, QWidget* parent);
  QWidget* makeBench(ViewState& view, QWidget* parent) override;
  StepState state() const override;

 private:
  void refresh();

  /// What the table says is about to be done.
  enum class Doing { exporting, committing, handingOver, effects };
  Doing doing() const;
  void handOver();

  QComboBox* doing_;
  ExportPanel* exporting_;
  CommitPanel* committing_;
  QWidget* handing_;
  EffectPanel* effects_;
  QCheckBox* withRecordings_;
  PrintBench* bench_ = nullptr;
};

}  // namespace ochron
