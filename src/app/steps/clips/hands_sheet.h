#pragma once

#include <QLabel>
#include <QWidget>
#include <vector>

class QGridLayout;

namespace ochron {

/// What the hand can do with clips, in groups across: stands where the values are while nothing is chosen.
class HandsSheet : public QWidget {
  Q_OBJECT
 public:
  explicit HandsSheet(QWidget* parent);

 protected:
  /// Keys may have been changed meanwhile.
  void showEvent(QShowEvent*) override;
  /// Two and two where four do not fit.
  void resizeEvent(QResizeEvent*) override;

 private:
  void arrange(int across);
  struct Key {
    QLabel* label;
    QString command;
  };
  std::vector<Key> keys_;
  QGridLayout* grid_;
  std::vector<QWidget*> groups_;
  int across_ = 0;
};

}  // namespace ochron
