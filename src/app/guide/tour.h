#pragma once

#include <QFrame>
#include <functional>
#include <vector>

class QLabel;
class QPushButton;

namespace ochron {

/// A first look around, in place: a card beside the real thing it speaks of, which is outlined. Everything stays
/// usable meanwhile; it is left at once by Escape or "Skip".
class Tour : public QFrame {
  Q_OBJECT
 public:
  struct Stop {
    QString title;
    QString text;
    std::function<QRect()> place;  ///< in the window's coordinates; empty: not in sight now
    std::function<void()> before;  ///< brings it into sight
  };
  Tour(QWidget* window, std::vector<Stop> stops);
  int at() const { return at_; }
  int count() const { return static_cast<int>(stops_.size()); }
  void go(int stop);
  void leave();

 protected:
  void paintEvent(QPaintEvent*) override;
  bool event(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void settle();

  std::vector<Stop> stops_;
  int at_ = 0;
  QWidget* outline_;
  QLabel* title_;
  QLabel* text_;
  QLabel* count_;
  QPushButton* back_;
  QPushButton* next_;
};

}  // namespace ochron
