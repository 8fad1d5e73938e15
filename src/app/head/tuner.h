#pragma once

#include <QElapsedTimer>
#include <QWidget>
#include <optional>

#include "canvas/read_items.h"
#include "document/document.h"

namespace ochron {

/// The note that the chosen track sounds at the play line, and how many cents it is off, against the set's A4.
class Tuner : public QWidget, public ReadItems {
  Q_OBJECT
 public:
  Tuner(Document& document, QWidget* parent);
  /// Listens there, in the background; at most some ten times a second.
  void listen(Frames at);
  std::vector<ReadItem> readItems() const override;
  QAccessible::Role readRole() const override { return QAccessible::Indicator; }
  /// What is shown, cents above 1 Hz.
  std::optional<double> heard() const { return heard_; }

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  struct Reading {
    double off = 0;  ///< cents from the nearest note
    QString name;    ///< of that note
  };
  std::optional<Reading> reading() const;
  void show(std::optional<double> cents);

  Document& doc_;
  QElapsedTimer last_;
  std::optional<double> heard_;
  int missed_ = 0;
};

}  // namespace ochron
