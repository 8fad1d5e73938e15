#pragma once

#include <QTableWidget>
#include <QWidget>
#include <functional>

#include "document/document.h"
#include "render/export.h"

namespace ochron {

/// What an export would write: a row a file.
class PrintBench : public QWidget {
  Q_OBJECT
 public:
  PrintBench(Document& document, std::function<ExportSettings()> settings, QWidget* parent);
  void refresh();

 protected:
  void paintEvent(QPaintEvent*) override;
  void showEvent(QShowEvent*) override { refresh(); }

 private:
  Document& doc_;
  std::function<ExportSettings()> settings_;
  QTableWidget* table_;
};

}  // namespace ochron
