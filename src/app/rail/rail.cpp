#include "rail/rail.h"

#include <QKeyEvent>
#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>

#include "actions/actions.h"
#include "canvas/read_items.h"
#include "document/seam_desk.h"
#include "document/selection.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr int kWide = 76;
constexpr int kTall = 66;
constexpr int kLow = 52;  // at the lowest window nine steps still find room

}  // namespace

/// One step of the rail; click, Return or Space opens it.
class Rail::Stop : public QWidget, public ReadControl {
 public:
  Stop(Document& document, Step step, QString number, QString name, QWidget* parent)
      : QWidget(parent), doc_(document), step_(step), number_(std::move(number)), name_(std::move(name)) {
    setMinimumHeight(kLow);
    const auto fit = [this] { setMaximumHeight(Theme::get().px(kTall)); };
    fit();
    connect(&Theme::get(), &Theme::changed, this, fit);
    setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Expanding);
    fixWidth(*this, kWide);
    setFocusPolicy(Qt::TabFocus);
    setProperty(kPressedByKeys, true);
    setCursor(Qt::PointingHandCursor);
    setObjectName("step " + name_);
    setAttribute(Qt::WA_Hover);
  }
  QAccessible::Role readRole() const override { return QAccessible::RadioButton; }
  std::optional<bool> isOn() const override { return open_; }
  void press() override { doc_.setStep(step_); }
  void show(bool open, const StepState& state) {
    open_ = open;
    state_ = state;
    auto spoken = tr("Step %1, %2").arg(number_, name_);
    if (open) spoken += tr(", open");
    setAccessibleName(spoken);
    setAccessibleDescription(looks());
    setToolTip(QStringLiteral("<b>%1</b> (%2)<br>%3").arg(name_, number_, looks().toHtmlEscaped()));
    update();
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    const auto& theme = Theme::get();
    const auto& sheet = theme.sheet();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    if (open_) {
      p.fillRect(rect(), sheet.panel);
      p.fillRect(QRect(0, 0, 3, height()), sheet.selection);
    } else if (underMouse()) {
      auto hover = sheet.panel;
      hover.setAlphaF(0.6F);
      p.fillRect(rect(), hover);
    }
    const double middle = width() / 2.0;
    const double top = (height() - std::min(24, theme.px(21)) - theme.px(29)) / 2.0;
    const double across = std::min(24, theme.px(21));
    const QPointF centre(middle, top + across / 2 + 0.5);
    p.setPen(open_ ? QPen(Qt::NoPen) : QPen(underMouse() ? sheet.selection : sheet.inkSoft, 1.3));
    p.setBrush(open_ ? QBrush(sheet.selection) : QBrush(Qt::NoBrush));
    p.drawEllipse(centre, across / 2, across / 2);
    p.setPen(open_ ? sheet.paper : sheet.note);
    p.setFont(theme.font(11, 600));
    p.drawText(QRectF(middle - across / 2, top, across, across + 1), Qt::AlignCenter, number_);
    p.setPen(sheet.ink);
    p.setFont(theme.font(12, 600));
    p.drawText(QRectF(0, top + across + 1, width(), theme.px(15)), Qt::AlignCenter, name_);
    p.setPen(sheet.note);
    p.setFont(theme.font(10.5));
    p.drawText(QRectF(4, top + across + 1 + theme.px(14), width() - 8, theme.px(14)), Qt::AlignCenter,
               p.fontMetrics().elidedText(state_.brief, Qt::ElideRight, width() - 8));
    if (state_.toLookAt > 0) {
      const auto text = state_.toLookAt > 99 ? QStringLiteral("99+") : QString::number(state_.toLookAt);
      p.setFont(theme.font(9.5, 600));
      const double wide = std::max(16.0, p.fontMetrics().horizontalAdvance(text) + 9.0);
      const QRectF pill(middle + across / 2, top - 1, wide, theme.px(14));
      p.setPen(Qt::NoPen);
      p.setBrush(sheet.alarm);
      p.drawRoundedRect(pill, pill.height() / 2, pill.height() / 2);
      p.setPen(sheet.paper);
      p.drawText(pill, Qt::AlignCenter, text);
    }
    if (hasFocus()) {
      p.setPen(QPen(sheet.selection, 1.5));
      p.setBrush(Qt::NoBrush);
      p.drawRoundedRect(QRectF(rect()).adjusted(4, 2, -4, -2), 5, 5);
    }
  }
  void mousePressEvent(QMouseEvent*) override { press(); }
  void keyPressEvent(QKeyEvent* event) override {
    if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter || event->key() == Qt::Key_Space)
      press();
    else
      QWidget::keyPressEvent(event);
  }

 private:
  QString looks() const {
    return state_.toLookAt > 0 ? tr("%1; %2 to look at").arg(state_.full).arg(state_.toLookAt) : state_.full;
  }

  Document& doc_;
  Step step_;
  QString number_;
  QString name_;
  StepState state_;
  bool open_ = false;
};

Rail::Rail(Document& document, const std::vector<StepEntry>& steps, QWidget* parent)
    : QWidget(parent), doc_(document), steps_(steps) {
  setAccessibleName(tr("Steps"));
  fixWidth(*this, kWide);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 4, 0, 4);
  column->setSpacing(0);
  for (std::size_t i = 0; i < steps_.size(); ++i) {
    stops_.push_back(new Stop(doc_, steps_[i].step, QString::number(i + 1), steps_[i].name, this));
    column->addWidget(stops_.back(), kTall);
  }
  column->addStretch(1);
  for (auto signal : {&Document::songChanged, &Document::stepChanged, &Document::mediaChanged})
    connect(&doc_, signal, this, &Rail::refresh);
  doc_.selection().watch(Selection::kWhere, this, [this] { refresh(); });
  connect(&doc_.seamDesk(), &SeamDesk::measured, this, &Rail::refresh);
  connect(&Theme::get(), &Theme::changed, this, &Rail::refresh);
  refresh();
}

void Rail::refresh() {
  for (std::size_t i = 0; i < steps_.size(); ++i)
    stops_[i]->show(steps_[i].step == doc_.step(), steps_[i].page->state());
}

void Rail::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), Theme::get().sheet().chrome);
  p.setPen(Theme::get().sheet().rule);
  p.drawLine(width() - 1, 0, width() - 1, height());
}

}  // namespace ochron
