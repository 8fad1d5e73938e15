#pragma once

#include <QComboBox>
#include <QWidget>
#include <vector>

#include "document/document.h"
#include "panel/controls.h"

namespace ochron {

/// Which groove hits follow instead of the bare lines, and how much of it.
class GrooveBox : public QWidget {
  Q_OBJECT
 public:
  GrooveBox(Document& document, QWidget* parent);

 private:
  void refresh();
  void rebuild();
  Document& doc_;
  QComboBox* which_;
  SettingControl* amount_;
  SettingControl* scatter_;
  std::vector<Groove> offered_;
  QStringList toldProblems_;
};

}  // namespace ochron
