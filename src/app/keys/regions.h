#pragma once

#include <QList>
#include <QPointer>
#include <QWidget>

namespace ochron {

/// The parts of the window that keys go to one by one. Tab stays inside of one; each remembers what had the focus.
class Regions : public QObject {
 public:
  Regions(QWidget* window, QList<QWidget*> parts);
  /// To the next part that is seen, or the one before; a ring around it shows where the keys are, until the mouse is
  /// used.
  void step(int by);
  /// To the next thing in the part that has the focus, round and round; false where nothing in it takes keys.
  bool stepInside(bool next);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  struct Part {
    QWidget* widget;
    QPointer<QWidget> last;
  };
  int current() const;
  static bool takesKeys(const QWidget* w, const QWidget* in);
  static QWidget* firstIn(QWidget* part);

  QRect placeOf(const QWidget* part) const;
  void showRing(const QWidget* around);

  QWidget* window_;
  QWidget* ring_;
  QList<Part> parts_;
};

}  // namespace ochron
