#include "steps/kit/kit_bench.h"

#include <QPainter>

#include "actions/actions.h"
#include "document/cells_desk.h"
#include "document/fresh.h"
#include "document/kit_desk.h"
#include "document/pattern_desk.h"
#include "document/wording.h"
#include "steps/kit/cell_grid.h"
#include "steps/kit/pattern_grid.h"
#include "steps/kit/strength_graph.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr int kHead = 34;
constexpr int kSide = 14;
constexpr int kGraph = 252;

}  // namespace

KitBench::KitBench(Document& document, ViewState&, QWidget* parent)
    : QWidget(parent),
      doc_(document),
      graph_(new StrengthGraph(document, this)),
      cells_(new CellGrid(document, this)),
      pattern_(new PatternGrid(document, this)) {
  const auto button = [&](const QString& text, const char* name, const QString& tip) {
    auto* b = new QToolButton(this);
    b->setText(text);
    b->setObjectName(name);
    b->setAccessibleName(tip);
    b->setToolTip(tip);
    b->setProperty("plain", true);
    b->setFocusPolicy(Qt::TabFocus);
    return b;
  };
  cellsTab_ = button(tr("Cells"), "show cells", tr("The slices under the fingers"));
  patternTab_ = button(tr("Pattern"), "show pattern", tr("The chosen pattern, to draw on"));
  for (auto* tab : {cellsTab_, patternTab_}) {
    tab->setCheckable(true);
    tab->setProperty(kCommand, "patterns.show");
    connect(tab, &QToolButton::clicked, this, [this, tab] { showPattern(tab == patternTab_); });
  }
  before_ = button(QStringLiteral("\u2039"), "cells before", tr("The sixteen slices before"));
  next_ = button(QStringLiteral("\u203a"), "next cells", tr("The next sixteen slices"));
  record_ = button(tr("record"), "record cells",
                   tr("Remember what is struck while the song plays; then lay it on the lanes"));
  record_->setCheckable(true);
  grid_ = button(tr("to the grid"), "cells to grid", tr("What was struck is laid on the timing plan's grid"));
  grid_->setCheckable(true);
  count_ = button(tr("counted in"), "cells counted in",
                  tr("Recording plays from a bar before the play line, with the click"));
  count_->setCheckable(true);
  count_->setProperty(kCommand, "kit.countin");
  before_->setProperty(kCommand, "kit.cellsbefore");
  next_->setProperty(kCommand, "kit.cellsnext");
  record_->setProperty(kCommand, "kit.record");
  grid_->setProperty(kCommand, "kit.togrid");
  connect(count_, &QToolButton::clicked, this, [this](bool on) { doc_.cellsDesk().setCountsIn(on); });
  split_ = button(tr("slice at hits"), "slice at hits", tr("Cut the active set at its hits, so that each is a cell"));
  connect(before_, &QToolButton::clicked, this, [this] { doc_.cellsDesk().turnTo(doc_.cellsDesk().page() - 1); });
  connect(next_, &QToolButton::clicked, this, [this] { doc_.cellsDesk().turnTo(doc_.cellsDesk().page() + 1); });
  connect(record_, &QToolButton::clicked, this, [this](bool on) { doc_.cellsDesk().record(on); });
  connect(grid_, &QToolButton::clicked, this, [this](bool on) { doc_.cellsDesk().setToGrid(on); });
  Actions::bind(split_, "clips.splithits");
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->onSong(doc_)
      .on(doc_.selection(), Selection::kWhere)
      .on(&doc_.kitDesk(), &KitDesk::changed)
      .on(&doc_.cellsDesk(), &CellsDesk::changed)
      .on(&doc_.patternDesk(), &PatternDesk::changed)
      .on(&Theme::get(), &Theme::changed);
  refresh();
}

void KitBench::showPattern(bool on) {
  showsPattern_ = on;
  refresh();
  (on ? static_cast<QWidget*>(pattern_) : cells_)->setFocus();
}

void KitBench::refresh() {
  const auto& desk = doc_.cellsDesk();
  before_->setEnabled(desk.page() > 0);
  next_->setEnabled(desk.page() + 1 < desk.pages());
  record_->setChecked(desk.recording());
  record_->setText(desk.recording() ? tr("\u25cf %1").arg(desk.recorded()) : tr("record"));
  grid_->setChecked(desk.toGrid());
  count_->setChecked(desk.countsIn());
  placeButtons();
  cells_->setVisible(!showsPattern_);
  pattern_->setVisible(showsPattern_);
  cellsTab_->setChecked(!showsPattern_);
  patternTab_->setChecked(showsPattern_);
  graph_->update();
  update();
}

void KitBench::resizeEvent(QResizeEvent*) {
  graph_->setGeometry(kSide - 6, kHead, kGraph, height() - kHead - 4);
  const int left = kSide + kGraph + 18;
  cells_->setGeometry(left, kHead, width() - left - kSide, height() - kHead - 12);
  pattern_->setGeometry(cells_->geometry());
  int tab = left - 6;
  for (auto* b : {cellsTab_, patternTab_}) {
    const int wide = b->fontMetrics().horizontalAdvance(b->text()) + 22;
    b->setGeometry(tab, 6, wide, 24);
    tab += wide + 2;
  }
  placeButtons();
}

/// From the right edge on, what matters least last: what has no room is reached by its command.
void KitBench::placeButtons() {
  const auto* set = doc_.song().find(doc_.kitDesk().set());
  const bool cut = !set || set->clips->size() >= 3;
  buttonsFrom_ = width() - kSide;
  for (auto* b : {next_, before_, record_, split_, grid_, count_}) {
    const int wide = b == next_ || b == before_ ? 24 : b->fontMetrics().horizontalAdvance(b->text()) + 20;
    const int left = buttonsFrom_ - wide - 4;
    const bool shown = !showsPattern_ && (b != split_ || !cut) && left > patternTab_->geometry().right() + 8;
    b->setVisible(shown);
    if (!shown) continue;
    b->setGeometry(left, 6, wide, 24);
    buttonsFrom_ = left;
  }
}

void KitBench::paintEvent(QPaintEvent*) {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  QPainter p(this);
  paintGround(p, *this, sheet.panel);
  p.setFont(theme.font(12.5, 600));
  p.setPen(sheet.ink);
  p.drawText(QRectF(kSide, 8, kGraph, 20), Qt::AlignVCenter, tr("Level by strength"));
  const double left = kSide + kGraph + 18;
  p.setFont(theme.font(11));
  p.setPen(sheet.note);
  const auto* set = doc_.song().find(doc_.kitDesk().set());
  const auto count = set ? set->clips->size() : 0;
  const double from = patternTab_->geometry().right() + 10;
  const double room = (showsPattern_ ? width() - kSide : buttonsFrom_ - 10) - from;
  const auto* pattern = doc_.patternDesk().chosen();
  const auto text = showsPattern_ ? pattern ? tr("%1 \u00b7 %2")
                                                  .arg(QString::fromStdString(pattern->name),
                                                       counted(pattern->strokes->size(), "stroke", "strokes"))
                                            : QString()
                    : count == 0
                        ? QString()
                        : tr("%1 of \"%2\"").arg(counted(count, "slice", "slices"), QString::fromStdString(set->name));
  constexpr double kReadable = 60;
  if (room > kReadable)
    p.drawText(QRectF(from, 8, room, 20), Qt::AlignVCenter,
               p.fontMetrics().elidedText(text, Qt::ElideRight, static_cast<int>(room)));
  p.setPen(sheet.rule);
  p.drawLine(QPointF(left - 10, 10), QPointF(left - 10, height() - 12));
}

}  // namespace ochron
