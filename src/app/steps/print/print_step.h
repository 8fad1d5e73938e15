#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QWidget>

#include "document/document.h"
#include "edits/print_edits.h"
#include "panel/step_page.h"

namespace ochron {

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
  PrintAsk ask() const;
  void commit();
  void handOver();

  QComboBox* doing_;
  ExportPanel* exporting_;
  QWidget* committing_;
  QWidget* handing_;
  EffectPanel* effects_;
  QComboBox* printWhat_;
  QComboBox* printDepth_;
  QLabel* printed_;
  QPushButton* back_;
  QPushButton* alive_;  ///< what the print was made of is heard
  QCheckBox* withRecordings_;
  PrintBench* bench_ = nullptr;
};

}  // namespace ochron
