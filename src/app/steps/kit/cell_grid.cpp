#include "steps/kit/cell_grid.h"

#include <QContextMenuEvent>
#include <QDragEnterEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <array>
#include <cmath>

#include "actions/this_menu.h"
#include "canvas/wave.h"
#include "document/cells_desk.h"
#include "document/fresh.h"
#include "document/kit_desk.h"
#include "document/selection.h"
#include "document/sounding.h"
#include "document/thing_words.h"
#include "document/wording.h"
#include "steps/kit/dropped_sound.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr int kColumns = 8;
constexpr double kBetween = 8;
constexpr int kGlowMs = 140;
constexpr float kFloor = 0.03F;  // full scale: what is softer is drawn soft
constexpr std::array<int, CellsDesk::kCells> kCellKeys{Qt::Key_Q, Qt::Key_W, Qt::Key_E, Qt::Key_R, Qt::Key_T, Qt::Key_Y,
                                                       Qt::Key_U, Qt::Key_I, Qt::Key_A, Qt::Key_S, Qt::Key_D, Qt::Key_F,
                                                       Qt::Key_G, Qt::Key_H, Qt::Key_J, Qt::Key_K};

/// What is another way than recorded, in a word or two.
QString badgeOf(const Clip& clip) {
  if (clip.muted) return CellGrid::tr("silent");
  if (clip.reversed) return CellGrid::tr("rev");
  const double cents = valueAt(clip.extras->pitch, clip.played().start, 0);
  if (cents != 0) return CellGrid::tr("%1%2 st").arg(cents > 0 ? "+" : "\u2212").arg(std::abs(cents) / 100, 0, 'g', 3);
  if (clip.gainDb != 0)
    return CellGrid::tr("%1%2 dB").arg(clip.gainDb > 0 ? "+" : "\u2212").arg(std::abs(clip.gainDb), 0, 'f', 1);
  if (clip.extras->choke != 0) return CellGrid::tr("choke %1").arg(clip.extras->choke);
  return {};
}

}  // namespace

CellGrid::CellGrid(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setAccessibleName(tr("Cells"));
  setAcceptDrops(true);
  glow_.setSingleShot(true);
  glow_.setInterval(kGlowMs);
  connect(&glow_, &QTimer::timeout, this, [this] {
    lit_ = -1;
    update();
  });
  connect(&doc_.cellsDesk(), &CellsDesk::struck, this, [this](int cell) {
    lit_ = cell;
    glow_.start();
    update();
  });
  auto* fresh = new Fresh(this, [this] {
    doc_.cellsDesk().refreshBank();
    update();
  });
  fresh->on(&doc_.cellsDesk(), &CellsDesk::changed)
      .on(doc_.selection(), Selection::kSet | Selection::kClips)
      .on(&doc_, &Document::mediaChanged)
      .on(&doc_.sounding(), &Sounding::planChanged)
      .on(&Theme::get(), &Theme::changed);
}

QRectF CellGrid::boxOf(int cell) const {
  const int rows = CellsDesk::kCells / kColumns;
  const double wide = (width() - kBetween * (kColumns - 1)) / kColumns;
  const double tall = (height() - kBetween * (rows - 1)) / rows;
  return {(cell % kColumns) * (wide + kBetween), static_cast<double>(cell / kColumns) * (tall + kBetween), wide, tall};
}

int CellGrid::cellAt(QPointF at) const {
  const auto count = static_cast<int>(doc_.cellsDesk().cells().size());
  for (int i = 0; i < count; ++i)
    if (boxOf(i).contains(at)) return i;
  return -1;
}

int CellGrid::cellOf(int key) {
  const auto at = std::find(kCellKeys.begin(), kCellKeys.end(), key);
  return at == kCellKeys.end() ? -1 : static_cast<int>(at - kCellKeys.begin());
}

QString CellGrid::soundName(const Clip& clip) const {
  const auto* media = clip.extras->sound ? doc_.song().find(clip.extras->sound->media) : nullptr;
  return media ? QString::fromStdString(media->name) : QString();
}

void CellGrid::paintEvent(QPaintEvent*) {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const auto cells = doc_.cellsDesk().cells();
  if (cells.empty()) {
    p.setFont(theme.font(12));
    p.setPen(sheet.note);
    p.drawText(QRectF(rect()), Qt::AlignCenter, tr("Import a recording to play its slices"));
    return;
  }
  for (int i = 0; i < std::ssize(cells); ++i) paintCell(p, i, *cells[static_cast<std::size_t>(i)]);
  if (hasFocus()) {
    p.setPen(QPen(sheet.selection, 1.5));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(QRectF(rect()).adjusted(0.75, 0.75, -0.75, -0.75), 6, 6);
  }
}

void CellGrid::paintCell(QPainter& p, int cell, const Clip& clip) {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  const auto box = boxOf(cell).adjusted(1, 1, -1, -1);
  const bool chosen = doc_.selection().isChosen(clip.id);
  p.setPen(QPen(chosen || cell == lit_ ? sheet.selection
                : cell == hovered_     ? sheet.inkSoft
                                       : sheet.rule,
                chosen || cell == lit_ ? 1.5 : 1));
  p.setBrush(cell == lit_ || chosen ? sheet.selectionSoft : sheet.field);
  p.drawRoundedRect(box, 5, 5);
  const bool low = box.height() < 62;
  p.setFont(theme.font(11, 600));
  p.setPen(clip.muted ? sheet.note : sheet.ink);
  const auto number = QString::number(doc_.cellsDesk().page() * CellsDesk::kCells + cell + 1);
  p.drawText(box.adjusted(8, 4, -8, 0), Qt::AlignLeft | Qt::AlignTop, number);
  const double taken = p.fontMetrics().horizontalAdvance(number);
  p.setFont(theme.font(10));
  p.setPen(sheet.note);
  // Where large text leaves no room for both, the number stays.
  if (const auto key = QKeySequence(kCellKeys[static_cast<std::size_t>(cell)]).toString();
      taken + 4 + p.fontMetrics().horizontalAdvance(key) <= box.width() - 16)
    p.drawText(box.adjusted(8, 5, -8, 0), Qt::AlignRight | Qt::AlignTop, key);
  const auto* set = doc_.song().setOf(clip.id);
  const auto hit = set ? doc_.song().hitAtStart(*set, clip) : std::nullopt;
  const auto drum = hit ? drumName(hit->drum) : soundName(clip);
  const auto badge = badgeOf(clip);
  if (!low || badge.isEmpty())
    p.drawText(box.adjusted(8, 0, -8, -4), Qt::AlignLeft | Qt::AlignBottom,
               low ? QString() : p.fontMetrics().elidedText(drum, Qt::ElideRight, static_cast<int>(box.width()) - 16));
  if (!badge.isEmpty()) {
    p.setPen(clip.muted ? sheet.note : sheet.selection);
    p.setFont(theme.font(10, 600));
    p.drawText(box.adjusted(8, 0, -8, -4), Qt::AlignRight | Qt::AlignBottom, badge);
  }
  // The mic that is loudest there shows the slice.
  const QRectF wave = box.adjusted(8, 20, -8, low ? -4 : -19);
  if (!set || wave.height() < 8) return;
  const DecodedMedia* shown = nullptr;
  double from = 0;
  float peak = kFloor;
  const auto played = clip.played();
  for (const auto track : set->tracks) {
    const auto* mic = doc_.song().micFor(*set, clip, track);
    const auto media = mic ? doc_.pool().find(mic->media) : doc_.pool().end();
    if (media == doc_.pool().end()) continue;
    const auto length = media->second->length().value;
    const auto a = std::clamp<std::int64_t>((played.start - mic->offset).value, 0, length);
    const auto b = std::clamp<std::int64_t>((played.end - mic->offset).value, a, length);
    const auto loudest = media->second->peaks(0).loudest(a, std::min(b, a + doc_.song().rate / 8));
    if (loudest <= peak) continue;
    peak = loudest;
    shown = media->second.get();
    from = static_cast<double>(a);
  }
  if (!shown) return;
  WaveCanvas canvas(wave.size().toSize(), devicePixelRatioF());
  const double frames = static_cast<double>(std::min<std::int64_t>(played.length().value, doc_.song().rate / 3));
  auto ink = clip.muted ? sheet.rule : chosen ? sheet.selection : sheet.ink;
  auto soft = ink;
  soft.setAlphaF(0.45F);
  canvas.draw(*shown, 0, clip.reversed ? from + frames : from, (clip.reversed ? -1 : 1) * frames / wave.width(), 0,
              wave.width(), 0, wave.height(), 0.92 / static_cast<double>(peak), {soft, ink});
  p.drawImage(wave.topLeft(), canvas.image());
}

void CellGrid::mousePressEvent(QMouseEvent* event) {
  setFocus();
  const int cell = cellAt(event->position());
  if (cell < 0) return;
  const auto id = doc_.cellsDesk().cells()[static_cast<std::size_t>(cell)]->id;
  if (event->modifiers() & Qt::ControlModifier)
    doc_.selection().toggle(id);
  else
    doc_.selection().choose({id});
  if (event->button() != Qt::LeftButton) return;
  // The lower it is pressed, the harder.
  const auto box = boxOf(cell);
  doc_.cellsDesk().strike(cell, 0.4 + 0.6 * std::clamp((event->position().y() - box.top()) / box.height(), 0.0, 1.0));
}

void CellGrid::mouseMoveEvent(QMouseEvent* event) {
  const int cell = cellAt(event->position());
  if (cell == hovered_) return;
  hovered_ = cell;
  setCursor(cell >= 0 ? Qt::PointingHandCursor : Qt::ArrowCursor);
  update();
}

void CellGrid::leaveEvent(QEvent*) {
  hovered_ = -1;
  update();
}

void CellGrid::dragEnterEvent(QDragEnterEvent* event) {
  if (!droppedSound(*event).isEmpty()) event->acceptProposedAction();
}

void CellGrid::dragMoveEvent(QDragMoveEvent* event) {
  const int cell = cellAt(event->position());
  if (cell >= 0)
    event->acceptProposedAction();
  else
    event->ignore();
  if (cell == hovered_) return;
  hovered_ = cell;
  update();
}

/// A sound for the cell that it is dropped on, or for all chosen ones when that is one of them.
void CellGrid::dropEvent(QDropEvent* event) {
  const int cell = cellAt(event->position());
  if (cell < 0) return;
  event->acceptProposedAction();
  const auto id = doc_.cellsDesk().cells()[static_cast<std::size_t>(cell)]->id;
  if (!doc_.selection().isChosen(id)) doc_.selection().choose({id});
  doc_.cellsDesk().giveSound(droppedSound(*event).toStdString());
}

void CellGrid::contextMenuEvent(QContextMenuEvent* event) {
  const int cell = cellAt(event->pos());
  if (cell < 0) return;
  const auto id = doc_.cellsDesk().cells()[static_cast<std::size_t>(cell)]->id;
  if (!doc_.selection().isChosen(id)) doc_.selection().choose({id});
  popUp(this, event->globalPos(),
        {"clips.mute", "clips.reverse", "clips.fadein", "clips.fadeout", "clips.swap", "kit.choke", "-",
         "kit.cellsound", "kit.cellback", "-", "edit.copy", "edit.delete", "-", "kit.writecells"});
}

bool CellGrid::event(QEvent* event) {
  // Letters are the cells' while the grid has the focus.
  if (event->type() == QEvent::ShortcutOverride) {
    const auto* key = static_cast<QKeyEvent*>(event);
    if (key->modifiers() == Qt::NoModifier && cellOf(key->key()) >= 0) return event->accept(), true;
  }
  return QWidget::event(event);
}

void CellGrid::keyPressEvent(QKeyEvent* event) {
  const int cell = event->modifiers() == Qt::NoModifier ? cellOf(event->key()) : -1;
  if (cell < 0) return QWidget::keyPressEvent(event);
  if (!event->isAutoRepeat()) doc_.cellsDesk().strike(cell);
}

std::vector<ReadItem> CellGrid::readItems() const {
  std::vector<ReadItem> out;
  const auto cells = doc_.cellsDesk().cells();
  for (std::size_t i = 0; i < cells.size(); ++i) {
    const auto& clip = *cells[i];
    const auto* set = doc_.song().setOf(clip.id);
    const auto hit = set ? doc_.song().hitAtStart(*set, clip) : std::nullopt;
    QStringList words{tr("cell %1").arg(doc_.cellsDesk().page() * CellsDesk::kCells + static_cast<int>(i) + 1)};
    if (hit) words << drumName(hit->drum);
    if (clip.extras->sound) words << tr("its own sound %1").arg(soundName(clip));
    words << placeWords(doc_.song(), clip.start) << tr("key %1").arg(QKeySequence(kCellKeys[i]).toString());
    if (const auto badge = badgeOf(clip); !badge.isEmpty()) words << badge;
    out.push_back({words.join(QStringLiteral(", ")), boxOf(static_cast<int>(i)), doc_.selection().isChosen(clip.id),
                   [this, i] { doc_.cellsDesk().strike(static_cast<int>(i)); }});
  }
  return out;
}

}  // namespace ochron
