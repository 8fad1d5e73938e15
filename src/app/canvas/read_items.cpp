#include "canvas/read_items.h"

#include <QAbstractButton>
#include <QAccessibleWidget>
#include <QCoreApplication>
#include <QPointer>
#include <QRadioButton>
#include <QWidget>
#include <chrono>

namespace ochron {
namespace {

class ItemsAccess;

/// The item with a number: asked anew for everything, as the song may be another one meanwhile.
class ItemAccess : public QAccessibleInterface, public QAccessibleActionInterface {
 public:
  ItemAccess(ItemsAccess& list, std::size_t number) : list_(list), number_(number) {}
  bool isValid() const override { return item() != nullptr; }
  QObject* object() const override { return nullptr; }
  QWindow* window() const override;
  QAccessibleInterface* parent() const override;
  QAccessibleInterface* child(int) const override { return nullptr; }
  QAccessibleInterface* childAt(int, int) const override { return nullptr; }
  int childCount() const override { return 0; }
  int indexOfChild(const QAccessibleInterface*) const override { return -1; }
  QAccessible::Role role() const override { return QAccessible::ListItem; }
  QAccessible::State state() const override {
    QAccessible::State s;
    const auto* i = item();
    s.selectable = i && i->choose;
    s.selected = i && i->chosen;
    return s;
  }
  QString text(QAccessible::Text what) const override {
    const auto* i = item();
    return i && what == QAccessible::Name ? i->name : QString();
  }
  void setText(QAccessible::Text, const QString&) override {}
  QRect rect() const override;
  void* interface_cast(QAccessible::InterfaceType type) override {
    return type == QAccessible::ActionInterface ? static_cast<QAccessibleActionInterface*>(this) : nullptr;
  }
  QStringList actionNames() const override {
    const auto* i = item();
    return i && i->choose ? QStringList{pressAction()} : QStringList();
  }
  QStringList keyBindingsForAction(const QString&) const override { return {}; }
  void doAction(const QString& name) override {
    const auto* i = item();
    if (!i || !i->choose || name != pressAction()) return;
    const auto choose = i->choose;  // what it does may change the list
    choose();
  }

 private:
  const ReadItem* item() const;
  ItemsAccess& list_;
  std::size_t number_;
};

class ItemsAccess : public QAccessibleWidget {
 public:
  ItemsAccess(QWidget& widget, const ReadItems& items)
      : QAccessibleWidget(&widget, items.readRole(), widget.accessibleName()), items_(items) {}
  ~ItemsAccess() override {
    for (const auto id : made_) QAccessible::deleteAccessibleInterface(id);
  }
  int childCount() const override { return QAccessibleWidget::childCount() + static_cast<int>(list().size()); }
  QAccessibleInterface* child(int index) const override {
    const int widgets = QAccessibleWidget::childCount();
    if (index < widgets) return QAccessibleWidget::child(index);
    const auto at = static_cast<std::size_t>(index - widgets);
    if (at >= list().size()) return nullptr;
    while (made_.size() <= at)
      made_.push_back(
          QAccessible::registerAccessibleInterface(new ItemAccess(*const_cast<ItemsAccess*>(this), made_.size())));
    return QAccessible::accessibleInterface(made_[at]);
  }
  int indexOfChild(const QAccessibleInterface* child) const override {
    for (std::size_t i = 0; i < made_.size(); ++i)
      if (QAccessible::accessibleInterface(made_[i]) == child)
        return QAccessibleWidget::childCount() + static_cast<int>(i);
    return QAccessibleWidget::indexOfChild(child);
  }
  const ReadItem* item(std::size_t number) const {
    const auto& all = list();
    return number < all.size() ? &all[number] : nullptr;
  }
  const QWidget& shown() const { return *widget(); }

 private:
  /// A reader asks item by item: what was worked out a moment ago holds.
  const std::vector<ReadItem>& list() const {
    constexpr std::chrono::milliseconds kHolds{50};
    const auto now = std::chrono::steady_clock::now();
    if (now - listed_ > kHolds) {
      list_ = items_.readItems();
      listed_ = now;
    }
    return list_;
  }

  const ReadItems& items_;
  mutable std::vector<ReadItem> list_;
  mutable std::chrono::steady_clock::time_point listed_{};
  mutable std::vector<QAccessible::Id> made_;
};

QWindow* ItemAccess::window() const { return list_.window(); }
QAccessibleInterface* ItemAccess::parent() const { return &list_; }
const ReadItem* ItemAccess::item() const { return list_.item(number_); }
QRect ItemAccess::rect() const {
  const auto* i = item();
  return i ? QRect(list_.shown().mapToGlobal(i->box.topLeft().toPoint()), i->box.size().toSize()) : QRect();
}

class ControlAccess : public QAccessibleWidget {
 public:
  ControlAccess(QWidget& widget, ReadControl& control)
      : QAccessibleWidget(&widget, control.readRole()), control_(control) {}
  QAccessible::State state() const override {
    auto s = QAccessibleWidget::state();
    const auto on = control_.isOn();
    s.checkable = on.has_value();
    s.checked = on.value_or(false);
    return s;
  }
  QStringList actionNames() const override { return QStringList{pressAction()} + QAccessibleWidget::actionNames(); }
  void doAction(const QString& name) override {
    if (name == pressAction())
      control_.press();
    else
      QAccessibleWidget::doAction(name);
  }

 private:
  ReadControl& control_;
};

/// A box that is checked, a button that stays down. Qt's own way of telling readers turns it without a click, so that
/// nobody who waits for clicks hears of it.
class CheckAccess : public QAccessibleWidget {
 public:
  explicit CheckAccess(QAbstractButton& button)
      : QAccessibleWidget(&button,
                          qobject_cast<QRadioButton*>(&button) ? QAccessible::RadioButton : QAccessible::CheckBox),
        button_(button) {}
  QAccessible::State state() const override {
    auto s = QAccessibleWidget::state();
    s.checkable = true;
    s.checked = button_.isChecked();
    return s;
  }
  QString text(QAccessible::Text what) const override {
    const auto known = QAccessibleWidget::text(what);
    return what == QAccessible::Name && known.isEmpty() ? button_.text().remove('&') : known;
  }
  QStringList actionNames() const override {
    return (button_.isEnabled() ? QStringList{toggleAction()} : QStringList()) + QAccessibleWidget::actionNames();
  }
  void doAction(const QString& name) override {
    if (name == toggleAction() || name == pressAction())
      button_.click();
    else
      QAccessibleWidget::doAction(name);
  }

 private:
  QAbstractButton& button_;
};

}  // namespace

void tellItemsToReaders() {
  static const bool once = [] {
    QAccessible::installFactory([](const QString&, QObject* object) -> QAccessibleInterface* {
      auto* widget = qobject_cast<QWidget*>(object);
      const auto* items = dynamic_cast<const ReadItems*>(object);
      if (widget && items) return new ItemsAccess(*widget, *items);
      if (auto* control = dynamic_cast<ReadControl*>(object); widget && control)
        return new ControlAccess(*widget, *control);
      auto* button = qobject_cast<QAbstractButton*>(object);
      return button && button->isCheckable() ? new CheckAccess(*button) : nullptr;
    });
    return true;
  }();
  (void)once;
}

}  // namespace ochron
