#include "steps/print/effect_picker.h"

#include <QHeaderView>
#include <QKeyEvent>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <map>

#include "panel/controls.h"

namespace ochron {
namespace {

/// "Compressor Plugin" is a compressor like any.
QString kindOf(const EffectInfo& e) {
  auto kind = QString::fromStdString(e.kind);
  kind.remove(QStringLiteral(" Plugin"));
  return kind.isEmpty() || kind == "Plugin" ? EffectPicker::tr("Other") : kind;
}

}  // namespace

EffectPicker::EffectPicker(EffectDesk& desk, QWidget* parent) : QDialog(parent), desk_(desk) {
  setWindowTitle(tr("Add an effect"));
  setObjectName("effect picker");
  resize(460, 480);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(18, 18, 18, 16);
  column->setSpacing(10);
  words_ = new QLineEdit(this);
  words_->setObjectName("effect words");
  words_->setAccessibleName(tr("Search"));
  words_->setPlaceholderText(tr("Search by name or kind"));
  words_->setClearButtonEnabled(true);
  words_->installEventFilter(this);
  column->addWidget(words_);
  tree_ = new QTreeWidget(this);
  tree_->setObjectName("effect tree");
  tree_->setAccessibleName(tr("Effects"));
  tree_->setHeaderHidden(true);
  tree_->setRootIsDecorated(false);
  tree_->setIndentation(14);
  column->addWidget(tree_, 1);
  column->addWidget(noteLabel(tr("LV2 plug-ins with audio in and out. Each plays in a process of its own."), this));
  auto* row = new QHBoxLayout;
  row->addStretch();
  auto* no = new QPushButton(tr("Cancel"), this);
  auto* yes = new QPushButton(tr("Add it"), this);
  yes->setProperty("primary", true);
  yes->setObjectName("effect take");
  yes->setDefault(true);
  row->addWidget(no);
  row->addWidget(yes);
  column->addLayout(row);
  connect(no, &QPushButton::clicked, this, &QDialog::reject);
  connect(yes, &QPushButton::clicked, this, &EffectPicker::take);
  connect(tree_, &QTreeWidget::itemDoubleClicked, this, &EffectPicker::take);
  connect(words_, &QLineEdit::textChanged, this, &EffectPicker::list);
  connect(&desk_, &EffectDesk::changed, this, &EffectPicker::list);
  list();
  words_->setFocus();
}

void EffectPicker::list() {
  tree_->clear();
  const auto words = words_->text().split(' ', Qt::SkipEmptyParts);
  std::map<QString, QTreeWidgetItem*> kinds;
  const auto& all = desk_.known();
  for (std::size_t i = 0; i < all.size(); ++i) {
    const auto kind = kindOf(all[i]);
    const auto name = QString::fromStdString(all[i].name);
    const auto text = kind + ' ' + name;
    if (!std::all_of(words.begin(), words.end(),
                     [&](const QString& w) { return text.contains(w, Qt::CaseInsensitive); }))
      continue;
    auto*& parent = kinds[kind];
    if (!parent) {
      parent = new QTreeWidgetItem({kind});
      parent->setFlags(Qt::ItemIsEnabled);
      auto font = parent->font(0);
      font.setBold(true);
      parent->setFont(0, font);
    }
    auto* item = new QTreeWidgetItem(parent, {name});
    item->setData(0, Qt::UserRole, static_cast<int>(i));
    item->setToolTip(0, QString::fromStdString(all[i].uri));
  }
  for (const auto& [kind, item] : kinds) tree_->addTopLevelItem(item);
  tree_->expandAll();
  if (tree_->topLevelItemCount() > 0 && tree_->topLevelItem(0)->childCount() > 0)
    tree_->setCurrentItem(tree_->topLevelItem(0)->child(0));
}

void EffectPicker::take() {
  const auto* item = tree_->currentItem();
  if (!item || !item->parent()) return;
  taken_ = &desk_.known()[static_cast<std::size_t>(item->data(0, Qt::UserRole).toInt())];
  accept();
}

/// The arrows of the search field go through the list.
bool EffectPicker::eventFilter(QObject*, QEvent* event) {
  if (event->type() != QEvent::KeyPress) return false;
  const auto key = static_cast<QKeyEvent*>(event)->key();
  if (key != Qt::Key_Up && key != Qt::Key_Down) return false;
  auto* item = tree_->currentItem();
  do item = !item ? nullptr : key == Qt::Key_Up ? tree_->itemAbove(item) : tree_->itemBelow(item);
  while (item && !item->parent());
  if (item) tree_->setCurrentItem(item);
  return true;
}

}  // namespace ochron
