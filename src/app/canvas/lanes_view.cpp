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
/// Lanes show each recording at its own loudest, so that quiet mics can be read.
double visualGain(const DecodedMedia& media) {
  int peak = 1;
  for (const auto& p : media.peaks(0).levels.back())
    peak = std::max({peak, static_cast<int>(p.high), -static_cast<int>(p.low)});
  return std::clamp(32767.0 / peak, 1.0, 20.0);
}

/// Dragging over empty lanes chooses a range.
class RangeDrag : public Gesture {
 public:
  RangeDrag(Document& doc, ViewState& view, const HitOverlay& snapping, Frames anchor,
            std::function<void(const QString&)> tell)
      : doc_(doc), view_(view), snapping_(snapping), anchor_(anchor), tell_(std::move(tell)) {}
  void move(QPointF point, Qt::KeyboardModifiers) override {
    const auto at = view_.frameAt(point.x());
    const auto snapped = [&](Frames f) { return snapping_.snapped(f).value_or(f); };
    const auto a = snapped(std::min(anchor_, at));
    const auto b = snapped(std::max(anchor_, at));
    if (std::abs(view_.xOf(a) - view_.xOf(b)) < 4) return;
    doc_.setRange({a, b});
    doc_.setCursor(a);
    tell_(LanesView::tr("Range of %1 s").arg(static_cast<double>((b - a).value) / doc_.song().rate, 0, 'f', 3));
  }

 private:
  Document& doc_;
  ViewState& view_;
  const HitOverlay& snapping_;
  Frames anchor_;
  std::function<void(const QString&)> tell_;
};

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
  connect(&document, &Document::seamsMeasured, this, qOverload<>(&QWidget::update));
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

int LanesView::laneOf(TrackId track) const {
  const auto& tracks = doc_.song().tracks;
  const auto at = std::find_if(tracks.begin(), tracks.end(), [&](const Track& t) { return t.id == track; });
  return at == tracks.end() ? -1 : static_cast<int>(at - tracks.begin());
}

std::pair<double, double> LanesView::setBounds(const MicSet& set) const {
  double top = 1e9;
  double bottom = -1e9;
  for (const auto track : set.tracks) {
    const auto box = laneBox(laneOf(track));
    top = std::min(top, box.top());
    bottom = std::max(bottom, box.bottom());
  }
  return {top, bottom};
}

int LanesView::laneAt(double y) const {
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
  seams_.paintRanges(p);
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
  seams_.paint(p);
  hits_.paint(p);
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

void LanesView::mousePressEvent(QMouseEvent* event) {
  setFocus();
  if (event->button() != Qt::LeftButton) return;
  const auto point = event->position();
  const int index = laneAt(point.y());
  if (index >= 0)
    if (const auto* set = doc_.song().setOf(doc_.song().tracks[static_cast<std::size_t>(index)].id))
      doc_.setActiveSet(set->id);
  const auto tell = [this](const QString& text) { emit gestureTold(text); };
  if (const auto spot = seams_.at(point)) {
    doc_.setCurrentSeam(spot->clip);
    gesture_ = seams_.grab(point, *spot, event->modifiers(), tell);
  } else if (const auto hit = hits_.at(point)) {
    doc_.setCurrentHit(hit);
    gesture_ = hits_.grab(point, *hit, tell);
  } else {
    doc_.setRange({});
    doc_.setCursor(view_.frameAt(point.x()));
    gesture_ = std::make_unique<RangeDrag>(doc_, view_, hits_, view_.frameAt(point.x()), tell);
  }
}

void LanesView::hover(QPointF point) {
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
  if (gesture_) gesture_->move(event->position(), event->modifiers());
}

void LanesView::mouseReleaseEvent(QMouseEvent*) {
  gesture_.reset();
  doc_.endGesture();
  emit gestureTold({});
}

void LanesView::mouseDoubleClickEvent(QMouseEvent* event) {
  const int index = laneAt(event->position().y());
  if (index < 0 || doc_.step() != Step::hits || hits_.at(event->position())) return;
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
  if (event->type() == QEvent::ShortcutOverride && gesture_ && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape)
    event->accept();
  return Row::event(event);
}

void LanesView::keyPressEvent(QKeyEvent* event) {
  if (event->key() != Qt::Key_Escape || !gesture_) return Row::keyPressEvent(event);
  gesture_.reset();
  doc_.cancelGesture();
  emit gestureTold({});
}

void LanesView::leaveEvent(QEvent*) {
  const bool changed = seams_.hover({});
  if (hits_.hover({}) || changed) update();
}

}  // namespace ochron
