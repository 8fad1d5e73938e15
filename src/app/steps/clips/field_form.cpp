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
  if (const auto* tick = std::get_if<Tick>(&field.value)) {
    auto* box = new QCheckBox(field.name, this);
    connect(box, &QCheckBox::clicked, this, [write = tick->write](bool on) { write(on); });
    return box;
  }
  if (const auto* choice = std::get_if<Choice>(&field.value)) {
    auto* box = new QComboBox(this);
    box->addItems(choice->of);
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    box->setMinimumContentsLength(3);
    atLeastWide(*box, 60);
    box->setPlaceholderText(tr("mixed"));
    connect(box, &QComboBox::activated, this, [write = choice->write](int i) { write(i); });
    return box;
  }
  auto* line = new QLineEdit(this);
  line->setAlignment(Qt::AlignRight);
  line->setMinimumWidth(Theme::get().px(kLeastWidth));
  connect(line, &QLineEdit::editingFinished, this, [this, line, write = std::get<Typed>(field.value).write] {
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
      group->setMaximumWidth(Theme::get().px(230));
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
    if (std::holds_alternative<Tick>(field.value)) {
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
    showValue(row.editor, row.field);
  }
}

void FieldForm::showValue(QWidget* editor, const Field& field) {
  if (const auto* tick = std::get_if<Tick>(&field.value)) {
    auto* box = qobject_cast<QCheckBox*>(editor);
    const auto on = tick->read();
    box->setTristate(!on);
    box->setCheckState(!on ? Qt::PartiallyChecked : *on ? Qt::Checked : Qt::Unchecked);
  } else if (const auto* choice = std::get_if<Choice>(&field.value)) {
    qobject_cast<QComboBox*>(editor)->setCurrentIndex(choice->read().value_or(-1));
  } else if (auto* line = qobject_cast<QLineEdit*>(editor); !(line->hasFocus() && line->isModified())) {
    const auto text = std::get<Typed>(field.value).read();
    line->setText(text.value_or(QString()));
    line->setPlaceholderText(text ? QString() : tr("mixed"));
    line->setModified(false);
    const int whole = line->fontMetrics().horizontalAdvance(line->text()) + kAroundText;
    line->setMinimumWidth(std::clamp(whole, Theme::get().px(kLeastWidth), Theme::get().px(kMostWidth)));
  }
}

}  // namespace ochron
