#include "lanes/lanes_view.h"

#include <QContextMenuEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "actions/actions.h"
#include "document/clip_desk.h"
#include "document/hit_desk.h"
#include "document/kit_desk.h"
#include "document/pin_desk.h"
#include "document/seam_desk.h"
#include "document/selection.h"
#include "document/tempo_desk.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "edits/hit_edits.h"
#include "edits/pieces.h"
#include "lanes/track_head.h"
#include "theme/theme.h"
#include "time/grid.h"

namespace ochron {
namespace {
/// Dragging over the lanes chooses a range; in the Clips step over the tracks it touches, with the clips inside.
class RangeDrag : public Gesture {
 public:
  RangeDrag(Document& doc, ViewState& view, const LaneLayout& lanes, QPointF from,
            std::function<void(const QString&)> tell)
      : doc_(doc), view_(view), lanes_(lanes), from_(from), anchor_(view.frameAt(from.x())), tell_(std::move(tell)) {}
  void move(QPointF point, Qt::KeyboardModifiers) override {
    const auto at = view_.frameAt(point.x());
    const auto snapped = [&](Frames f) {
      const auto found = Snapper(doc_, view_).nearest(f);
      return found ? found->at : f;
    };
    const auto a = snapped(std::min(anchor_, at));
    const auto b = snapped(std::max(anchor_, at));
    if (std::abs(view_.xOf(a) - view_.xOf(b)) < 4) return;
    doc_.selection().setRange({a, b});
    doc_.transport().setCursor(a);
    QString text = LanesView::tr("Range of %1 s").arg(static_cast<double>((b - a).value) / doc_.song().rate, 0, 'f', 3);
    if (doc_.step() == Step::clips) {
      const auto sets = setsBetween(from_.y(), point.y());
      doc_.selection().chooseIn({a, b}, sets);
      doc_.selection().setRangeSets(sets);
      text += LanesView::tr(" on %1 \u00b7 %2 inside")
                  .arg(counted(sets.size(), "set", "sets"), counted(doc_.selection().clips().size(), "clip", "clips"));
    }
    tell_(text);
  }

 private:
  std::vector<SetId> setsBetween(double y0, double y1) const {
    const auto& tracks = doc_.song().tracks;
    if (tracks.empty()) return {};
    const auto lane = [&](double y) {
      const int i = lanes_.laneAt(std::max(0.0, y));
      return i < 0 || i >= std::ssize(tracks) ? static_cast<int>(tracks.size()) - 1 : i;
    };
    std::vector<SetId> out;
    for (int i = std::min(lane(y0), lane(y1)); i <= std::max(lane(y0), lane(y1)); ++i) {
      const auto* set = doc_.song().setOf(tracks[static_cast<std::size_t>(i)].id);
      if (set && (out.empty() || out.back() != set->id)) out.push_back(set->id);
    }
    return out;
  }

  Document& doc_;
  ViewState& view_;
  const LaneLayout& lanes_;
  QPointF from_;
  Frames anchor_;
  std::function<void(const QString&)> tell_;
};

}  // namespace

LanesView::LanesView(Document& document, ViewState& view, QWidget* parent) : Row(document, view, parent) {
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
  const auto& sheet = Theme::get().sheet();
  paintEmptyRow(p);
  const auto& song = doc_.song();
  if (song.tracks.empty()) return paintEmpty(p);
  p.setClipRect(QRect(kGutterWidth, 0, width() - kGutterWidth, height()) & event->rect());
  paintRange(p);
  clips_.paintUnder(p);
  seams_.paintRanges(p);
  const double bottom = std::min<double>(height(), lanes_.laneBox(static_cast<int>(song.tracks.size())).top());
  paintRules(p, 0, bottom, true);
  pictures_.begin();
  std::map<SetId, Shared<ClipList>> plain;
  std::set<TrackId> inSight;
  for (int i = 0; i < std::ssize(song.tracks); ++i) {
    const auto box = lanes_.laneBox(i);
    const auto& track = song.tracks[static_cast<std::size_t>(i)];
    if (box.bottom() > 0 && box.top() < height()) inSight.insert(track.id);
    if (box.bottom() < event->rect().top() || box.top() > event->rect().bottom()) continue;
    const auto* set = song.setOf(track.id);
    if (!set) continue;
    auto clips = set->clips;
    if (doc_.transport().original()) {
      const auto [found, added] = plain.try_emplace(set->id);
      if (added) found->second = withoutPlan(*set->clips);
      clips = found->second;
    }
    p.setRenderHint(QPainter::Antialiasing, false);
    p.setPen(sheet.hairline);
    p.drawLine(QPointF(kGutterWidth, box.bottom() - 1), QPointF(width(), box.bottom() - 1));
    pictures_.paint(p, box.toRect(), track, *set, clips, devicePixelRatioF());
    paintMissing(p, track, *clips, box);
  }
  pictures_.keepOnly(inSight);
  if (!doc_.transport().original()) clips_.paintSpans(p);
  clips_.paint(p);
  envelopes_.paint(p);
  seams_.paint(p);
  pins_.paint(p);
  hits_.paint(p);
  kit_.paint(p, view_.visible());
  tempo_.paint(p, 0, bottom);
  p.setClipRect(QRect(kGutterWidth, 0, width() - kGutterWidth, height()));
  paintPlayLine(p, 0, height());
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
  p.drawText(box.adjusted(0, -30, 0, -30), Qt::AlignCenter, tr("Drop recordings here"));
  p.setPen(theme.sheet().note);
  p.setFont(theme.font(12));
  p.drawText(box.adjusted(0, 24, 0, 24), Qt::AlignCenter,
             tr("WAV, FLAC, AIFF, Ogg or MP3, a file a mic, or a folder of them; keys as MIDI.\nFiles dropped together "
                "become one take."));
}

void LanesView::mousePressEvent(QMouseEvent* event) {
  setFocus();
  if (event->button() != Qt::LeftButton) return;
  const auto point = event->position();
  const int index = lanes_.laneAt(point.y());
  if (index >= 0)
    if (const auto* set = doc_.song().setOf(doc_.song().tracks[static_cast<std::size_t>(index)].id))
      doc_.selection().chooseSet(set->id);
  const auto tell = [this](const QString& text) { emit gestureTold(text); };
  pressedAt_ = point;
  dragged_ = false;
  pressed_.reset();
  if (const auto stroke = kit_.at(point)) {
    gesture_ = kit_.press(point, *stroke, tell);
    return update();
  }
  if (const auto pin = pins_.at(point)) {
    gesture_ = pins_.press(point, *pin, event->modifiers(), tell);
    return update();
  }
  if (!doc_.selection().pins().empty()) doc_.selection().choosePins({});
  if (doc_.step() == Step::clips && pressClip(event)) return update();
  if (const auto line = tempo_.at(point)) {
    gesture_ = tempo_.grab(point, *line, tell);
    return;
  }
  if (const auto spot = fitSpot(point)) {
    gesture_ = tempo_.grabFit(point, *spot, tell);
    return;
  }
  if (const auto spot = seams_.at(point)) {
    doc_.selection().chooseSeam(spot->clip);
    gesture_ = seams_.grab(point, *spot, event->modifiers(), tell);
  } else if (const auto hit = hits_.at(point)) {
    doc_.selection().chooseHit(hit);
    gesture_ = grabStroke(point, *hit, tell);
  } else {
    doc_.selection().setRange({});
    doc_.transport().setCursor(view_.frameAt(point.x()));
    gesture_ = std::make_unique<RangeDrag>(doc_, view_, lanes_, point, tell);
  }
}

std::optional<TempoOverlay::FitSpot> LanesView::fitSpot(QPointF point) const {
  const int lane = lanes_.laneAt(point.y());
  if (lane < 0) return {};
  const auto* set = doc_.song().setOf(doc_.song().tracks[static_cast<std::size_t>(lane)].id);
  return tempo_.fitAt(point, *set, set->id == doc_.selection().set() ? hits_.at(point) : std::nullopt);
}

/// In the timing step a hit's target is dragged where a plan is on; else the hit is pinned and dragged itself.
std::unique_ptr<Gesture> LanesView::grabStroke(QPointF at, HitRef hit,
                                               const std::function<void(const QString&)>& tell) {
  if (auto target = hits_.grab(at, hit, tell)) return target;
  const auto* planned = doc_.selection().plannedHit();
  if (doc_.step() != Step::timing || doc_.transport().original() || !planned) return nullptr;
  const auto place = doc_.pinDesk().placeOf(doc_.selection().set(), hit.take, planned->hit.at);
  return place ? pins_.drag(at, *place, tell) : nullptr;
}

/// A press in the Clips step: on an envelope, a clip, a span; or the beginning of a range. False: none of these.
bool LanesView::pressClip(QMouseEvent* event) {
  if (doc_.transport().original()) return false;
  const auto point = event->position();
  const auto modifiers = event->modifiers();
  const auto tell = [this](const QString& text) { emit gestureTold(text); };
  if (const int lane = lanes_.laneAt(point.y()); lane >= 0)
    doc_.selection().chooseTrack(doc_.song().tracks[static_cast<std::size_t>(lane)].id);
  const auto spot = clips_.at(point);
  const bool fades = spot && (spot->part == ClipOverlay::Part::fadeIn || spot->part == ClipOverlay::Part::fadeOut);
  if (const auto envelope = fades ? std::nullopt : envelopes_.at(point)) {
    gesture_ = envelopes_.grab(point, *envelope, tell);
    return true;
  }
  pressed_ = spot;
  if (spot && modifiers != Qt::ShiftModifier) {
    if (!spot->span && spot->part == ClipOverlay::Part::body) doc_.transport().setCursor(view_.frameAt(point.x()));
    if (!spot->span && !(modifiers & Qt::ControlModifier)) doc_.selection().setRange({});
    gesture_ = clips_.press(point, *spot, modifiers, tell);
    return true;
  }
  if (!spot) {
    doc_.selection().setRange({});
    doc_.selection().clear();
    doc_.transport().setCursor(view_.frameAt(point.x()));
  }
  gesture_ = std::make_unique<RangeDrag>(doc_, view_, lanes_, point, tell);
  return true;
}

void LanesView::hover(QPointF point) {
  const auto stroke = kit_.at(point);
  if (kit_.hover(stroke)) {
    update();
    emit gestureTold(stroke ? kit_.tipFor(*stroke) : QString());
  }
  if (stroke) return setCursor(doc_.step() == Step::kit ? Qt::SizeVerCursor : Qt::PointingHandCursor);
  const auto pin = pins_.at(point);
  if (pins_.hover(pin)) {
    update();
    emit gestureTold(pin ? pins_.tipFor(*pin) : QString());
  }
  if (pin) return setCursor(Qt::SizeHorCursor);
  if (doc_.step() == Step::clips && !doc_.transport().original()) {
    const auto spot = clips_.at(point);
    const auto envelope = envelopes_.at(point);
    if (clips_.hover(spot)) {
      update();
      emit gestureTold(spot ? clips_.tipFor(*spot) : QString());
    }
    return setCursor(envelope ? Qt::PointingHandCursor : spot ? ClipOverlay::cursorFor(spot->part) : Qt::ArrowCursor);
  }
  const auto line = tempo_.at(point);
  if (tempo_.hover(line)) update();
  if (line || fitSpot(point)) return setCursor(Qt::SplitHCursor);
  const auto spot = seams_.at(point);
  const auto hit = spot ? std::optional<HitRef>() : hits_.at(point);
  const bool changed = seams_.hover(spot);
  if (hits_.hover(hit) || changed) update();
  setCursor(spot && doc_.step() == Step::seams ? Qt::SplitHCursor
            : spot || hit                      ? Qt::PointingHandCursor
                                               : Qt::ArrowCursor);
}

void LanesView::mouseMoveEvent(QMouseEvent* event) {
  if (!(event->buttons() & Qt::LeftButton)) return hover(event->position());
  if (!gesture_) return;
  dragged_ = dragged_ || (event->position() - pressedAt_).manhattanLength() >= 3;
  gesture_->move(event->position(), event->modifiers());
}

void LanesView::mouseReleaseEvent(QMouseEvent* event) {
  const auto clicked = gesture_ && !dragged_ ? pressed_ : std::nullopt;
  drop();
  if (clicked) clips_.click(*clicked, event->modifiers());
}

void LanesView::dragEnded() {
  gesture_.reset();
  pressed_.reset();
  clips_.setWorkedOn({});
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
  if (doc_.step() == Step::clips) {
    if (doc_.transport().original() || envelopes_.doubleClick(event->position())) return;
    const auto spot = clips_.at(event->position());
    const auto* clip = spot ? doc_.song().find(spot->clip) : nullptr;
    if (clip && clip->bundle) doc_.clipDesk().openBundle(clip->bundle);
    return;
  }
  const int index = lanes_.laneAt(event->position().y());
  if (index < 0) return;
  const auto* set = doc_.song().setOf(doc_.song().tracks[static_cast<std::size_t>(index)].id);
  if (doc_.step() == Step::timing && doc_.pinDesk().shown()) {
    const auto at = view_.frameAt(event->position().x());
    const Frames reach{std::llround(6 * view_.framesPerPixel())};
    if (pins_.at(event->position())) return;
    if (const auto place = doc_.pinDesk().placeAt(set->id, at, reach)) doc_.pinDesk().add(*place);
    return;
  }
  if (doc_.step() != Step::hits || hits_.at(event->position())) return;
  const auto at = view_.frameAt(event->position().x());
  for (const auto& c : *set->clips) {
    if (!c.range().contains(at)) continue;
    const auto takeTime = c.toTake(at);
    if (doc_.edit(tr("Add hit"), addHit(doc_.song(), c.take, set->id, takeTime, DrumClass::other)))
      for (const auto& h : doc_.timingDesk().planned().hits)
        if (h.hit.at == takeTime) doc_.selection().chooseHit(HitRef{h.take, h.hit.id});
    return;
  }
}

void LanesView::contextMenuEvent(QContextMenuEvent* event) {
  if (doc_.step() != Step::clips || doc_.transport().original()) return;
  const auto spot = clips_.at(event->pos());
  if (spot && spot->clip && !doc_.selection().isChosen(spot->clip)) doc_.selection().choose({spot->clip});
  if (spot && spot->span) doc_.selection().chooseSpan(spot->span);
  auto* actions = Actions::of(this);
  if (!actions) return;
  actions->refresh();
  QMenu menu;
  for (const char* id : {"clips.splithere",
                         "clips.split",
                         "-",
                         "edit.cut",
                         "edit.copy",
                         "edit.paste",
                         "clips.duplicate",
                         "edit.delete",
                         "-",
                         "clips.mute",
                         "clips.reverse",
                         "clips.crossfade",
                         "clips.nofades",
                         "clips.tapestop",
                         "clips.tapestart",
                         "-",
                         "clips.aligngrid",
                         "clips.sync",
                         "clips.swap",
                         "-",
                         "clips.bundle",
                         "clips.unbundle",
                         "clips.openbundle",
                         "-",
                         "spans.add"}) {
    if (auto* a = actions->action(id))
      menu.addAction(a);
    else
      menu.addSeparator();
  }
  menu.exec(event->globalPos());
}

void LanesView::leaveEvent(QEvent*) {
  const bool overClip = clips_.hover({});
  if (overClip) emit gestureTold({});
  if (pins_.hover({})) update();
  if (kit_.hover({})) update();
  const bool line = tempo_.hover({});
  const bool changed = seams_.hover({}) || overClip || line;
  if (hits_.hover({}) || changed) update();
}

}  // namespace ochron
