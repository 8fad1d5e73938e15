#include "panel/step_panel.h"

#include <QEvent>
#include <QPainter>
#include <QScrollArea>
#include <QVBoxLayout>

#include "document/selection.h"
#include "theme/theme.h"

namespace ochron {
namespace {

/// Scrolls only what is too tall for its whole width: words that wrap beside a scroll bar would keep the bar for good.
class PageScroll : public QScrollArea {
 public:
  using QScrollArea::QScrollArea;

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override {
    if (watched == widget() && event->type() == QEvent::LayoutRequest) settle();
    return QScrollArea::eventFilter(watched, event);
  }
  void resizeEvent(QResizeEvent* event) override {
    settle();
    QScrollArea::resizeEvent(event);
  }

 private:
  void settle() {
    if (!widget() || !widget()->layout()) return;
    const auto* layout = widget()->layout();
    const bool fits = layout->minimumSize().width() <= width() && layout->heightForWidth(width()) <= height();
    setVerticalScrollBarPolicy(fits ? Qt::ScrollBarAlwaysOff : Qt::ScrollBarAsNeeded);
  }
};

}  // namespace

StepPanel::StepPanel(Document& document, const std::vector<StepEntry>& steps, QWidget* parent)
    : QWidget(parent), doc_(document), steps_(steps) {
  setAccessibleName(tr("Controls of the open step"));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 14, 0, 0);
  column->setSpacing(0);
  name_ = new QLabel(this);
  name_->setObjectName("open step");
  name_->setFont(Theme::get().font(14.5, 600));
  name_->setContentsMargins(16, 0, 16, 0);
  column->addWidget(name_);
  summary_ = new QLabel(this);
  summary_->setObjectName("open step summary");
  summary_->setProperty("note", true);
  summary_->setWordWrap(true);
  summary_->setContentsMargins(16, 1, 16, 10);
  column->addWidget(summary_);
  pages_ = new QStackedWidget(this);
  for (const auto& s : steps_) {
    auto* scroll = new PageScroll(pages_);
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFocusPolicy(Qt::NoFocus);
    auto* list = new QWidget;
    auto* inside = new QVBoxLayout(list);
    inside->setContentsMargins(0, 0, 0, 0);
    inside->addWidget(s.page);
    inside->addStretch(1);
    scroll->setWidget(list);
    pages_->addWidget(scroll);
  }
  column->addWidget(pages_, 1);
  for (auto signal :
       {&Document::songChanged, &Document::songPreviewed, &Document::stepChanged, &Document::mediaChanged})
    connect(&doc_, signal, this, &StepPanel::refresh);
  doc_.selection().watch(Selection::kWhere, this, [this] { refresh(); });
  refresh();
}

void StepPanel::refresh() {
  for (std::size_t i = 0; i < steps_.size(); ++i) {
    if (steps_[i].step != doc_.step()) continue;
    pages_->setCurrentIndex(static_cast<int>(i));
    name_->setText(steps_[i].name);
    const auto* set = doc_.song().find(doc_.selection().set());
    const bool locked = set && set->locked && doc_.step() != Step::takes && doc_.step() != Step::print;
    // Its controls stay in sight as they are; what is turned is refused.
    summary_->setText(locked ? tr("\"%1\" is locked: unlock it to change it").arg(QString::fromStdString(set->name))
                             : steps_[i].page->state().full);
  }
}

void StepPanel::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), Theme::get().sheet().panel);
}

}  // namespace ochron
