#include "head/head_line.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolButton>
#include <algorithm>
#include <cmath>

#include "actions/actions.h"
#include "document/thing_words.h"
#include "document/transport.h"
#include "theme/theme.h"

namespace ochron {
namespace {
/// Where a figure of the head stands: the further apart the larger text is.
int figure(double x) {
  constexpr double kFirst = 98;
  return static_cast<int>(kFirst) + Theme::get().px(x - kFirst);
}
}  // namespace

VersionSwitch::VersionSwitch(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  setFixedSize(VersionSwitch::sizeHint());
  setFocusPolicy(Qt::TabFocus);
  setCursor(Qt::PointingHandCursor);
  setObjectName("version");
  setAccessibleName(tr("Original or edited"));
  setToolTip(tr("Hear the recording as it was, or as edited, at the same place (O)"));
  connect(&document, &Document::transportChanged, this, qOverload<>(&QWidget::update));
}

bool VersionSwitch::event(QEvent* event) {
  if (event->type() == QEvent::ShortcutOverride) {
    const int key = static_cast<QKeyEvent*>(event)->key();
    if (key == Qt::Key_Left || key == Qt::Key_Right) event->accept();
  }
  return QWidget::event(event);
}

void VersionSwitch::paintEvent(QPaintEvent*) {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const QRectF box = QRectF(rect()).adjusted(1, 1, -1, -1);
  p.setPen(QPen(hasFocus() ? sheet.selection : sheet.rule, hasFocus() ? 1.8 : 1.2));
  p.setBrush(sheet.chrome);
  p.drawRoundedRect(box, box.height() / 2, box.height() / 2);
  QRectF half(doc_.transport().original() ? box.left() : box.center().x(), box.top(), box.width() / 2, box.height());
  p.setPen(Qt::NoPen);
  p.setBrush(sheet.ink);
  p.drawRoundedRect(half, box.height() / 2, box.height() / 2);
  p.setFont(theme.font(12.5, 600));
  p.setPen(doc_.transport().original() ? sheet.paper : sheet.ink);
  p.drawText(QRectF(box.left(), box.top(), box.width() / 2, box.height()), Qt::AlignCenter, tr("Original"));
  p.setPen(doc_.transport().original() ? sheet.ink : sheet.paper);
  p.drawText(QRectF(box.center().x(), box.top(), box.width() / 2, box.height()), Qt::AlignCenter, tr("Edited"));
}

std::vector<ReadItem> VersionSwitch::readItems() const {
  const bool original = doc_.transport().original();
  const double half = width() / 2.0;
  return {{tr("Original"), QRectF(0, 0, half, height()), original, [this] { doc_.transport().setOriginal(true); }},
          {tr("Edited"), QRectF(half, 0, half, height()), !original, [this] { doc_.transport().setOriginal(false); }}};
}

void VersionSwitch::mousePressEvent(QMouseEvent* event) {
  doc_.transport().setOriginal(event->position().x() < width() / 2.0);
}
void VersionSwitch::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Left)
    doc_.transport().setOriginal(true);
  else if (event->key() == Qt::Key_Right)
    doc_.transport().setOriginal(false);
  else
    QWidget::keyPressEvent(event);
}

HeadLine::HeadLine(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  setFixedHeight(50);
  setAccessibleName(tr("Transport"));
  const auto button = [&](const char* id, const QString& name, int side) {
    auto* b = new QToolButton(this);
    b->setObjectName(name);
    b->setAccessibleName(name);
    b->setFixedSize(side, side);
    b->setFocusPolicy(Qt::TabFocus);
    Actions::bind(b, id);
    return b;
  };
  play_ = button("transport.play", tr("Play"), 34);
  play_->setToolTip(tr("Play or stop (Space)"));
  loop_ = button("transport.loop", tr("Loop"), 30);
  loop_->setToolTip(tr("Repeat the selected range (L)"));
  loop_->setIconSize({22, 22});
  click_ = button("transport.click", tr("Click"), 28);
  click_->setToolTip(tr("Click on every beat (C)"));
  click_->setIconSize({20, 20});
  version_ = new VersionSwitch(doc_, this);
  tuner_ = new Tuner(doc_, this);
  connect(&doc_, &Document::transportChanged, this, &HeadLine::refresh);
  connect(&doc_, &Document::songChanged, this, qOverload<>(&QWidget::update));
  connect(&Theme::get(), &Theme::changed, this, [this] {
    arrange();
    refresh();
  });
  refresh();
}

void HeadLine::resizeEvent(QResizeEvent*) { arrange(); }

void HeadLine::arrange() {
  play_->move(16, 8);
  loop_->move(54, 10);
  click_->move(figure(372), 16);
  version_->move(figure(std::max(440, std::min(480, width() / 2 - 140))), 10);
  const int free = width() - 186 - 76 - version_->geometry().right();
  tuner_->move(version_->geometry().right() + std::max(10, (free - tuner_->width()) / 2), 8);
  tuner_->setVisible(free > tuner_->width() + 20);
}

void HeadLine::refresh() {
  const auto& theme = Theme::get();
  const bool playing = doc_.transport().player().engine().playing();
  play_->setIcon(QIcon(theme.pixmap(playing ? "stop" : "play", theme.sheet().paper, 18, 2)));
  play_->setIconSize({18, 18});
  play_->setStyleSheet(QStringLiteral("QToolButton { background: %1; border-radius: 17px; } QToolButton:hover, "
                                      "QToolButton:focus { background: %2; }")
                           .arg(theme.sheet().ink.name(), theme.sheet().selection.name()));
  const auto toggle = [&](QToolButton* b, const QString& icon, bool on) {
    b->setIcon(QIcon(theme.pixmap(icon, on ? theme.sheet().selection : theme.sheet().note, 24, 2)));
  };
  toggle(loop_, "loop", doc_.transport().looping());
  toggle(click_, "click", doc_.transport().click());
  update();
}

void HeadLine::showPosition(Frames at) {
  const bool playing = doc_.transport().player().engine().playing();
  if (playing != (play_->property("playing").toBool())) {
    play_->setProperty("playing", playing);
    refresh();
  }
  if (playing) tuner_->listen(at);
  if (at == at_) return;
  at_ = at;
  update(90, 0, figure(372) - 90, height());
}

void HeadLine::showLevels(float left, float right) {
  const float peak[2] = {left, right};
  for (int i = 0; i < 2; ++i) {
    level_[i] = std::max<double>(peak[i], level_[i] * 0.86);
    held_[i] = std::max<double>(peak[i], held_[i] * 0.985);
  }
  update(width() - 260, 0, 260, height());
}

std::vector<ReadItem> HeadLine::readItems() const {
  const auto& map = doc_.song().tempo;
  const auto ticks = map.toTicks(at_);
  const auto box = [this](double left, double right) {
    return QRectF(figure(left), 0, figure(right) - figure(left), height());
  };
  return {{tr("at %1").arg(placeWords(doc_.song(), at_)), box(98, 268), false, {}},
          {tr("tempo %1").arg(map.bpmAt(ticks), 0, 'f', 2), box(280, 336), false, {}},
          {tr("meter %1").arg(QString::fromStdString(toText(map.meterOfBar(map.position(ticks).bar)))),
           box(340, 370),
           false,
           {}}};
}

void HeadLine::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  p.fillRect(rect(), sheet.panel);
  p.setPen(sheet.rule);
  p.drawLine(0, height() - 1, width(), height() - 1);
  const auto& map = doc_.song().tempo;
  const auto ticks = map.toTicks(at_);
  const auto place = map.position(ticks);
  const auto meter = map.meterOfBar(place.bar);
  const int part = static_cast<int>(place.rest.value * 100 / meter.beatLength().value);
  p.setPen(sheet.ink);
  p.setFont(theme.font(21, 600));
  p.drawText(QPointF(98, 32),
             QStringLiteral("%1.%2.%3").arg(place.bar + 1).arg(place.beat + 1).arg(part, 2, 10, QChar('0')));
  const auto small = [&](double x, double y, const QString& text, const QColor& colour, int weight, double px) {
    p.setFont(theme.font(px, weight));
    p.setPen(colour);
    p.drawText(QPointF(x, y), text);
  };
  const double seconds = static_cast<double>(at_.value) / doc_.song().rate;
  const int minutes = static_cast<int>(std::abs(seconds) / 60);
  small(figure(196), 19, tr("bar.beat.part"), sheet.note, 400, 10.5);
  small(figure(196), 36,
        QStringLiteral("%1%2:%3")
            .arg(seconds < 0 ? "\u2212" : "")
            .arg(minutes)
            .arg(std::abs(seconds) - 60 * minutes, 6, 'f', 3, QChar('0')),
        sheet.note, 400, 12.5);
  p.setPen(sheet.hairline);
  p.drawLine(figure(268), 10, figure(268), 40);
  small(figure(280), 19, tr("tempo"), sheet.note, 400, 10.5);
  small(figure(280), 36, QString::number(map.bpmAt(ticks), 'f', 2), sheet.ink, 600, 13.5);
  small(figure(340), 19, tr("meter"), sheet.note, 400, 10.5);
  small(figure(340), 36, QString::fromStdString(toText(meter)), sheet.ink, 600, 13.5);
  const double x0 = width() - 186;
  const double wide = 166;
  const auto at = [&](double v) { return std::clamp((20 * std::log10(std::max(v, 1e-6)) + 54) / 60, 0.0, 1.0) * wide; };
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  for (int i = 0; i < 2; ++i) {
    const double y = 17 + i * 10;
    p.setBrush(sheet.hairline);
    p.drawRoundedRect(QRectF(x0, y, wide, 5), 2.5, 2.5);
    p.setBrush(level_[i] > 1 ? sheet.alarm : sheet.selection);
    if (at(level_[i]) > 1) p.drawRoundedRect(QRectF(x0, y, at(level_[i]), 5), 2.5, 2.5);
    p.setBrush(held_[i] > 1 ? sheet.alarm : sheet.late);
    if (at(held_[i]) > 1) p.drawRect(QRectF(x0 + at(held_[i]) - 1, y - 1, 2, 7));
  }
  const double loud = std::max(held_[0], held_[1]);
  p.setFont(theme.font(12));
  p.setPen(loud > 1 ? sheet.alarm : sheet.note);
  p.drawText(QRectF(x0 - 10 - theme.px(66), 12, theme.px(66), 24), Qt::AlignRight | Qt::AlignVCenter,
             loud < 1e-4 ? tr("silent")
                         : QStringLiteral("%1 dB").arg(
                               QString::number(20 * std::log10(loud), 'f', 1).replace('-', QChar(0x2212))));
}

}  // namespace ochron
