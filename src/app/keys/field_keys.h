#pragma once

#include <QObject>

class QWidget;

namespace ochron {

/// How the fields of the window behave towards keys and the wheel: after Return or Escape the keys are the lanes' again
/// (Escape leaves the value as it was), and so they are after a button that has nothing more to do; Tab goes on through
/// the fields, and the wheel never turns a value.
class FieldKeys : public QObject {
  Q_OBJECT
 public:
  FieldKeys(QWidget* window, QWidget* lanes);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  QWidget* window_;
  QWidget* lanes_;
};

}  // namespace ochron
