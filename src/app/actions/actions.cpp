#include "actions/actions.h"

#include <QAbstractButton>
#include <QAbstractItemView>
#include <QAbstractSlider>
#include <QAbstractSpinBox>
#include <QApplication>
#include <QComboBox>
#include <QKeyEvent>
#include <QSettings>
#include <QWidget>

namespace ochron {

Actions::Actions(QWidget* window) : QObject(window), window_(window) {
  setObjectName("actions");
  qApp->installEventFilter(this);
}

namespace {

/// Keys that belong to what has the focus before they are commands of the window.
bool isOwnKey(const QObject* focused, const QKeyEvent& key) {
  const bool plain = (key.modifiers() & ~(Qt::ShiftModifier | Qt::KeypadModifier)) == Qt::NoModifier;
  if (!plain) return false;
  const bool press = key.key() == Qt::Key_Space || key.key() == Qt::Key_Return || key.key() == Qt::Key_Enter;
  if (qobject_cast<const QAbstractButton*>(focused) || focused->property(kPressedByKeys).toBool()) return press;
  const bool list = qobject_cast<const QComboBox*>(focused) || qobject_cast<const QAbstractItemView*>(focused);
  if (!list) return false;
  switch (key.key()) {
    case Qt::Key_Home:
    case Qt::Key_End:
    case Qt::Key_Left:
    case Qt::Key_Right: return true;
    default: return press || (!key.text().isEmpty() && key.text().at(0).isPrint());
  }
}

/// A click leaves the focus where it is, so that Space goes on playing the song; who comes by Tab presses with it.
void takeFocusByTabOnly(QWidget& widget) {
  if (widget.focusPolicy() & Qt::ClickFocus)
    widget.setFocusPolicy(widget.focusPolicy() & Qt::TabFocus ? Qt::TabFocus : Qt::NoFocus);
}

}  // namespace

bool Actions::eventFilter(QObject* watched, QEvent* event) {
  const bool pressable = qobject_cast<QAbstractButton*>(watched) || qobject_cast<QComboBox*>(watched);
  if (pressable && event->type() == QEvent::Show && static_cast<QWidget*>(watched)->window() == window_)
    takeFocusByTabOnly(*static_cast<QWidget*>(watched));
  if (event->type() == QEvent::KeyPress) {
    auto* button = qobject_cast<QAbstractButton*>(watched);
    const int pressed = static_cast<QKeyEvent*>(event)->key();
    if (!button || (pressed != Qt::Key_Return && pressed != Qt::Key_Enter)) return false;
    if (button->isEnabled() && button->window() == window_) button->click();
    return button->window() == window_;
  }
  if (event->type() != QEvent::ShortcutOverride) return false;
  const auto* key = static_cast<QKeyEvent*>(event);
  if (isOwnKey(watched, *key)) {
    event->accept();
    return true;
  }
  const bool stepping = key->key() == Qt::Key_Up || key->key() == Qt::Key_Down || key->key() == Qt::Key_PageUp ||
                        key->key() == Qt::Key_PageDown;
  const bool list = qobject_cast<QComboBox*>(watched) || qobject_cast<QAbstractSpinBox*>(watched) ||
                    qobject_cast<QAbstractItemView*>(watched) || qobject_cast<QAbstractSlider*>(watched);
  if (!stepping || !list || key->modifiers() != Qt::NoModifier) return false;
  event->accept();
  return true;
}

Actions* Actions::of(QWidget* widget) {
  return widget->window()->findChild<Actions*>("actions", Qt::FindDirectChildrenOnly);
}

void Actions::bind(QAbstractButton* button, const QString& id) {
  button->setProperty(kCommand, id);
  connect(button, &QAbstractButton::clicked, button, [button, id] { of(button)->trigger(id); });
}

QAction* Actions::add(const QString& id, const QString& text, const QString& keys, std::function<void()> run,
                      const std::function<bool()>& enabled) {
  auto* a = new QAction(text, this);
  a->setObjectName(id);
  QList<QKeySequence> shipped;
  for (const auto& key : keys.split(' ', Qt::SkipEmptyParts)) shipped << QKeySequence(key);
  a->setShortcuts(shipped);
  a->setShortcutContext(Qt::WindowShortcut);
  connect(a, &QAction::triggered, this, [run = std::move(run)] { run(); });
  window_->addAction(a);
  actions_.insert(id, a);
  if (enabled) enabled_.insert(id, enabled);
  order_ << id;
  shipped_.insert(id, shipped);
  const auto kept = QSettings().value("keys/" + id);
  if (kept.isValid()) a->setShortcut(QKeySequence(kept.toString()));
  return a;
}

void Actions::setKey(const QString& id, const QKeySequence& key) {
  if (auto* a = action(id)) {
    a->setShortcut(key);
    QSettings().setValue("keys/" + id, key.toString());
  }
}

void Actions::resetKey(const QString& id) {
  if (auto* a = action(id)) {
    a->setShortcuts(shipped_.value(id));
    QSettings().remove("keys/" + id);
  }
}

KeySet Actions::keys() const {
  KeySet out;
  for (const auto& id : order_) {
    const auto& now = actions_.value(id)->shortcuts();
    if (now != shipped_.value(id)) out.insert(id, now.isEmpty() ? QString() : now.front().toString());
  }
  return out;
}

int Actions::useKeys(const KeySet& keys) {
  for (const auto& id : order_) resetKey(id);
  int unknown = 0;
  for (auto it = keys.cbegin(); it != keys.cend(); ++it) {
    if (!actions_.contains(it.key())) {
      ++unknown;
      continue;
    }
    const QKeySequence key(it.value());
    if (const auto holder = holderOf(key, it.key()); !holder.isEmpty() && !keys.contains(holder)) setKey(holder, {});
    setKey(it.key(), key);
  }
  return unknown;
}

QString Actions::holderOf(const QKeySequence& key, const QString& but) const {
  if (key.isEmpty()) return {};
  for (const auto& id : order_)
    if (id != but && actions_.value(id)->shortcuts().contains(key)) return id;
  return {};
}

bool Actions::trigger(const QString& id) {
  auto* a = action(id);
  if (!a) return false;
  refresh();
  if (!a->isEnabled()) return false;
  a->trigger();
  return true;
}

void Actions::refresh() {
  for (auto it = enabled_.cbegin(); it != enabled_.cend(); ++it) actions_.value(it.key())->setEnabled(it.value()());
}

}  // namespace ochron
