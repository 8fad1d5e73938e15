#pragma once

#include <QLabel>
#include <QProgressBar>
#include <QToolButton>
#include <QWidget>

#include "document/document.h"

namespace ochron {

/// What is selected, what the background work does and how far it is, and which device plays.
class StatusLine : public QWidget {
  Q_OBJECT
 public:
  StatusLine(Document& document, QWidget* parent);
  /// A message stays until the next one, or some seconds.
  void say(const QString& sentence);
  /// While a gesture is under way; empty ends it.
  void tellGesture(const QString& sentence);

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  void refresh();
  QString selectionText() const;
  Document& doc_;
  QLabel* text_;
  QLabel* job_;
  QProgressBar* progress_;
  QToolButton* cancel_;
  QLabel* device_;
  QString said_;
  QString gesture_;
  class QTimer* timer_;
};

}  // namespace ochron
