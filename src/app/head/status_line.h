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
  /// A message stays until the next one, or some seconds; what was refused is marked.
  void say(const QString& sentence, bool refused);
  /// The last messages, the newest first, in a menu above the line.
  void showLast();
  /// While a gesture is under way; empty ends it.
  void tellGesture(const QString& sentence);

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override { refresh(); }
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void refresh();
  QString selectionText() const;
  Document& doc_;
  QLabel* text_;
  QLabel* job_;
  QProgressBar* progress_;
  QToolButton* cancel_;
  QToolButton* device_;
  struct Said {
    QString sentence;
    bool refused = false;
  };
  static constexpr int kKept = 30;

  Said said_;
  QList<Said> last_;  ///< the newest first
  QString gesture_;
  class QTimer* timer_;
};

}  // namespace ochron
