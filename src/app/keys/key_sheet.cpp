#include "keys/key_sheet.h"

#include <QComboBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QHeaderView>
#include <QKeyEvent>
#include <QKeySequenceEdit>
#include <QLineEdit>
#include <QSettings>
#include <QVBoxLayout>
#include <algorithm>

#include "entry/save_name.h"
#include "files/atomic_file.h"
#include "canvas/read_items.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr int kShipped = 0;
constexpr int kLeft = 1;
constexpr int kOwn = 2;
constexpr std::size_t kMostBytes = 1 << 20;  // of a file of keys
constexpr const char* kOwnKeys = "own keys";

/// Takes the key that is pressed.
class KeyField : public QKeySequenceEdit, public ReadControl {
 public:
  using QKeySequenceEdit::QKeySequenceEdit;
  QAccessible::Role readRole() const override { return QAccessible::HotkeyField; }
  std::optional<bool> isOn() const override { return {}; }
  void press() override { setFocus(); }
};

QTableWidget* commandTable(QWidget* parent) {
  auto* table = new QTableWidget(0, 2, parent);
  table->setAccessibleName(QObject::tr("Commands"));
  table->setHorizontalHeaderLabels({QObject::tr("Command"), QObject::tr("Key")});
  table->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  table->horizontalHeader()->resizeSection(1, 130);
  table->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  table->verticalHeader()->hide();
  table->verticalHeader()->setDefaultSectionSize(25);
  table->setShowGrid(false);
  table->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table->setSelectionBehavior(QAbstractItemView::SelectRows);
  table->setSelectionMode(QAbstractItemView::SingleSelection);
  return table;
}

void addRow(QTableWidget* table, const QString& id, const QAction* a) {
  const int row = table->rowCount();
  table->insertRow(row);
  table->setItem(row, 0, new QTableWidgetItem(a->text()));
  table->setItem(row, 1, new QTableWidgetItem(a->shortcut().toString(QKeySequence::NativeText)));
  table->item(row, 0)->setData(Qt::UserRole, id);
}

}  // namespace

KeySheet::KeySheet(Actions& actions, QWidget* parent) : QDialog(parent), actions_(actions) {
  setObjectName("key sheet");
  setWindowTitle(tr("Keys"));
  resize(560, 660);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(18, 16, 18, 16);
  column->setSpacing(8);
  column->addLayout(setLine());
  auto* search = new QLineEdit(this);
  search->setAccessibleName(tr("Find a command or a key"));
  search->setPlaceholderText(tr("Find a command or a key"));
  column->addWidget(search);
  table_ = commandTable(this);
  column->addWidget(table_);
  auto* line = new QHBoxLayout;
  line->addWidget(new QLabel(tr("New key"), this));
  key_ = new KeyField(this);
  key_->setAccessibleName(tr("Its new key"));
  if (auto* inside = key_->findChild<QLineEdit*>()) inside->setAccessibleName(key_->accessibleName());
  key_->setObjectName("new key");
  line->addWidget(key_, 1);
  set_ = new QPushButton(tr("Use it"), this);
  set_->setObjectName("use key");
  set_->setProperty("primary", true);
  line->addWidget(set_);
  auto* none = new QPushButton(tr("No key"), this);
  none->setObjectName("no key");
  line->addWidget(none);
  auto* back = new QPushButton(tr("As shipped"), this);
  back->setObjectName("shipped key");
  line->addWidget(back);
  column->addLayout(line);
  conflict_ = new QLabel(this);
  conflict_->setObjectName("key conflict");
  conflict_->setWordWrap(true);
  column->addWidget(conflict_);
  auto* hint = new QLabel(
      tr("On the lanes: Shift while dragging suspends snapping. In the Clips step: drag moves, Ctrl+drag copies, "
         "Alt+drag slips, Alt+Shift+drag slides, Shift+drag chooses a range.\n"
         "Wheel: scroll \u00b7 Ctrl+wheel: closer \u00b7 Shift+wheel: tracks \u00b7 Ctrl+Shift+wheel: lane height"),
      this);
  hint->setProperty("note", true);
  hint->setWordWrap(true);
  column->addWidget(hint);
  fill();
  search->setFocus();
  connect(search, &QLineEdit::textChanged, this, [this](const QString& text) {
    for (int r = 0; r < table_->rowCount(); ++r)
      table_->setRowHidden(r, !table_->item(r, 0)->text().contains(text, Qt::CaseInsensitive) &&
                                  !table_->item(r, 1)->text().contains(text, Qt::CaseInsensitive));
  });
  connect(table_, &QTableWidget::itemSelectionChanged, this, &KeySheet::choose);
  connect(key_, &QKeySequenceEdit::keySequenceChanged, this, &KeySheet::tryKey);
  connect(set_, &QPushButton::clicked, this, [this] {
    const auto taken = actions_.holderOf(key_->keySequence(), chosen());
    if (!taken.isEmpty()) actions_.setKey(taken, {});
    actions_.setKey(chosen(), key_->keySequence());
    fill();
  });
  connect(none, &QPushButton::clicked, this, [this] { actions_.setKey(chosen(), {}), fill(); });
  connect(back, &QPushButton::clicked, this, [this] { actions_.resetKey(chosen()), fill(); });
  choose();
}

QLayout* KeySheet::setLine() {
  auto* line = new QHBoxLayout;
  auto* label = new QLabel(tr("Keys"), this);
  line->addWidget(label);
  sets_ = new QComboBox(this);
  sets_->setObjectName("key sets");
  label->setBuddy(sets_);
  sets_->addItem(tr("As shipped"), kShipped);
  sets_->addItem(tr("Left hand: what is pressed most lies under it"), kLeft);
  sets_->addItem(tr("Own"), kOwn);
  line->addWidget(sets_, 1);
  const auto button = [&](const char* name, const QString& text, const QString& tip, auto run) {
    auto* b = new QPushButton(text, this);
    b->setObjectName(name);
    b->setToolTip(tip);
    connect(b, &QPushButton::clicked, this, run);
    line->addWidget(b);
  };
  button("save keys", tr("Save\u2026"), tr("Writes these keys to a file, for another machine or person"),
         &KeySheet::saveSet);
  button("read keys", tr("Read\u2026"), tr("Uses the keys of such a file"), &KeySheet::readSet);
  connect(sets_, &QComboBox::activated, this, [this] { useSet(sets_->currentData().toInt()); });
  return line;
}

void KeySheet::tellSet() {
  const auto now = actions_.keys();
  const int which = now == readyKeys(ReadyKeys::shipped)    ? kShipped
                    : now == readyKeys(ReadyKeys::leftHand) ? kLeft
                                                            : kOwn;
  if (which == kOwn) QSettings().setValue(kOwnKeys, keysAsText(now).toUtf8());
  sets_->setCurrentIndex(sets_->findData(which));
}

void KeySheet::useSet(int which) {
  if (which == kOwn) {
    const auto own = keysFromText(QSettings().value(kOwnKeys).toByteArray(), tr("Own"));
    if (!own) {
      tellSet();
      return conflict_->setText(tr("There are no keys of your own yet. Choose a command to change its key."));
    }
    actions_.useKeys(*own);
  } else {
    actions_.useKeys(readyKeys(which == kLeft ? ReadyKeys::leftHand : ReadyKeys::shipped));
  }
  fill();
}

void KeySheet::saveSet() {
  const auto file = askWhereToSave(this, tr("Save the keys"), "orthochron keys.json", tr("Keys (*.json)"));
  if (file.isEmpty()) return;
  const auto text = keysAsText(actions_.keys()).toStdString();
  if (const auto ok = writeAtomically(file.toStdString(), text); !ok)
    conflict_->setText(QString::fromStdString(ok.error().message));
  else
    conflict_->setText(tr("Saved to %1.").arg(file));
}

void KeySheet::readSet() {
  const auto file = QFileDialog::getOpenFileName(this, tr("Read keys"), {}, tr("Keys (*.json)"));
  if (!file.isEmpty()) readKeys(file);
}

void KeySheet::readKeys(const QString& path) {
  const auto text = readWholeFile(path.toStdString(), kMostBytes);
  const auto keys = text ? keysFromText(QByteArray::fromStdString(*text), QFileInfo(path).fileName())
                         : Result<KeySet>(tl::unexpected(text.error()));
  if (!keys) return conflict_->setText(QString::fromStdString(keys.error().message));
  const int unknown = actions_.useKeys(*keys);
  fill();
  conflict_->setText(unknown == 0
                         ? tr("These keys are in use now.")
                         : tr("These keys are in use now; %1 of them are of commands that are not here.").arg(unknown));
}

void KeySheet::fill() {
  tellSet();
  const auto now = chosen();
  const QSignalBlocker quiet(table_);
  table_->setRowCount(0);
  for (const auto& id : actions_.ids()) addRow(table_, id, actions_.action(id));
  for (int r = 0; r < table_->rowCount(); ++r)
    if (table_->item(r, 0)->data(Qt::UserRole).toString() == now) table_->selectRow(r);
  tryKey();
}

QString KeySheet::chosen() const {
  const auto items = table_->selectedItems();
  return items.isEmpty() ? QString() : table_->item(items.front()->row(), 0)->data(Qt::UserRole).toString();
}

void KeySheet::choose() {
  key_->setEnabled(!chosen().isEmpty());
  if (const auto* a = actions_.action(chosen())) key_->setKeySequence(a->shortcut());
  tryKey();
}

void KeySheet::tryKey() {
  const auto id = chosen();
  set_->setEnabled(!id.isEmpty() && !key_->keySequence().isEmpty());
  const auto taken = actions_.holderOf(key_->keySequence(), id);
  set_->setText(taken.isEmpty() ? tr("Use it") : tr("Use it here instead"));
  conflict_->setText(id.isEmpty()      ? tr("Choose a command to change its key.")
                     : taken.isEmpty() ? QString()
                                       : tr("%1 is the key of \"%2\". Used here, that command has none.")
                                             .arg(key_->keySequence().toString(QKeySequence::NativeText),
                                                  actions_.action(taken)->text()));
}

CommandFinder::CommandFinder(Actions& actions, QWidget* parent) : QDialog(parent), actions_(actions) {
  setObjectName("command finder");
  setWindowTitle(tr("Find a command"));
  resize(520, 420);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(14, 14, 14, 14);
  column->setSpacing(8);
  auto* search = new QLineEdit(this);
  search->setAccessibleName(tr("Find a command"));
  search->setObjectName("find");
  search->setPlaceholderText(tr("Some words of what you want to do"));
  search->setFont(Theme::get().font(15));
  column->addWidget(search);
  table_ = commandTable(this);
  table_->horizontalHeader()->hide();
  table_->setFocusPolicy(Qt::NoFocus);
  column->addWidget(table_);
  connect(search, &QLineEdit::textChanged, this, &CommandFinder::filter);
  connect(search, &QLineEdit::returnPressed, this, &CommandFinder::take);
  connect(table_, &QTableWidget::cellActivated, this, &CommandFinder::take);
  search->installEventFilter(this);
  filter({});
}

void CommandFinder::filter(const QString& text) {
  table_->setRowCount(0);
  const auto words = text.split(' ', Qt::SkipEmptyParts);
  for (const auto& id : actions_.ids()) {
    const auto* a = actions_.action(id);
    if (std::all_of(words.begin(), words.end(),
                    [&](auto& w) { return a->text().contains(w, Qt::CaseInsensitive) || id.contains(w); }))
      addRow(table_, id, a);
    if (table_->rowCount() > 0 && table_->item(table_->rowCount() - 1, 0)->data(Qt::UserRole).toString() == id &&
        !a->isEnabled())
      table_->item(table_->rowCount() - 1, 0)->setForeground(Theme::get().sheet().note);
  }
  if (table_->rowCount() > 0) return table_->selectRow(0);
  table_->setRowCount(1);
  auto* none = new QTableWidgetItem(tr("No command is called that"));
  none->setFlags(Qt::NoItemFlags);
  table_->setItem(0, 0, none);
}

void CommandFinder::take() {
  const int row = table_->currentRow();
  if (row < 0 || table_->item(row, 0)->flags() == Qt::NoItemFlags) return;
  command_ = table_->item(row, 0)->data(Qt::UserRole).toString();
  accept();
}

bool CommandFinder::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::KeyPress) {
    const int key = static_cast<QKeyEvent*>(event)->key();
    if (key == Qt::Key_Down || key == Qt::Key_Up) {
      const int row = std::clamp(table_->currentRow() + (key == Qt::Key_Down ? 1 : -1), 0, table_->rowCount() - 1);
      table_->selectRow(row);
      return true;
    }
  }
  return QDialog::eventFilter(watched, event);
}

}  // namespace ochron
