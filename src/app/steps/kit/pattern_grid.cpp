#include "steps/kit/pattern_grid.h"

#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

#include "actions/this_menu.h"
#include "document/cells_desk.h"
#include "document/fresh.h"
#include "document/pattern_desk.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "document/wording.h"
#include "theme/theme.h"
#include "time/grid.h"

namespace ochron {
namespace {

constexpr double kNames = 96;  // pixels left of the columns
constexpr double kFoot = 16;   // under the rows: beats
constexpr double kTallestRow = 34;
constexpr double kDbPerPixel = 0.25;
constexpr double kLinesFrom = 3;   // pixels between two lines
constexpr double kNamesFrom = 24;  // and between two beats that are named
constexpr double kDragFrom = 3;
constexpr double kKeyDb = 1;
constexpr std::size_t kReadWhole = 1'000;  // places
constexpr double kSoftest = -24;           // dB; what is softer is drawn alike

/// Of its box, by level: 0 dB is two thirds.
double fillOf(double gainDb) { return std::clamp(0.66 + gainDb / (gainDb > 0 ? 36.0 : -kSoftest * 1.6), 0.2, 1.0); }

}  // namespace

PatternGrid::PatternGrid(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setAccessibleName(tr("Pattern"));
  setToolTip(tr("Click to strike a slice there or to take the stroke away; drag a stroke louder or softer"));
  auto* fresh = new Fresh(this, [this] {
    read();
    update();
  });
  fresh->onSong(doc_)
      .on(&doc_.patternDesk(), &PatternDesk::changed)
      .on(doc_.selection(), Selection::kSet | Selection::kClips)
      .on(&Theme::get(), &Theme::changed);
  connect(&document, &Document::gestureOver, this, [this] { held_.reset(); });
  read();
}

QString PatternGrid::nameOf(const Clip& clip) const {
  const auto* pattern = doc_.patternDesk().chosen();
  const auto* set = pattern ? doc_.song().find(pattern->set) : nullptr;
  if (!set) return {};
  const auto hit = doc_.song().hitAtStart(*set, clip);
  const auto& clips = *set->clips;
  const auto at = std::find_if(clips.begin(), clips.end(), [&](const Clip& c) { return c.id == clip.id; });
  const auto what = hit ? drumName(hit->drum) : tr("slice");
  return at == clips.end() ? what : tr("%1 %2").arg(at - clips.begin() + 1).arg(what);
}

void PatternGrid::read() {
  model_ = {};
  const auto* pattern = doc_.patternDesk().chosen();
  if (!pattern) return;
  model_.rows = doc_.patternDesk().slices();
  for (const auto& c : model_.rows) model_.names.push_back(nameOf(c));
  for (const auto& line : gridLines(doc_.song().tempo, doc_.timingDesk().settings().grid, Ticks{0}, pattern->length))
    model_.columns.push_back(line.at);
  if (model_.columns.empty()) model_.columns.push_back(Ticks{0});
  for (const auto& s : *pattern->strokes) {
    const auto row = std::find_if(model_.rows.begin(), model_.rows.end(), [&](auto& c) { return c.id == s.clip.id; });
    const auto nearest = std::min_element(model_.columns.begin(), model_.columns.end(), [&](Ticks a, Ticks b) {
      return std::abs((a - s.at).value) < std::abs((b - s.at).value);
    });
    model_.places.emplace_back(row - model_.rows.begin(), nearest - model_.columns.begin());
  }
  cursor_.row = std::clamp(cursor_.row, 0, std::max(0, static_cast<int>(model_.rows.size()) - 1));
  cursor_.column = std::clamp(cursor_.column, 0, static_cast<int>(model_.columns.size()) - 1);
}

QRectF PatternGrid::plot() const {
  const auto rows = static_cast<double>(std::max<std::size_t>(1, model_.rows.size()));
  const double tall = std::min(height() - kFoot, rows * kTallestRow);
  return {kNames, 0, width() - kNames - 2, tall};
}

double PatternGrid::xOf(Ticks at) const {
  const auto* pattern = doc_.patternDesk().chosen();
  const auto box = plot();
  return pattern ? box.left() + box.width() * static_cast<double>(at.value) / static_cast<double>(pattern->length.value)
                 : box.left();
}

QRectF PatternGrid::boxOf(int row, int column) const {
  const auto* pattern = doc_.patternDesk().chosen();
  if (!pattern || model_.rows.empty()) return {};
  const auto box = plot();
  const double tall = box.height() / static_cast<double>(model_.rows.size());
  const auto at = static_cast<std::size_t>(column);
  const double left = xOf(model_.columns[at]);
  const double right = at + 1 < model_.columns.size() ? xOf(model_.columns[at + 1]) : box.right();
  return {left, box.top() + row * tall, right - left, tall};
}

/// Half of the grid's step: what lies in a column.
Ticks PatternGrid::reach() const {
  return Ticks{std::max<std::int64_t>(0, doc_.timingDesk().settings().grid.step().value / 2 - 1)};
}

std::optional<PatternGrid::Spot> PatternGrid::spotAt(QPointF at) const {
  const auto* pattern = doc_.patternDesk().chosen();
  const auto box = plot();
  if (!pattern || model_.rows.empty() || !box.contains(at)) return {};
  const auto rows = static_cast<int>(model_.rows.size());
  const int row = std::min(rows - 1, static_cast<int>((at.y() - box.top()) / box.height() * rows));
  const Ticks ticks{
      static_cast<std::int64_t>((at.x() - box.left()) / box.width() * static_cast<double>(pattern->length.value))};
  const auto behind = std::upper_bound(model_.columns.begin(), model_.columns.end(), ticks);
  return Spot{row, std::max(0, static_cast<int>(behind - model_.columns.begin()) - 1)};
}

std::optional<std::size_t> PatternGrid::strokeAt(Spot spot) const {
  const auto found = std::find(model_.places.begin(), model_.places.end(), std::pair{spot.row, spot.column});
  if (found == model_.places.end()) return {};
  return static_cast<std::size_t>(found - model_.places.begin());
}

void PatternGrid::paintLines(QPainter& p) const {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  const auto box = plot();
  const auto meter = doc_.song().tempo.meters().front().meter;
  p.setRenderHint(QPainter::Antialiasing, false);
  p.fillRect(box, sheet.field);
  const auto beat = meter.beatLength().value;
  // Of a long pattern only what can be told apart: beats, or bars.
  const double wide = xOf(Ticks{beat}) - xOf(Ticks{0});
  const bool steps = boxOf(0, 0).width() >= kLinesFrom;
  const auto named = wide >= kNamesFrom ? beat : beat * meter.beats;
  for (std::size_t c = 0; wide >= kLinesFrom && c < model_.columns.size(); ++c) {
    const auto area = boxOf(0, static_cast<int>(c));
    if (model_.columns[c].value / beat % 2 == 1)
      p.fillRect(QRectF(area.left(), box.top(), area.width(), box.height()), sheet.panel);
  }
  p.setFont(theme.font(10));
  double labelled = -kNamesFrom;
  for (const auto at : model_.columns) {
    const bool onBeat = at.value % named == 0;
    if (!steps && !onBeat) continue;
    p.setPen(onBeat ? sheet.rule : sheet.hairline);
    p.drawLine(QPointF(std::floor(xOf(at)) + 0.5, box.top()), QPointF(std::floor(xOf(at)) + 0.5, box.bottom()));
    if (!onBeat || xOf(at) - labelled < kNamesFrom) continue;
    labelled = xOf(at);
    p.setPen(sheet.note);
    const auto bar = at.value / beat / meter.beats;
    p.drawText(QPointF(xOf(at) + 3, box.bottom() + 12),
               tr("%1.%2").arg(bar + 1).arg(at.value / beat % meter.beats + 1));
  }
  const double tall = box.height() / static_cast<double>(model_.rows.size());
  for (int r = 0; r <= std::ssize(model_.rows); ++r) {
    p.setPen(sheet.hairline);
    const double y = std::floor(box.top() + r * tall) + 0.5;
    p.drawLine(QPointF(0, y), QPointF(box.right(), y));
    if (r == std::ssize(model_.rows)) break;
    const auto& row = model_.rows[static_cast<std::size_t>(r)];
    const bool struck =
        std::any_of(model_.places.begin(), model_.places.end(), [&](auto& at) { return at.first == r; });
    p.setPen(doc_.selection().isChosen(row.id) ? sheet.selection : struck ? sheet.ink : sheet.note);
    p.setFont(theme.font(11, struck ? 600 : 400));
    p.drawText(QRectF(2, y, kNames - 10, tall), Qt::AlignVCenter,
               p.fontMetrics().elidedText(model_.names[static_cast<std::size_t>(r)], Qt::ElideRight, kNames - 10));
  }
}

void PatternGrid::paintStrokes(QPainter& p) const {
  const auto& sheet = Theme::get().sheet();
  const auto* pattern = doc_.patternDesk().chosen();
  const double wide = std::clamp(boxOf(0, 0).width() * 0.6, 4.0, 18.0);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  for (std::size_t i = 0; i < pattern->strokes->size(); ++i) {
    const auto& stroke = (*pattern->strokes)[i];
    const auto area = boxOf(model_.places[i].first, 0);
    const double tall = (area.height() - 6) * fillOf(stroke.clip.gainDb);
    p.setBrush(held_ == i ? sheet.selection : sheet.ink);
    const double x = std::min(xOf(stroke.at) + 1.5, plot().right() - wide);
    p.drawRoundedRect(QRectF(x, area.bottom() - 3 - tall, wide, tall), 2, 2);
  }
  const auto frame = [&](Spot spot, const QColor& tone) {
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(tone, 1.5));
    p.drawRoundedRect(boxOf(spot.row, spot.column).adjusted(1, 1, -1, -1), 3, 3);
  };
  if (hovered_) frame(*hovered_, sheet.inkSoft);
  if (hasFocus()) frame(cursor_, sheet.selection);
}

void PatternGrid::paintEvent(QPaintEvent*) {
  QPainter p(this);
  if (!doc_.patternDesk().chosen() || model_.rows.empty()) {
    p.setFont(Theme::get().font(12));
    p.setPen(Theme::get().sheet().note);
    p.drawText(QRectF(rect()), Qt::AlignCenter, tr("Keep a pattern, or draw one with the chosen cell"));
    return;
  }
  paintLines(p);
  paintStrokes(p);
}

QString PatternGrid::wordsFor(Spot spot) const {
  const auto meter = doc_.song().tempo.meters().front().meter;
  const auto at = model_.columns[static_cast<std::size_t>(spot.column)];
  const auto beat = meter.beatLength().value;
  const auto place = tr("%1, bar %2 beat %3, line %4")
                         .arg(model_.names[static_cast<std::size_t>(spot.row)])
                         .arg(at.value / beat / meter.beats + 1)
                         .arg(at.value / beat % meter.beats + 1)
                         .arg(spot.column + 1);
  const auto stroke = strokeAt(spot);
  if (!stroke) return tr("%1: nothing").arg(place);
  const double db = (*doc_.patternDesk().chosen()->strokes)[*stroke].clip.gainDb;
  return tr("%1: struck at %2 dB").arg(place).arg(db, 0, 'f', 1);
}

void PatternGrid::turn(Spot spot) const {
  if (const auto stroke = strokeAt(spot)) return doc_.patternDesk().erase(*stroke);
  const auto& clip = model_.rows[static_cast<std::size_t>(spot.row)];
  doc_.patternDesk().draw(clip, model_.columns[static_cast<std::size_t>(spot.column)], reach());
  const auto cells = doc_.cellsDesk().cells();
  const auto cell = std::find_if(cells.begin(), cells.end(), [&](const Clip* c) { return c->id == clip.id; });
  if (cell != cells.end()) doc_.cellsDesk().strike(static_cast<int>(cell - cells.begin()));
}

void PatternGrid::louder(Spot spot, double db) const {
  const auto stroke = strokeAt(spot);
  if (!stroke) return;
  const double now = (*doc_.patternDesk().chosen()->strokes)[*stroke].clip.gainDb;
  doc_.patternDesk().setGain(*stroke, now + db, QStringLiteral("stroke key"));
  doc_.tell(wordsFor(spot));
}

void PatternGrid::mousePressEvent(QMouseEvent* event) {
  setFocus();
  const auto spot = spotAt(event->position());
  if (!spot || event->button() != Qt::LeftButton) return;
  cursor_ = *spot;
  pressed_ = event->position();
  dragged_ = false;
  held_ = strokeAt(*spot);
  if (held_)
    gainBefore_ = (*doc_.patternDesk().chosen()->strokes)[*held_].clip.gainDb;
  else
    turn(*spot);
  update();
}

void PatternGrid::mouseMoveEvent(QMouseEvent* event) {
  if (held_ && (event->buttons() & Qt::LeftButton)) {
    const double up = pressed_.y() - event->position().y();
    if (!dragged_ && std::abs(up) < kDragFrom) return;
    if (!std::exchange(dragged_, true)) grip_ = doc_.takeHold();
    doc_.patternDesk().setGain(*held_, std::round((gainBefore_ + up * kDbPerPixel) * 2) / 2,
                               QStringLiteral("stroke level"));
    return doc_.tell(wordsFor(cursor_));
  }
  const auto spot = spotAt(event->position());
  setCursor(spot ? Qt::PointingHandCursor : Qt::ArrowCursor);
  if (std::exchange(hovered_, spot) != spot) update();
}

void PatternGrid::mouseReleaseEvent(QMouseEvent*) {
  const bool clicked = held_ && !dragged_;
  grip_ = {};
  held_.reset();
  if (clicked) turn(cursor_);
  update();
}

void PatternGrid::leaveEvent(QEvent*) {
  hovered_.reset();
  update();
}

void PatternGrid::contextMenuEvent(QContextMenuEvent* event) {
  popUp(this, event->globalPos(),
        {"patterns.lay", "patterns.layoften", "-", "patterns.vary", "patterns.shuffle", "patterns.longer",
         "patterns.shorter", "-", "patterns.duplicate", "patterns.rename", "patterns.midi", "-", "patterns.remove"});
}

bool PatternGrid::event(QEvent* event) {
  // Arrows, Return, plus and minus are the pattern's while it has the focus.
  if (event->type() == QEvent::ShortcutOverride) {
    const auto* key = static_cast<QKeyEvent*>(event);
    constexpr std::array kOwn{Qt::Key_Left,  Qt::Key_Right, Qt::Key_Up,    Qt::Key_Down, Qt::Key_Return,
                              Qt::Key_Enter, Qt::Key_Plus,  Qt::Key_Minus, Qt::Key_Home, Qt::Key_End};
    const bool plain = !(key->modifiers() & ~(Qt::ShiftModifier | Qt::KeypadModifier));
    if (plain && std::find(kOwn.begin(), kOwn.end(), key->key()) != kOwn.end()) return event->accept(), true;
  }
  return QWidget::event(event);
}

void PatternGrid::keyPressEvent(QKeyEvent* event) {
  if (model_.rows.empty() || (event->modifiers() & ~(Qt::ShiftModifier | Qt::KeypadModifier)))
    return QWidget::keyPressEvent(event);
  const int rows = static_cast<int>(model_.rows.size());
  const int columns = static_cast<int>(model_.columns.size());
  switch (event->key()) {
    case Qt::Key_Left: cursor_.column = std::max(0, cursor_.column - 1); break;
    case Qt::Key_Right: cursor_.column = std::min(columns - 1, cursor_.column + 1); break;
    case Qt::Key_Home: cursor_.column = 0; break;
    case Qt::Key_End: cursor_.column = columns - 1; break;
    case Qt::Key_Up: cursor_.row = std::max(0, cursor_.row - 1); break;
    case Qt::Key_Down: cursor_.row = std::min(rows - 1, cursor_.row + 1); break;
    case Qt::Key_Return:
    case Qt::Key_Enter: return turn(cursor_);
    case Qt::Key_Plus: return louder(cursor_, kKeyDb);
    case Qt::Key_Minus: return louder(cursor_, -kKeyDb);
    default: return QWidget::keyPressEvent(event);
  }
  doc_.tell(wordsFor(cursor_));
  update();
}

std::vector<ReadItem> PatternGrid::readItems() const {
  std::vector<ReadItem> out;
  if (!doc_.patternDesk().chosen()) return out;
  // Of a long pattern its strokes, and where the keys are.
  const bool all = model_.rows.size() * model_.columns.size() <= kReadWhole;
  for (int r = 0; r < std::ssize(model_.rows); ++r)
    for (int c = 0; c < std::ssize(model_.columns); ++c)
      if (all || Spot{r, c} == cursor_ || strokeAt({r, c}))
        out.push_back({wordsFor({r, c}), boxOf(r, c), Spot{r, c} == cursor_, [this, r, c] { turn({r, c}); }});
  return out;
}

}  // namespace ochron
