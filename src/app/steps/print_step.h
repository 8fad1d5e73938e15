#pragma once

#include <QComboBox>
#include <QLabel>
#include <QWidget>

#include "document/document.h"

namespace ochron {

/// Export of the mix or the tracks.
class PrintStep : public QWidget {
  Q_OBJECT
 public:
  PrintStep(Document& document, QWidget* parent);
  /// What the controls say now.
  ExportSettings settings() const;

 private:
  void refresh();
  void run();

  Document& doc_;
  QComboBox* what_;
  QComboBox* format_;
  QComboBox* depth_;
  QComboBox* range_;
  QLabel* length_;
};

}  // namespace ochron
