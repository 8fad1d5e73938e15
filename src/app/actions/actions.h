#pragma once

#include <QAbstractButton>
#include <QAction>
#include <QHash>
#include <QObject>
#include <QStringList>
#include <functional>

#include "actions/key_set.h"

namespace ochron {

/// A property of widgets that Space and Return press while they have the focus, as they do buttons.
inline constexpr const char* kPressedByKeys = "pressed by keys";
/// A property of buttons: the id of the command that does the same.
inline constexpr const char* kCommand = "command";

/// Every command once: id, text, shortcut, when it is enabled, what it does. Menus, buttons, keys and tests all go
/// through it.
class Actions : public QObject {
  Q_OBJECT
 public:
  explicit Actions(QWidget* window);
  /// The table of the window that a widget stands in.
  static Actions* of(QWidget* widget);
  /// A button that runs a command of its window.
  static void bind(QAbstractButton* button, const QString& id);

  /// `keys`: those it is shipped with, the one that is shown first, apart by spaces.
  QAction* add(const QString& id, const QString& text, const QString& keys, std::function<void()> run,
               const std::function<bool()>& enabled = {});
  QAction* action(const QString& id) const { return actions_.value(id); }
  QStringList ids() const { return order_; }
  /// Runs a command if it is enabled; false otherwise.
  bool trigger(const QString& id);
  void refresh();

  /// Keys the user has changed are kept for the user.
  void setKey(const QString& id, const QKeySequence& key);
  /// The key it was shipped with.
  void resetKey(const QString& id);
  /// Keys that are not those shipped.
  KeySet keys() const;
  /// These keys, and all others as shipped, also next time. A key that two commands would have is the one's that is
  /// named. Gives back how many of them no command here has.
  int useKeys(const KeySet& keys);
  /// The command other than `but` that has a key; empty when it is free.
  QString holderOf(const QKeySequence& key, const QString& but) const;

 protected:
  /// Space and Return belong to a control that has the focus, letters and arrows to a list, a table or a field.
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  QWidget* window_;
  QHash<QString, QAction*> actions_;
  QHash<QString, std::function<bool()>> enabled_;
  QHash<QString, QList<QKeySequence>> shipped_;
  QStringList order_;
};

}  // namespace ochron
