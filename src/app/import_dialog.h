#pragma once

#include <QDialog>
#include <vector>

#include "document/document.h"
#include "document/takes_desk.h"

class QCheckBox;
class QComboBox;
class QLineEdit;

namespace ochron {

/// The files about to become a take: names, mics, and which of them belong together.
class ImportDialog : public QDialog {
  Q_OBJECT
 public:
  ImportDialog(const QStringList& files, const QString& takeName, QWidget* parent);
  std::vector<TakesDesk::ImportFile> files() const;
  QString takeName() const;

 private:
  struct Line {
    QString path;
    QLineEdit* name;
    QComboBox* role;
    QCheckBox* inSet;
  };
  std::vector<Line> lines_;
  QLineEdit* takeName_;
};

}  // namespace ochron
