#pragma once

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <QWidget>
#include <vector>

#include "document/document.h"

namespace ochron {

class PatternCard;

/// The patterns of the set that is worked on, and what can be made of them.
class PatternBox : public QWidget {
  Q_OBJECT
 public:
  PatternBox(Document& document, QWidget* parent);
  void refresh();

 private:
  Document& doc_;
  QVBoxLayout* cards_;
  std::vector<PatternCard*> shown_;
  QLabel* empty_;
  QWidget* others_;
};

}  // namespace ochron
