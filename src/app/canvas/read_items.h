#pragma once

#include <QAccessible>
#include <QRectF>
#include <QString>
#include <functional>
#include <optional>
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

/// A widget that paints itself and is pressed, as screen readers are told of it.
class ReadControl {
 public:
  ReadControl() = default;
  ReadControl(const ReadControl&) = delete;
  ReadControl& operator=(const ReadControl&) = delete;
  virtual ~ReadControl() = default;
  virtual QAccessible::Role readRole() const = 0;
  /// None: it has no such state.
  virtual std::optional<bool> isOn() const = 0;
  virtual void press() = 0;
};

/// From now on such widgets are known to screen readers, the items as children.
void tellItemsToReaders();

}  // namespace ochron
