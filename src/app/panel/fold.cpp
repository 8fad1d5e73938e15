#include "panel/fold.h"

#include <QSettings>

#include "theme/theme.h"

namespace ochron {

Fold::Fold(const QString& key, const QString& title, bool open, QWidget* parent) : QWidget(parent) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  head_ = new QToolButton(this);
  head_->setText(title);
  head_->setObjectName("fold " + key);
  head_->setCheckable(true);
  head_->setProperty("fold", true);
  head_->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
  head_->setFont(Theme::get().font(12, 600));
  head_->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  fixHeight(*head_, 25);
  head_->setFocusPolicy(Qt::TabFocus);
  column->addWidget(head_);
  body_ = new QWidget(this);
  inside_ = new QVBoxLayout(body_);
  inside_->setContentsMargins(0, 4, 0, 10);
  inside_->setSpacing(6);
  column->addWidget(body_);
  const auto setting = "fold/" + key;
  const auto show = [this](bool on) {
    head_->setArrowType(on ? Qt::DownArrow : Qt::RightArrow);
    body_->setVisible(on);
  };
  connect(head_, &QToolButton::toggled, this, [show, setting](bool on) {
    show(on);
    QSettings().setValue(setting, on);
  });
  const bool now = QSettings().value(setting, open).toBool();
  head_->setChecked(now);
  show(now);
}

}  // namespace ochron
