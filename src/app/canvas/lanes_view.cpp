#include "canvas/lanes_view.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "canvas/track_head.h"
#include "song/pins.h"
#include "theme/theme.h"
#include "time/grid.h"

namespace ochron {
namespace {
constexpr double kGrab = 6;     // pixels
constexpr double kMarkY = 4.5;  // of a hit's mark under its lane's top
constexpr double kOnGridMs = 0.5;

/// Lanes show each recording at its own loudest, so that quiet mics can be read.
double visualGain(const DecodedMedia& media) {
  int peak = 1;
  for (const auto& p : media.peaks(0).levels.back())
    peak = std::max({peak, static_cast<int>(p.high), -static_cast<int>(p.low)});
  return std::clamp(32767.0 / peak, 1.0, 20.0);
}

QColor colourOf(double ms) {
  const auto& sheet = Theme::get().sheet();
  return ms > kOnGridMs ? sheet.late : ms < -kOnGridMs ? sheet.early : sheet.ink;
}
}  // namespace

LanesView::LanesView(Document& document, ViewState& view, QWidget* parent) : Row(document, view, parent) {
  setAccessibleName(tr("Lanes"));
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  connect(&view, &ViewState::changed, this, &LanesView::arrangeHeads);
  connect(&document, &Document::songChanged, this, &LanesView::arrangeHeads);
  connect(&document, &Document::selectionChanged, this, &LanesView::arrangeHeads);
  connect(&document, &Document::stepChanged, this, qOverload<>(&QWidget::update));
  connect(&document, &Document::transportChanged, this, qOverload<>(&QWidget::update));
  connect(&Theme::get(), &Theme::changed, this, &LanesView::arrangeHeads);
}

QRectF LanesView::laneBox(int index) const {
  return {static_cast<double>(kGutterWidth), static_cast<double>(index * view_.laneHeight() - view_.laneScroll()),
          static_cast<double>(width() - kGutterWidth), static_cast<double>(view_.laneHeight())};
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
    const auto box = laneBox(i);
    head->setGeometry(0, static_cast<int>(box.top()), kGutterWidth, static_cast<int>(box.height()));
    head->refresh();
  }
}

void LanesView::resizeEvent(QResizeEvent*) {
  view_.setWidth(width() - kGutterWidth);
  arrangeHeads();
}

int LanesView::trackIndexAt(double y) const {
  const int i = static_cast<int>(std::floor((y + view_.laneScroll()) / view_.laneHeight()));
  return i >= 0 && i < std::ssize(doc_.song().tracks) ? i : -1;
}

void LanesView::paintEvent(QPaintEvent* event) {
  QPainter p(this);
  const auto& sheet = Theme::get().sheet();
  p.fillRect(event->rect(), sheet.paper);
  p.fillRect(QRect(0, 0, kGutterWidth, height()), sheet.panel);
  const auto& song = doc_.song();
  if (song.tracks.empty()) return paintEmpty(p);
  p.setClipRect(QRect(kGutterWidth, 0, width() - kGutterWidth, height()) & event->rect());
  if (!doc_.range().empty()) {
    const double a = view_.xOf(doc_.range().start);
    p.fillRect(QRectF(a, 0, view_.xOf(doc_.range().end) - a, height()), sheet.selectionSoft);
  }
  const double bottom = std::min<double>(height(), laneBox(static_cast<int>(song.tracks.size())).top());
  paintRules(p, 0, bottom, true);
  std::map<SetId, ClipList> plain;
  for (int i = 0; i < std::ssize(song.tracks); ++i) {
    const auto box = laneBox(i);
    if (box.bottom() < event->rect().top() || box.top() > event->rect().bottom()) continue;
    const auto& track = song.tracks[static_cast<std::size_t>(i)];
    const auto* set = song.setOf(track.id);
    if (!set) continue;
    const ClipList* clips = &*set->clips;
    if (doc_.original()) {
      auto found = plain.find(set->id);
      if (found == plain.end()) found = plain.emplace(set->id, withoutPlan(*set->clips)).first;
      clips = &found->second;
    }
    paintLane(p, i, track, *clips, event->rect());
  }
  paintHits(p);
  p.setClipRect(QRect(kGutterWidth, 0, width() - kGutterWidth, height()));
  paintPlayLine(p, 0, height());
}

void LanesView::paintLane(QPainter& p, int index, const Track& track, const ClipList& clips, const QRect& dirty) {
  const auto& sheet = Theme::get().sheet();
  const auto box = laneBox(index);
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setPen(sheet.hairline);
  p.drawLine(QPointF(kGutterWidth, box.bottom() - 1), QPointF(width(), box.bottom() - 1));
  const double from = std::max<double>(kGutterWidth, dirty.left() - 1);
  const double to = std::min<double>(width(), dirty.right() + 2);
  const auto first = view_.frameAt(from);
  const auto last = view_.frameAt(to) + Frames{1};
  auto it = std::upper_bound(clips.begin(), clips.end(), first, [](Frames f, const Clip& c) { return f < c.end(); });
  const QSize size(static_cast<int>(to - from) + 1, static_cast<int>(box.height()));
  WaveCanvas canvas(size, devicePixelRatioF());
  const QRectF local(0, 1, size.width(), box.height() - 3);
  struct Corner {
    double x0, x1;
    bool moved;
  };
  std::vector<Corner> corners;
  for (; it != clips.end() && it->start < last; ++it) {
    const double x0 = view_.xOf(it->start);
    const double x1 = view_.xOf(it->end());
    paintClipWave(canvas, track, *it, local, x0 - from, x1 - from);
    if (x1 - x0 > 14) corners.push_back({x0, x1, it->piece.has_value()});
  }
  p.drawImage(QPointF(from, box.top()), canvas.image());
  if (view_.framesPerPixel() < 1) {
    for (auto c =
             std::upper_bound(clips.begin(), clips.end(), first, [](Frames f, const Clip&x) { return f < x.end(); });
         c != clips.end() && c->start < last; ++c) {
      const auto* mic = doc_.song().micOf(c->take, track.id);
      const auto media = mic ? doc_.pool().find(mic->media) : doc_.pool().end();
      if (media == doc_.pool().end()) continue;
      for (const auto& piece : evenPieces(*c)) {
        const double x0 = std::max(from, view_.xOf(piece.song.start));
        const double x1 = std::min(to, view_.xOf(piece.song.end));
        if (x1 <= x0) continue;
        const double into = view_.firstFrame() + (x0 - kGutterWidth) * view_.framesPerPixel() -
                            static_cast<double>(piece.song.start.value);
        drawSamples(p, *media->second, 0, static_cast<double>((piece.take - mic->offset).value) + into * piece.speed,
                    view_.framesPerPixel() * piece.speed, QRectF(x0, box.top() + 1, x1 - x0, box.height() - 3),
                    std::pow(10, c->gainDb / 20) * visualGain(*media->second), sheet.ink);
      }
    }
  }
  // Corner brackets: thin, and only as many as can be told apart.
  p.setRenderHint(QPainter::Antialiasing, false);
  auto tone = sheet.ink;
  tone.setAlphaF(0.42F);
  p.setPen(QPen(tone, 1));
  const double top = box.top() + 1.5;
  const double low = box.bottom() - 3.5;
  for (const auto& c : corners) {
    const double arm = std::min(3.0, (c.x1 - c.x0) / 3);
    const double a = std::floor(c.x0) + 1.5;
    const double b = std::floor(c.x1) - 1.5;
    p.drawLines({QLineF(a, top, a + arm, top), QLineF(a, top, a, top + 4), QLineF(a, low, a + arm, low),
                 QLineF(a, low, a, low - 4), QLineF(b, top, b - arm, top), QLineF(b, top, b, top + 4),
                 QLineF(b, low, b - arm, low), QLineF(b, low, b, low - 4)});
  }
  const auto* take = clips.empty() ? nullptr : doc_.song().micOf(clips.front().take, track.id);
  if (take && !doc_.pool().contains(take->media) && !doc_.jobs().busy()) {
    p.setPen(sheet.alarm);
    p.setFont(Theme::get().font(11));
    p.drawText(QRectF(kGutterWidth + 12, box.top(), 500, box.height()), Qt::AlignVCenter,
               tr("recording missing: %1").arg(QString::fromStdString(doc_.song().find(take->media)->path)));
  }
}

void LanesView::paintClipWave(WaveCanvas& canvas, const Track& track, const Clip& clip, const QRectF& lane, double x0,
                              double x1) {
  const auto* mic = doc_.song().micOf(clip.take, track.id);
  const auto media = mic ? doc_.pool().find(mic->media) : doc_.pool().end();
  if (media == doc_.pool().end() || view_.framesPerPixel() < 1) return;
  const auto& sheet = Theme::get().sheet();
  WaveInk ink{sheet.inkSoft, sheet.ink};
  if (track.muted || clip.muted) ink = {sheet.rule, sheet.inkSoft};
  const double pixel = view_.framesPerPixel();
  for (const auto& piece : evenPieces(clip)) {
    const double from = x0 + static_cast<double>((piece.song.start - clip.start).value) / pixel;
    const double to = std::min(x1, x0 + static_cast<double>((piece.song.end - clip.start).value) / pixel);
    if (to < 0 || from > lane.width()) continue;
    const double left = std::max(0.0, from);
    const double first = static_cast<double>((piece.take - mic->offset).value) + (left - from) * pixel * piece.speed;
    canvas.draw(*media->second, 0, first, pixel * piece.speed, left, std::min(lane.width(), to), lane.top(),
                lane.height(), std::pow(10, clip.gainDb / 20) * visualGain(*media->second), ink);
  }
}

void LanesView::paintHits(QPainter& p) {
  const auto& sheet = Theme::get().sheet();
  const auto& song = doc_.song();
  const auto* set = song.find(doc_.activeSet());
  if (!set) return;
  const bool atHits = doc_.step() == Step::hits;
  const auto seen = view_.visible();
  const auto& hits = doc_.planned().hits;
  const bool dense = [&] {
    int n = 0;
    for (const auto& h : hits) n += seen.contains(h.home) ? 1 : 0;
    return n > view_.width() / 7;
  }();
  std::map<TrackId, int> lane;
  for (int i = 0; i < std::ssize(song.tracks); ++i) lane[song.tracks[static_cast<std::size_t>(i)].id] = i;
  double setTop = 1e9;
  double setBottom = -1e9;
  for (auto t : set->tracks) {
    setTop = std::min(setTop, laneBox(lane[t]).top());
    setBottom = std::max(setBottom, laneBox(lane[t]).bottom());
  }
  p.setRenderHint(QPainter::Antialiasing, true);
  const auto current = doc_.currentHit();
  for (const auto& h : hits) {
    const auto at = doc_.original() || !doc_.timing().on ? h.home : h.to();
    const double x = view_.xOf(at);
    if (x < kGutterWidth - 20 || x > width() + 20) continue;
    const bool isCurrent = current && current->hit == h.hit.id && current->take == h.take;
    const bool isHovered = hovered_ && hovered_->hit == h.hit.id;
    const double ms = h.line ? (doc_.original() || !doc_.timing().on ? h.beforeMs : h.afterMs) : 0;
    auto colour = h.line ? colourOf(ms) : sheet.alarm;
    if (isCurrent) {
      p.setPen(QPen(sheet.selection, 1.2));
      p.drawLine(QPointF(x, setTop), QPointF(x, setBottom));
    } else if (atHits && !dense) {
      auto faint = sheet.ink;
      faint.setAlphaF(0.28F);
      p.setPen(QPen(faint, 1));
      p.drawLine(QPointF(x, setTop), QPointF(x, setBottom));
    }
    for (const auto& [track, strength] : h.hit.heardBy) {
      const auto* t = song.find(track);
      if (!t || !t->guide || (track != h.hit.heardBy.front().track)) continue;
      const double y = laneBox(lane[track]).top() + kMarkY;
      // Whisker to the grid place the hit is meant for.
      if (h.line && doc_.step() == Step::timing) {
        p.setPen(QPen(colour, 1.2));
        p.drawLine(QPointF(x, y), QPointF(view_.xOf(h.line->frame), y));
      }
      p.setPen(isCurrent || isHovered ? QPen(sheet.selection, 1.6) : QPen(Qt::NoPen));
      p.setBrush(isCurrent ? sheet.paper : colour);
      const double r = isCurrent || isHovered ? 4 : dense ? 1.8 : 3;
      p.drawEllipse(QPointF(x, y), r, r);
    }
    if (h.hit.heardBy.empty()) {  // placed by hand: no guide heard it
      p.setPen(Qt::NoPen);
      p.setBrush(isCurrent ? sheet.selection : colour);
      p.drawEllipse(QPointF(x, setTop + kMarkY), 3, 3);
    }
  }
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
             tr("WAV, FLAC, AIFF, Ogg or MP3, one file a mic.\nFiles dropped together become one take."));
}

std::optional<HitRef> LanesView::hitAt(QPointF point) const {
  const int index = trackIndexAt(point.y());
  if (index < 0) return {};
  const bool wide = doc_.step() == Step::hits;
  std::optional<HitRef> best;
  double bestDistance = kGrab;
  for (const auto& h : doc_.planned().hits) {
    const double x = view_.xOf(doc_.original() || !doc_.timing().on ? h.home : h.to());
    const double distance = std::abs(x - point.x());
    const bool near = wide || point.y() - laneBox(index).top() < 12;
    if (near && distance < bestDistance) bestDistance = distance, best = HitRef{h.take, h.hit.id};
  }
  return best;
}

std::optional<Frames> LanesView::snapped(Frames at) const {
  const auto& map = doc_.song().tempo;
  const auto line = nearestLine(map, doc_.timing().grid, map.toTicks(at));
  if (std::abs(view_.xOf(line.frame) - view_.xOf(at)) > 7) return {};
  return line.frame;
}

void LanesView::mousePressEvent(QMouseEvent* event) {
  setFocus();
  if (event->button() != Qt::LeftButton) return;
  const int index = trackIndexAt(event->position().y());
  if (index >= 0)
    if (const auto* set = doc_.song().setOf(doc_.song().tracks[static_cast<std::size_t>(index)].id))
      doc_.setActiveSet(set->id);
  anchor_ = view_.frameAt(event->position().x());
  if (const auto hit = hitAt(event->position())) {
    doc_.setCurrentHit(hit);
    grabbed_ = hit;
    drag_ = Drag::target;
    return;
  }
  doc_.setRange({});
  doc_.setCursor(anchor_);
  drag_ = Drag::range;
}

void LanesView::mouseMoveEvent(QMouseEvent* event) {
  if (!(event->buttons() & Qt::LeftButton)) {
    const auto hit = hitAt(event->position());
    if (hit != hovered_) hovered_ = hit, update();
    setCursor(hit ? Qt::PointingHandCursor : Qt::ArrowCursor);
    return;
  }
  const auto at = view_.frameAt(event->position().x());
  if (drag_ == Drag::range) {
    const auto a = snapped(std::min(anchor_, at)).value_or(std::min(anchor_, at));
    const auto b = snapped(std::max(anchor_, at)).value_or(std::max(anchor_, at));
    if (std::abs(view_.xOf(a) - view_.xOf(b)) < 4) return;
    doc_.setRange({a, b});
    doc_.setCursor(a);
    emit gestureTold(tr("Range of %1 s").arg(static_cast<double>((b - a).value) / doc_.song().rate, 0, 'f', 3));
  } else if (drag_ == Drag::target && doc_.step() == Step::timing && doc_.timing().on &&
             std::abs(view_.xOf(at) - view_.xOf(anchor_)) >= 3) {
    const auto map = doc_.song().tempo;  // a copy: the song changes below
    HitOverride o;
    const auto* set = doc_.song().find(doc_.activeSet());
    if (const auto found = set->plan->overrides.find(grabbed_->hit); found != set->plan->overrides.end())
      o = found->second;
    o.target = map.toTicks(snapped(at).value_or(at));
    o.frozen = false;
    doc_.overrideHit(tr("Move target"), grabbed_->hit, o, "target");
    const auto where = map.position(*o.target);
    emit gestureTold(tr("Target to %1.%2, %3 ms from where it was played; Escape takes it back")
                         .arg(where.bar + 1)
                         .arg(where.beat + 1)
                         .arg(static_cast<double>((at - anchor_).value) * 1000 / doc_.song().rate, 0, 'f', 1));
  }
}

void LanesView::mouseReleaseEvent(QMouseEvent*) {
  drag_ = Drag::none;
  doc_.endGesture();
  emit gestureTold({});
}

void LanesView::mouseDoubleClickEvent(QMouseEvent* event) {
  const int index = trackIndexAt(event->position().y());
  if (index < 0 || doc_.step() != Step::hits || hitAt(event->position())) return;
  const auto* set = doc_.song().setOf(doc_.song().tracks[static_cast<std::size_t>(index)].id);
  const auto at = view_.frameAt(event->position().x());
  for (const auto& c : *set->clips) {
    if (!c.range().contains(at)) continue;
    const auto takeTime = at - c.shift();
    if (doc_.editHits(tr("Add hit"), addHit(doc_.song(), c.take, set->id, takeTime, DrumClass::other)))
      for (const auto& h : doc_.planned().hits)
        if (h.hit.at == takeTime) doc_.setCurrentHit(HitRef{h.take, h.hit.id});
    return;
  }
}

bool LanesView::event(QEvent* event) {
  // While something is dragged, Escape takes it back; else it is the window's.
  if (event->type() == QEvent::ShortcutOverride && drag_ == Drag::target &&
      static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape)
    event->accept();
  return Row::event(event);
}

void LanesView::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape && drag_ == Drag::target && doc_.undoName() == tr("Move target")) {
    drag_ = Drag::none;
    doc_.undo();
    return;
  }
  Row::keyPressEvent(event);
}

void LanesView::leaveEvent(QEvent*) {
  if (hovered_) hovered_.reset(), update();
}

}  // namespace ochron
