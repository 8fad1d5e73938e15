#include "lanes/lanes_view.h"

#include <QContextMenuEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <set>

#include "actions/this_menu.h"
#include "canvas/range_drag.h"
#include "document/clip_desk.h"
#include "document/hit_desk.h"
#include "document/kit_desk.h"
#include "document/seam_desk.h"
#include "document/selection.h"
#include "document/tempo_desk.h"
#include "document/transport.h"
#include "edits/pieces.h"
#include "lanes/track_head.h"
#include "steps/clips/clip_overlay.h"
#include "steps/clips/envelope_overlay.h"
#include "steps/hits/hit_overlay.h"
#include "steps/kit/kit_overlay.h"
#include "steps/seams/seam_overlay.h"
#include "steps/tempo/fit_overlay.h"
#include "steps/tempo/tempo_overlay.h"
#include "steps/timing/pin_overlay.h"
#include "theme/theme.h"

namespace ochron {
namespace {

/// What lies on the lanes, in the order in which the pointer reaches it.
std::vector<std::unique_ptr<Overlay>> overlaysOf(Document& doc, ViewState& view, const LaneLayout& lanes) {
  auto clips = std::make_unique<ClipOverlay>(doc, view, lanes);
  auto envelopes = std::make_unique<EnvelopeOverlay>(doc, view, lanes, *clips);
  auto hits = std::make_unique<HitOverlay>(doc, view, lanes);
  auto fits = std::make_unique<FitOverlay>(doc, view, lanes, *hits);
  std::vector<std::unique_ptr<Overlay>> out;
  out.push_back(std::make_unique<KitOverlay>(doc, view, lanes));
  out.push_back(std::make_unique<PinOverlay>(doc, view, lanes));
  out.push_back(std::move(envelopes));
  out.push_back(std::move(clips));
  out.push_back(std::make_unique<TempoOverlay>(doc, view, lanes));
  out.push_back(std::move(fits));
  out.push_back(std::make_unique<SeamOverlay>(doc, view, lanes));
  out.push_back(std::move(hits));
  return out;
}

}  // namespace

LanesView::LanesView(Document& document, ViewState& view, QWidget* parent)
    : Row(document, view, parent), overlays_(overlaysOf(doc_, view_, lanes_)) {
  setAccessibleName(tr("Lanes"));
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  connect(&view, &ViewState::changed, this, &LanesView::arrangeHeads);
  connect(&document, &Document::songChanged, this, &LanesView::fitLanes);
  connect(&document, &Document::songChanged, this, &LanesView::arrangeHeads);
  document.selection().watch(Selection::kWhere, this, [this] { arrangeHeads(); });
  connect(&document, &Document::stepChanged, this, &LanesView::fitLanes);
  connect(&document, &Document::stepChanged, this, qOverload<>(&QWidget::update));
  connect(&document, &Document::transportChanged, this, qOverload<>(&QWidget::update));
  connect(&document.clipDesk(), &ClipDesk::changed, this, qOverload<>(&QWidget::update));
  connect(&document.seamDesk(), &SeamDesk::measured, this, qOverload<>(&QWidget::update));
  connect(&document.kitDesk(), &KitDesk::changed, this, qOverload<>(&QWidget::update));
  connect(&document.hitDesk(), &HitDesk::changed, this, qOverload<>(&QWidget::update));
  connect(&document.tempoDesk(), &TempoDesk::changed, this, qOverload<>(&QWidget::update));
  connect(&Theme::get(), &Theme::changed, this, &LanesView::arrangeHeads);
  connect(&Theme::get(), &Theme::changed, this, [this] { pictures_.forget(); });
  connect(&document, &Document::mediaChanged, this, [this] { pictures_.forget(); });
}

void LanesView::arrangeHeads() {
  const auto& tracks = doc_.song().tracks;
  for (auto it = heads_.begin(); it != heads_.end();) {
    if (doc_.song().find(it->first)) {
      ++it;
    } else {
      it->second->deleteLater();
      it = heads_.erase(it);
    }
  }
  const int most = std::max(0, static_cast<int>(tracks.size()) * view_.laneHeight() - height());
  if (view_.laneScroll() > most) return view_.setLaneScroll(most);
  for (int i = 0; i < std::ssize(tracks); ++i) {
    auto& head = heads_[tracks[static_cast<std::size_t>(i)].id];
    if (!head) {
      head = new TrackHead(doc_, tracks[static_cast<std::size_t>(i)].id, this);
      head->show();
    }
    const auto box = lanes_.laneBox(i);
    head->setGeometry(0, static_cast<int>(box.top()), kGutterWidth, static_cast<int>(box.height()));
    head->refresh();
  }
}

void LanesView::resizeEvent(QResizeEvent*) {
  view_.setWidth(width() - kGutterWidth);
  fitLanes();
  arrangeHeads();
}

void LanesView::fitLanes() {
  view_.fitLanes(height(), static_cast<int>(doc_.song().tracks.size()),
                 doc_.step() == Step::pitch || doc_.step() == Step::kit);
}

void LanesView::paintEvent(QPaintEvent* event) {
  QPainter p(this);
  paintEmptyRow(p);
  const auto& song = doc_.song();
  if (song.tracks.empty()) return paintEmpty(p);
  p.setClipRect(QRect(kGutterWidth, 0, width() - kGutterWidth, height()) & event->rect());
  paintRange(p);
  for (const auto& o : overlays_) o->paintUnder(p);
  paintRules(p, 0, std::min<double>(height(), lanes_.laneBox(static_cast<int>(song.tracks.size())).top()), true);
  paintTracks(p, event->rect());
  for (const auto& o : overlays_) o->paintOnSound(p);
  for (auto o = overlays_.rbegin(); o != overlays_.rend(); ++o) (*o)->paint(p);
  p.setClipRect(QRect(kGutterWidth, 0, width() - kGutterWidth, height()));
  paintPlayLine(p, 0, height());
}

void LanesView::paintTracks(QPainter& p, const QRect& dirty) {
  const auto& song = doc_.song();
  pictures_.begin();
  std::map<SetId, Shared<ClipList>> plain;
  std::set<TrackId> inSight;
  for (int i = 0; i < std::ssize(song.tracks); ++i) {
    const auto box = lanes_.laneBox(i);
    const auto& track = song.tracks[static_cast<std::size_t>(i)];
    if (box.bottom() > 0 && box.top() < height()) inSight.insert(track.id);
    if (box.bottom() < dirty.top() || box.top() > dirty.bottom()) continue;
    const auto* set = song.setOf(track.id);
    if (!set) continue;
    auto clips = set->clips;
    if (doc_.transport().original()) {
      const auto [found, added] = plain.try_emplace(set->id);
      if (added) found->second = withoutPlan(*set->clips);
      clips = found->second;
    }
    p.setRenderHint(QPainter::Antialiasing, false);
    p.setPen(Theme::get().sheet().hairline);
    p.drawLine(QPointF(kGutterWidth, box.bottom() - 1), QPointF(width(), box.bottom() - 1));
    pictures_.paint(p, box.toRect(), track, *set, clips, devicePixelRatioF());
    paintMissing(p, track, *clips, box);
  }
  pictures_.keepOnly(inSight);
}

/// In the Clips step a range lies on the tracks it was dragged over.
void LanesView::paintRange(QPainter& p) const {
  const auto range = doc_.selection().range();
  if (range.empty()) return;
  const auto& sheet = Theme::get().sheet();
  const double a = view_.xOf(range.start);
  const double b = view_.xOf(range.end);
  if (doc_.step() != Step::clips) return p.fillRect(QRectF(a, 0, b - a, height()), sheet.selectionSoft);
  for (const auto id : doc_.selection().rangeSets()) {
    const auto [top, bottom] = lanes_.setBounds(*doc_.song().find(id));
    p.fillRect(QRectF(a, top, b - a, bottom - top), sheet.selectionSoft);
  }
}

void LanesView::paintMissing(QPainter& p, const Track& track, const ClipList& clips, const QRectF& box) const {
  const auto* mic = clips.empty() ? nullptr : doc_.song().micOf(clips.front().take, track.id);
  const auto trouble = mic ? doc_.recordings().troubles().find(mic->media) : doc_.recordings().troubles().end();
  if (trouble == doc_.recordings().troubles().end()) return;
  const auto text = trouble->second.brief(QString::fromStdString(doc_.song().find(mic->media)->path));
  const auto& theme = Theme::get();
  p.setFont(theme.font(11));
  const QRectF line(kGutterWidth + 8, box.center().y() - 9, p.fontMetrics().horizontalAdvance(text) + 12, 18);
  QColor ground = theme.sheet().field;
  ground.setAlphaF(0.86F);
  p.setPen(Qt::NoPen);
  p.setBrush(ground);
  p.drawRoundedRect(line, 3, 3);
  p.setPen(theme.sheet().alarm);
  p.drawText(line.adjusted(6, 0, 0, 0), Qt::AlignVCenter, text);
}

void LanesView::paintEmpty(QPainter& p) {
  const auto& theme = Theme::get();
  const QRectF box(kGutterWidth, 0, width() - kGutterWidth, height());
  p.setPen(theme.sheet().ink);
  p.setFont(theme.font(17, 600));
  const double up = theme.px(46) - 16;  // over two lines, three of large text
  p.drawText(box.translated(0, -up), Qt::AlignCenter, tr("Drop recordings here"));
  p.setPen(theme.sheet().note);
  p.setFont(theme.font(12));
  p.drawText(box.adjusted(24, 24, -24, 24), Qt::AlignCenter | Qt::TextWordWrap,
             tr("WAV, FLAC, AIFF, Ogg or MP3, a file a mic, or a folder of them; keys as MIDI.\nFiles dropped together "
                "become one take."));
}

void LanesView::mousePressEvent(QMouseEvent* event) {
  setFocus();
  if (event->button() != Qt::LeftButton) return;
  const Press press{event->position(), event->modifiers(), [this](const QString& text) { emit gestureTold(text); }};
  auto& chosen = doc_.selection();
  const bool inClips = doc_.step() == Step::clips && !doc_.transport().original();
  if (const int lane = lanes_.laneAt(press.at.y()); lane >= 0) {
    const auto& track = doc_.song().tracks[static_cast<std::size_t>(lane)];
    if (inClips) chosen.chooseTrack(track.id);
    if (const auto* set = doc_.song().setOf(track.id)) chosen.chooseSet(set->id);
  }
  pressedAt_ = press.at;
  dragged_ = false;
  held_ = reached(press.at);
  if (!chosen.pins().empty() && !(held_ && held_->keepsPins())) chosen.choosePins({});
  if (held_) {
    gesture_ = held_->press(press);
    return update();
  }
  chosen.setRange({});
  if (inClips) chosen.clear();
  doc_.transport().setCursor(view_.frameAt(press.at.x()));
  gesture_ = rangeDrag({doc_, view_, lanes_, press.at, press.tell, {}});
}

Overlay* LanesView::reached(QPointF point) const {
  for (const auto& o : overlays_)
    if (o->has(point)) return o.get();
  return nullptr;
}

void LanesView::hover(std::optional<QPointF> point) {
  auto* over = point ? reached(*point) : nullptr;
  bool changed = false;
  for (const auto& o : overlays_) changed = o->point(o.get() == over ? point : std::nullopt) || changed;
  const auto look = over ? over->look() : std::nullopt;
  setCursor(look ? look->cursor : Qt::ArrowCursor);
  if (!changed) return;
  update();
  emit gestureTold(look ? look->tip : QString());
}

void LanesView::mouseMoveEvent(QMouseEvent* event) {
  if (!(event->buttons() & Qt::LeftButton)) return hover(event->position());
  if (!gesture_) return;
  dragged_ = dragged_ || (event->position() - pressedAt_).manhattanLength() >= 3;
  gesture_->move(event->position(), event->modifiers());
}

void LanesView::mouseReleaseEvent(QMouseEvent* event) {
  auto* held = std::exchange(held_, nullptr);
  const bool clicked = gesture_ && !dragged_;
  drop();
  if (held) held->release(clicked, event->modifiers());
}

/// Dropped, or taken back by Escape: then nothing is clicked.
void LanesView::dragEnded() {
  gesture_.reset();
  if (auto* held = std::exchange(held_, nullptr)) held->release(false, {});
  update();
}

std::optional<std::pair<Frames, SetId>> LanesView::pointed() const {
  const auto point = mapFromGlobal(QCursor::pos());
  const int lane = lanes_.laneAt(point.y());
  if (!rect().contains(point) || point.x() < kGutterWidth || lane < 0) return {};
  return std::pair{view_.frameAt(point.x()),
                   doc_.song().setOf(doc_.song().tracks[static_cast<std::size_t>(lane)].id)->id};
}

void LanesView::mouseDoubleClickEvent(QMouseEvent* event) {
  for (const auto& o : overlays_)
    if (o->doubleClick(event->position())) return;
}

/// The menu of what is under the pointer, or by key of what is chosen.
void LanesView::contextMenuEvent(QContextMenuEvent* event) {
  const bool byKey = event->reason() == QContextMenuEvent::Keyboard;
  auto* over = byKey ? nullptr : reached(event->pos());
  if (over) over->choose(event->pos());
  const auto thing = doc_.selection().meant();
  if (!thing || (!byKey && !over && *thing != Selection::Thing::range)) return;
  const auto at = byKey
                      ? mapToGlobal(QPoint(
                            std::clamp(static_cast<int>(xOf(doc_.transport().cursor())), kGutterWidth, width() - 1), 0))
                      : event->globalPos();
  popUp(this, at, menuOf(*thing));
}

void LanesView::leaveEvent(QEvent*) { hover({}); }

}  // namespace ochron
