#include "steps/clips/field_form.h"

#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QSignalBlocker>
#include <QVBoxLayout>

#include "theme/theme.h"

namespace ochron {
namespace {
// Of a line for a value, px; between them it is as wide as its text.
constexpr int kLeastWidth = 56;
constexpr int kMostWidth = 92;
constexpr int kAroundText = 20;
}  // namespace

FieldForm::FieldForm(QWidget* parent) : QWidget(parent), across_(new QHBoxLayout(this)) {
  across_->setContentsMargins(0, 0, 0, 0);
  across_->setSpacing(0);
}

QWidget* FieldForm::makeEditor(const Field& field) {
  if (field.tick) {
    auto* box = new QCheckBox(field.name, this);
    connect(box, &QCheckBox::clicked, this, [write = field.write](bool on) { write(on ? "1" : "0"); });
    return box;
  }
  if (!field.choices.isEmpty()) {
    auto* box = new QComboBox(this);
    box->addItems(field.choices);
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    box->setMinimumContentsLength(3);
    box->setMinimumWidth(60);
    box->setPlaceholderText(tr("mixed"));
    connect(box, &QComboBox::activated, this, [write = field.write](int i) { write(QString::number(i)); });
    return box;
  }
  auto* line = new QLineEdit(this);
  line->setAlignment(Qt::AlignRight);
  line->setMinimumWidth(kLeastWidth);
  connect(line, &QLineEdit::editingFinished, this, [this, line, write = field.write] {
    if (!line->isModified()) return;
    line->setModified(false);
    write(line->text());
    refresh();
  });
  return line;
}

void FieldForm::setFields(std::vector<Field> fields, const std::map<QString, QWidget*>& pictures) {
  rows_.clear();
  while (auto* item = across_->takeAt(0)) {
    if (auto* w = item->widget()) {
      w->hide();
      w->deleteLater();
    }
    delete item;
  }
  QString open;
  QGridLayout* grid = nullptr;
  for (auto& field : fields) {
    if (!grid || field.group != open) {
      auto* group = new QWidget(this);
      group->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Preferred);
      group->setMaximumWidth(230);
      auto* column = new QVBoxLayout(group);
      column->setContentsMargins(across_->isEmpty() ? 0 : 9, 0, 9, 0);
      column->setSpacing(6);
      if (!field.group.isEmpty()) {
        auto* title = new QLabel(field.group, group);
        title->setFont(Theme::get().font(12, 600));
        column->addWidget(title);
      }
      if (const auto picture = pictures.find(field.group); picture != pictures.end()) {
        picture->second->setParent(group);
        column->addWidget(picture->second);
      }
      grid = new QGridLayout;
      grid->setContentsMargins(0, 0, 0, 0);
      grid->setHorizontalSpacing(8);
      grid->setVerticalSpacing(3);
      grid->setColumnStretch(1, 1);
      column->addLayout(grid);
      column->addStretch(1);
      across_->addWidget(group, 1);
      open = field.group;
    }
    auto* editor = makeEditor(field);
    editor->setObjectName(field.name);
    editor->setAccessibleName(field.name);
    editor->setToolTip(field.tip);
    const int at = grid->rowCount();
    if (field.tick) {
      grid->addWidget(editor, at, 0, 1, 2);
    } else {
      auto* label = new QLabel(field.label.isEmpty() ? field.name : field.label, this);
      label->setProperty("note", true);
      label->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Preferred);
      label->setBuddy(editor);
      grid->addWidget(label, at, 0);
      grid->addWidget(editor, at, 1);
    }
    rows_.push_back({std::move(field), editor});
  }
  if (open.isEmpty()) across_->addStretch(3);  // one group stands at the left, as the first of several does
  refresh();
}

void FieldForm::refresh() {
  for (auto& row : rows_) {
    const QSignalBlocker quiet(row.editor);
    const auto now = row.field.read();
    if (auto* box = qobject_cast<QCheckBox*>(row.editor)) {
      box->setTristate(now.isEmpty());
      box->setCheckState(now.isEmpty() ? Qt::PartiallyChecked : now == "1" ? Qt::Checked : Qt::Unchecked);
    } else if (auto* combo = qobject_cast<QComboBox*>(row.editor)) {
      combo->setCurrentIndex(now.isEmpty() ? -1 : now.toInt());
    } else if (auto* line = qobject_cast<QLineEdit*>(row.editor); line && !(line->hasFocus() && line->isModified())) {
      line->setText(now);
      line->setPlaceholderText(now.isNull() ? tr("mixed") : QString());
      line->setModified(false);
      const int whole = line->fontMetrics().horizontalAdvance(now) + kAroundText;
      line->setMinimumWidth(std::clamp(whole, kLeastWidth, kMostWidth));
    }
  }
}

}  // namespace ochron
