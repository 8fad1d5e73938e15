#pragma once

#include <QLabel>
#include <QLineEdit>
#include <QToolButton>
#include <QWidget>

#include "document/pin_desk.h"

namespace ochron {

/// The pins of the active set: how many there are, and the chosen one's place, to be typed.
class PinsBox : public QWidget {
  Q_OBJECT
 public:
  PinsBox(Document& document, QWidget* parent);

 private:
  void refresh();
  void typed();

  Document& doc_;
  QLabel* title_;
  QLineEdit* place_;
  QToolButton* remove_;
  QLabel* words_;
};

}  // namespace ochron
