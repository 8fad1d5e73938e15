#pragma once

#include <QAccessible>
#include <QRectF>
#include <QString>
#include <functional>
#include <vector>

namespace ochron {

/// Something that is painted, as a screen reader is told of it.
struct ReadItem {
  QString name;  ///< what it is and where, with its numbers
  QRectF box;    ///< in the widget's pixels
  bool chosen = false;
  std::function<void()> choose = {};  ///< what pressing it does; none: nothing
};

/// A widget that paints things of its own and says which: what it shows now, from left to right or from top to bottom.
class ReadItems {
 public:
  ReadItems() = default;
  ReadItems(const ReadItems&) = delete;
  ReadItems& operator=(const ReadItems&) = delete;
  virtual ~ReadItems() = default;
  virtual std::vector<ReadItem> readItems() const = 0;
  /// What the widget is to readers.
  virtual QAccessible::Role readRole() const { return QAccessible::List; }
};

/// From now on the items of every such widget are children of it to screen readers.
void tellItemsToReaders();

}  // namespace ochron
