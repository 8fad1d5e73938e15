#pragma once

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <QWidget>
#include <optional>

#include "document/document.h"
#include "steps/kit/kit_card.h"

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
  std::optional<CardColumn<PatternCard, Pattern>> cards_;
  QLabel* empty_;
  QWidget* others_;
};

}  // namespace ochron
