#include "head/notice_bar.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QToolButton>

#include "actions/actions.h"
#include "document/document.h"
#include "theme/theme.h"

namespace ochron {

NoticeBar::NoticeBar(Document& document, QWidget* parent) : QFrame(parent) {
  setObjectName("notice bar");
  setAccessibleName(tr("Notices"));
  auto* line = new QHBoxLayout(this);
  line->setContentsMargins(14, 6, 8, 6);
  line->setSpacing(10);
  text_ = new QLabel(this);
  text_->setObjectName("notice");
  text_->setWordWrap(true);
  text_->setTextInteractionFlags(Qt::TextSelectableByMouse);
  line->addWidget(text_, 1);
  more_ = new QLabel(this);
  more_->setProperty("note", true);
  line->addWidget(more_);
  act_ = new QPushButton(this);
  act_->setObjectName("notice command");
  line->addWidget(act_);
  seen_ = new QToolButton(this);
  seen_->setObjectName("notice seen");
  seen_->setAccessibleName(tr("Seen"));
  seen_->setToolTip(tr("Seen: takes this notice away"));
  seen_->setIconSize({12, 12});
  line->addWidget(seen_);
  seen_->setProperty(kCommand, "help.noticeseen");
  act_->setProperty(kCommand, "help.noticedo");
  connect(seen_, &QToolButton::clicked, this, &NoticeBar::dismiss);
  connect(act_, &QPushButton::clicked, this, [this] {
    if (notices_.empty()) return;
    const auto command = notices_.back().command;
    dismiss();
    Actions::of(this)->trigger(command);
  });
  connect(&document, &Document::warned, this, &NoticeBar::warn);
  connect(&document, &Document::offered, this, &NoticeBar::offer);
  connect(&Theme::get(), &Theme::changed, this, &NoticeBar::refresh);
  refresh();
}

void NoticeBar::warn(const QString& sentence, const QString& button, const QString& command) {
  forget(sentence);
  notices_.push_back({sentence, button, command, true});
  refresh();
}

void NoticeBar::offer(const QString& sentence, const QString& button, const QString& command) {
  forget(sentence);
  notices_.insert(notices_.begin(), {sentence, button, command, false});
  refresh();
}

void NoticeBar::forget(const QString& sentence) {
  std::erase_if(notices_, [&](const Notice& n) { return n.sentence == sentence; });
}

void NoticeBar::dismiss() {
  if (!notices_.empty()) notices_.pop_back();
  refresh();
}

void NoticeBar::refresh() {
  setVisible(!notices_.empty());
  const auto& sheet = Theme::get().sheet();
  const bool failed = !notices_.empty() && notices_.back().failed;
  seen_->setIcon(QIcon(Theme::get().pixmap("cross", sheet.note, 12, 2)));
  setStyleSheet(
      QStringLiteral("#notice\\ bar { background: %1; border: none; border-bottom: 1px solid %2; border-left: 3px "
                     "solid %3; } #notice { color: %4; }")
          .arg(sheet.field.name(), sheet.rule.name(), (failed ? sheet.alarm : sheet.selection).name(),
               sheet.ink.name()));
  if (notices_.empty()) return;
  const auto& newest = notices_.back();
  text_->setText(newest.sentence);
  more_->setText(notices_.size() > 1 ? tr("and %1 more").arg(notices_.size() - 1) : QString());
  act_->setText(newest.button);
  act_->setVisible(!newest.button.isEmpty());
}

}  // namespace ochron
