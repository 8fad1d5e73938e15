#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QWidget>

#include "document/document.h"
#include "render/export_stems.h"

namespace ochron {

/// The choices of an export, and the sets of them that are kept by name.
class ExportPanel : public QWidget {
  Q_OBJECT
 public:
  ExportPanel(Document& document, QWidget* parent);
  /// What the controls say now.
  ExportSettings settings() const;
  void show(const ExportSettings& settings);
  void refresh();

 signals:
  /// By the user.
  void changed();

 private:
  QComboBox* combo(const QString& label, const QString& name, const QStringList& items, int current);
  QCheckBox* check(const QString& text, const char* name, const QString& tip);
  void addField(const QString& label, QWidget* field);
  void buildKept();
  void buildFormats();
  void listKept();
  void pickKept(int index);
  void run();
  std::vector<FileFormat> also() const;

  Document& doc_;
  QGridLayout* grid_;
  QComboBox* kept_;
  QComboBox* what_;
  QComboBox* format_;
  QPushButton* also_;
  QComboBox* depth_;
  QDoubleSpinBox* quality_;
  QComboBox* rate_;
  QComboBox* channels_;
  QComboBox* range_;
  QLineEdit* names_;
  QCheckBox* loud_;
  QDoubleSpinBox* loudness_;
  QDoubleSpinBox* tail_;
  QCheckBox* dither_;
  QCheckBox* midi_;
  QCheckBox* click_;
  QLabel* length_;
};

}  // namespace ochron
