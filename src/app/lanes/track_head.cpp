#include "lanes/track_head.h"

#include <QContextMenuEvent>
#include <QMenu>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "actions/actions.h"
#include "canvas/view_state.h"
#include "document/effect_desk.h"
#include "document/selection.h"
#include "document/takes_desk.h"
#include "edits/track_edits.h"
#include "song/insert_place.h"
#include "theme/theme.h"

namespace ochron {

TrackHead::TrackHead(Document& document, TrackId track, QWidget* parent)
    : QWidget(parent), doc_(document), track_(track) {
  const auto button = [&](const QString& tip, bool Track::*flag) {
    auto* b = new QToolButton(this);
    b->setCheckable(true);
    b->setFixedSize(20, 18);
    b->setIconSize({14, 14});
    b->setToolTip(tip);
    b->setFocusPolicy(Qt::TabFocus);
    b->setProperty(kCommand, flag == &Track::muted ? "track.mute" : "track.solo");
    connect(b, &QToolButton::clicked, this, [this, flag] {
      doc_.takesDesk().turn(track_, flag);
      refresh();
    });
    return b;
  };
  mute_ = button(tr("Mute"), &Track::muted);
  solo_ = button(tr("Solo"), &Track::solo);
  refresh();
}

void TrackHead::refresh() {
  const auto* t = doc_.song().find(track_);
  if (!t) return;
  const auto name = QString::fromStdString(t->name);
  setAccessibleName(name);
  setObjectName("track " + name);
  mute_->setIcon(Theme::get().icon("mute"));
  solo_->setIcon(Theme::get().icon("solo"));
  mute_->setAccessibleName(tr("Mute %1").arg(name));
  solo_->setAccessibleName(tr("Solo %1").arg(name));
  mute_->setObjectName("mute");
  solo_->setObjectName("solo");
  mute_->setChecked(t->muted);
  solo_->setChecked(t->solo);
  update();
}

void TrackHead::showLevel(float peak) {
  const double db = peak > 0 ? 20 * std::log10(peak) : -90;
  const double now = std::clamp((db + 54) / 54, 0.0, 1.0);
  const double next = std::max(now, level_ - 0.035);
  if (std::abs(next - level_) < 0.004) return;
  level_ = next;
  update(width() - 6, 0, 6, height());
}

void TrackHead::resizeEvent(QResizeEvent*) {
  const int y = height() >= Theme::get().px(kTwoLineLane) ? height() - 20 : (height() - 18) / 2;
  mute_->move(width() - 50, y);
  solo_->move(width() - 29, y);
}

void TrackHead::mousePressEvent(QMouseEvent*) { doc_.selection().chooseTrack(track_); }

void TrackHead::contextMenuEvent(QContextMenuEvent* event) {
  doc_.selection().chooseTrack(track_);
  auto* actions = Actions::of(this);
  actions->refresh();
  QMenu menu(this);
  for (const char* id : {"track.rename", "set.rename", "set.up", "set.down", "lock.set", "take.micset", "track.remove"})
    menu.addAction(actions->action(id));
  menu.addSeparator();
  menu.addAction(tr("Effects of this track\u2026"), this, [this, actions] {
    doc_.effectDesk().choosePlace({track_, {}});
    actions->trigger("print.effects");
  });
  menu.exec(event->globalPos());
}

void TrackHead::paintLock(QPainter& p) const {
  const auto* set = doc_.song().setOf(track_);
  if (!set || (!set->locked && set->locks.empty())) return;
  const auto& sheet = Theme::get().sheet();
  const double x = width() - 66.0;
  const double y = height() >= Theme::get().px(kTwoLineLane) ? height() - 16.0 : (height() - 11) / 2.0;
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(sheet.inkSoft, 1.3));
  p.setBrush(Qt::NoBrush);
  p.drawArc(QRectF(x + 2, y, 6, 8), 0, 180 * 16);
  p.setPen(Qt::NoPen);
  // All of it is locked, or some ranges are.
  p.setBrush(set->locked ? sheet.inkSoft : sheet.paper);
  p.drawRoundedRect(QRectF(x, y + 4, 10, 7), 1.5, 1.5);
  p.setPen(QPen(sheet.inkSoft, 1.2));
  p.drawRoundedRect(QRectF(x, y + 4, 10, 7), 1.5, 1.5);
}

void TrackHead::paintEvent(QPaintEvent*) {
  const auto* t = doc_.song().find(track_);
  if (!t) return;
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  QPainter p(this);
  const bool active = doc_.selection().track() == track_;
  p.fillRect(rect(), active ? sheet.selectionSoft : sheet.panel);
  p.fillRect(QRect(0, 0, 4, height() - 1), theme.tab(t->colour));
  p.setPen(sheet.hairline);
  p.drawLine(0, height() - 1, width(), height() - 1);
  const bool tall = height() >= Theme::get().px(kTwoLineLane);
  p.setFont(theme.font(tall ? 12 : 11, 500));
  p.setPen(t->muted ? sheet.note : sheet.ink);
  const QRect text(12, tall ? 2 : 0, width() - (tall ? 20 : 64), tall ? 17 : height() - 1);
  // What tells tracks of a pair apart stands at the end of their names.
  p.drawText(text, Qt::AlignVCenter | Qt::AlignLeft,
             p.fontMetrics().elidedText(QString::fromStdString(t->name), tall ? Qt::ElideRight : Qt::ElideMiddle,
                                        text.width()));
  const bool layer = doc_.song().layerOn(track_) != nullptr;
  if (layer) {  // it hangs on the drum's tracks above it
    p.fillRect(QRect(0, 0, 4, height() - 1), sheet.selection);
    if (tall) {
      p.setFont(theme.font(10.5));
      p.setPen(sheet.note);
      p.drawText(QRectF(12.5, height() - 17, 60, 14), Qt::AlignVCenter, tr("layer"));
    }
  }
  if (t->guide && tall) {
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(sheet.selection, 1));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(QRectF(12.5, height() - 15.5, 34, 12), 6, 6);
    p.setFont(theme.font(9, 600));
    p.drawText(QRectF(12.5, height() - 16, 34, 12), Qt::AlignCenter, tr("guide"));
  }
  if (const auto effects = insertsOf(doc_.song(), track_).size(); effects > 0 && tall) {
    // How many it goes through, behind "guide" or in its place.
    const double x = t->guide || layer ? 50.5 : 12.5;
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(sheet.inkSoft, 1));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(QRectF(x, height() - 15.5, 24, 12), 3, 3);
    p.setFont(theme.font(9, 600));
    p.drawText(QRectF(x, height() - 16, 24, 12), Qt::AlignCenter, tr("fx %1").arg(effects));
  }
  paintLock(p);
  p.setPen(Qt::NoPen);
  p.setBrush(sheet.hairline);
  p.drawRect(QRectF(width() - 5, 3, 2.5, height() - 7));
  p.setBrush(level_ > 0.98 ? sheet.alarm : sheet.selection);
  const double h = level_ * (height() - 7);
  p.drawRect(QRectF(width() - 5, height() - 4 - h, 2.5, h));
}

}  // namespace ochron
