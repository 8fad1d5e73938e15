#pragma once

#include <QLabel>
#include <QWidget>
#include <vector>

namespace ochron {

/// What the hand can do with clips, in groups across: stands where the values are while nothing is chosen.
class HandsSheet : public QWidget {
  Q_OBJECT
 public:
  explicit HandsSheet(QWidget* parent);

 protected:
  /// Keys may have been changed meanwhile.
  void showEvent(QShowEvent*) override;

 private:
  struct Key {
    QLabel* label;
    QString command;
  };
  std::vector<Key> keys_;
};

}  // namespace ochron
