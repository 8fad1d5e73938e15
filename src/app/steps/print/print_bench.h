#pragma once

#include <QLabel>
#include <QTableWidget>
#include <QWidget>
#include <functional>
#include <optional>

#include "document/document.h"
#include "edits/print_edits.h"
#include "render/export.h"

namespace ochron {

class EffectBench;
class LoudnessView;

/// What an export would write, or what committing to audio would do: a row a file.
class PrintBench : public QWidget {
  Q_OBJECT
 public:
  /// `ask`: what is to be committed, when that is what the step is about to do; `effects`: whether these are worked on.
  PrintBench(Document& document, std::function<ExportSettings()> settings, std::function<std::optional<PrintAsk>()> ask,
             std::function<bool()> effects, QWidget* parent);
  void refresh();

 protected:
  void paintEvent(QPaintEvent*) override;
  void showEvent(QShowEvent*) override { refresh(); }

 private:
  Document& doc_;
  std::function<ExportSettings()> settings_;
  void listExport();
  void listPrint(const PrintAsk& ask);

  std::function<std::optional<PrintAsk>()> ask_;
  std::function<bool()> showsEffects_;
  EffectBench* effects_;
  QTableWidget* table_;
  LoudnessView* loudness_;
  QTableWidget* prints_;
  QLabel* note_;  ///< what a print does, or why there is none
};

}  // namespace ochron
