#pragma once

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QWidget>

#include "document/document.h"

namespace ochron {

/// The meter of the bar at the play line: from there on, or of that bar alone.
class MeterBox : public QWidget {
  Q_OBJECT
 public:
  MeterBox(Document& document, QWidget* parent);

 private:
  void refresh();
  int bar() const;
  void set(bool alone);

  Document& doc_;
  QLabel* where_;
  QComboBox* meter_;
  int shown_ = -1;
};

}  // namespace ochron
