#pragma once

#include <QAbstractItemView>
#include <QLabel>
#include <functional>

namespace ochron {

/// What a table says in its middle as long as it has no rows. It lives and goes with the table.
class EmptyNote : public QLabel {
  Q_OBJECT
 public:
  EmptyNote(QAbstractItemView& table, std::function<QString()> text);

 private:
  void refresh();

  const QAbstractItemModel& rows_;
  std::function<QString()> text_;
};

}  // namespace ochron
