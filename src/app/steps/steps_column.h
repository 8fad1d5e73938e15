#pragma once

#include <QLabel>
#include <QWidget>
#include <vector>

#include "document/document.h"

namespace ochron {

/// The numbered list of steps in working order; the open one shows its controls in place.
class StepsColumn : public QWidget {
  Q_OBJECT
 public:
  StepsColumn(Document& document, QWidget* parent);

 protected:
  /// The wheel scrolls the column; it never turns a value that happens to pass under the pointer.
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  class Title;
  struct Entry {
    Step step;
    Title* title;
    QWidget* controls;
  };
  void add(Step step, const QString& name, QWidget* controls);
  void refresh();
  QString summary(Step step) const;

  Document& doc_;
  std::vector<Entry> entries_;
};

}  // namespace ochron
