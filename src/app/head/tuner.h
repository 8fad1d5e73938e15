#pragma once

#include <QElapsedTimer>
#include <QWidget>
#include <optional>

#include "document/document.h"

namespace ochron {

/// The note that the chosen track sounds at the play line, and how many cents it is off, against the set's A4.
class Tuner : public QWidget {
  Q_OBJECT
 public:
  Tuner(Document& document, QWidget* parent);
  /// Listens there, in the background; at most some ten times a second.
  void listen(Frames at);
  /// What is shown, cents above 1 Hz.
  std::optional<double> heard() const { return heard_; }

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  void show(std::optional<double> cents);

  Document& doc_;
  QElapsedTimer last_;
  std::optional<double> heard_;
  int missed_ = 0;
};

}  // namespace ochron
