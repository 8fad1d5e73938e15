#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QGridLayout>
#include <QLabel>
#include <QPushButton>
#include <QWidget>

#include "document/document.h"
#include "edits/print_plan.h"

namespace ochron {

/// What is committed to audio, how deep and in what manner; what takes it back.
class CommitPanel : public QWidget {
  Q_OBJECT
 public:
  CommitPanel(Document& document, QWidget* parent);
  /// What the controls say now.
  PrintAsk ask() const;
  void refresh();

 signals:
  /// By the user.
  void changed();

 private:
  enum class What { set, clips, range, everything };
  QComboBox* combo(const QString& label, const char* name, const QString& tip);
  void buildButtons();

  Document& doc_;
  QGridLayout* grid_;
  QComboBox* what_;
  QComboBox* depth_;
  QComboBox* samples_;
  QCheckBox* level_;
  QDoubleSpinBox* peak_;
  QDoubleSpinBox* tail_;
  QLabel* printed_;
  QPushButton* back_;
  QPushButton* alive_;  ///< what the print was made of is heard
};

}  // namespace ochron
