#include "keys/key_sheet.h"

#include <QHeaderView>
#include <QKeyEvent>
#include <QKeySequenceEdit>
#include <QLineEdit>
#include <QVBoxLayout>
#include <algorithm>

#include "theme/theme.h"

namespace ochron {
namespace {

QTableWidget* commandTable(QWidget* parent) {
  auto* table = new QTableWidget(0, 2, parent);
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
  auto* search = new QLineEdit(this);
  search->setPlaceholderText(tr("Find a command or a key"));
  column->addWidget(search);
  table_ = commandTable(this);
  column->addWidget(table_);
  auto* line = new QHBoxLayout;
  line->addWidget(new QLabel(tr("New key"), this));
  key_ = new QKeySequenceEdit(this);
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

void KeySheet::fill() {
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
  if (table_->rowCount() > 0) table_->selectRow(0);
}

void CommandFinder::take() {
  const int row = table_->currentRow();
  if (row < 0) return;
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
