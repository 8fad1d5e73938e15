#include "inspector/field_form.h"

#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QSignalBlocker>

namespace ochron {

FieldForm::FieldForm(QWidget* parent) : QWidget(parent), grid_(new QGridLayout(this)) {
  grid_->setContentsMargins(0, 0, 0, 0);
  grid_->setHorizontalSpacing(8);
  grid_->setVerticalSpacing(5);
  grid_->setColumnStretch(1, 1);
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
  line->setMinimumWidth(60);
  connect(line, &QLineEdit::editingFinished, this, [this, line, write = field.write] {
    if (!line->isModified()) return;
    line->setModified(false);
    write(line->text());
    refresh();
  });
  return line;
}

void FieldForm::setFields(std::vector<Field> fields) {
  for (auto& row : rows_) row.editor->deleteLater();
  rows_.clear();
  while (auto* item = grid_->takeAt(0)) {
    if (auto* w = item->widget()) {
      w->hide();
      w->deleteLater();
    }
    delete item;
  }
  for (auto& field : fields) {
    auto* editor = makeEditor(field);
    editor->setObjectName(field.name);
    editor->setAccessibleName(field.name);
    editor->setToolTip(field.tip);
    const int at = static_cast<int>(rows_.size());
    if (field.tick) {
      grid_->addWidget(editor, at, 0, 1, 2);
    } else {
      auto* label = new QLabel(field.name, this);
      label->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Preferred);
      label->setBuddy(editor);
      grid_->addWidget(label, at, 0);
      grid_->addWidget(editor, at, 1);
    }
    rows_.push_back({std::move(field), editor});
  }
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
    }
  }
}

}  // namespace ochron
