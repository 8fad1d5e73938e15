#include "loupe/loupe_view.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>
#include <numeric>

#include "canvas/preview_turns.h"
#include "document/hit_desk.h"
#include "document/kit_desk.h"
#include "document/pitch_desk.h"
#include "document/seam_desk.h"
#include "document/selection.h"
#include "document/sounding.h"
#include "document/tempo_desk.h"
#include "document/thing_words.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "dsp/fade.h"
#include "edits/hit_edits.h"
#include "edits/pieces.h"
#include "loupe/bar_loupe.h"
#include "loupe/kit_loupe.h"
#include "loupe/mic_name.h"
#include "loupe/mic_strips.h"
#include "loupe/note_loupe.h"
#include "loupe/seam_loupe.h"
#include "theme/theme.h"

namespace ochron {
namespace {
constexpr double kTop = 50;
constexpr double kFoot = 22;

QString place(const TempoMap& map, Ticks at) {
  const auto m = map.position(at);
  return QStringLiteral("%1.%2.%3")
      .arg(m.bar + 1)
      .arg(m.beat + 1)
      .arg(static_cast<int>(m.rest.value * 100 / map.meterOfBar(m.bar).beatLength().value), 2, 10, QChar('0'));
}

QString deviation(double ms) {
  if (std::abs(ms) < 0.05) return LoupeView::tr("on the grid");
  return ms > 0 ? LoupeView::tr("%1 ms late").arg(ms, 0, 'f', 1) : LoupeView::tr("%1 ms early").arg(-ms, 0, 'f', 1);
}
}  // namespace

LoupeView::LoupeView(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  setMinimumHeight(220);
  setMouseTracking(true);
  setAccessibleName(tr("Loupe"));
  setToolTip(
      tr("Drag the onset line to correct it, double-click a mic to set the onset from it, wheel to come closer"));
  connect(&document, &Document::songChanged, this, qOverload<>(&QWidget::update));
  new PreviewTurns(document, *this, {[] { return false; }, [this] { return dragging_; }});
  document.selection().watch(Selection::kWhere | Selection::kNotes, this, [this] { update(); });
  connect(&document, &Document::transportChanged, this, qOverload<>(&QWidget::update));
  connect(&document, &Document::stepChanged, this, qOverload<>(&QWidget::update));
  connect(&document, &Document::mediaChanged, this, qOverload<>(&QWidget::update));
  connect(&Theme::get(), &Theme::changed, this, qOverload<>(&QWidget::update));
  connect(&document.tempoDesk(), &TempoDesk::changed, this, qOverload<>(&QWidget::update));
  connect(&document.seamDesk(), &SeamDesk::measured, this, qOverload<>(&QWidget::update));
  connect(&document.kitDesk(), &KitDesk::changed, this, qOverload<>(&QWidget::update));
  connect(&document.sounding(), &Sounding::planChanged, this, qOverload<>(&QWidget::update));
  connect(&document.pitchDesk(), &PitchDesk::changed, this, qOverload<>(&QWidget::update));
}

QRectF LoupeView::plot() const { return {micNames(), kTop, width() - micNames() - 8.0, height() - kTop - kFoot}; }
double LoupeView::framesPerPixel() const {
  constexpr double kAround = 1.25;  // a long crossfade is seen whole
  double half = halfMs_;
  if (const auto* s = seam())
    half = std::max(seamHalfMs_, kAround * 1000 * static_cast<double>(std::max(s->seam.before, s->seam.after).value) /
                                     doc_.song().rate);
  return 2 * half * doc_.song().rate / 1000 / plot().width();
}
bool LoupeView::showsOriginal() const { return doc_.transport().original() || !doc_.timingDesk().settings().on; }

/// A layer's stroke against the drum, in the Kit step.
bool LoupeView::showsStroke() const {
  return doc_.step() == Step::kit && !doc_.transport().original() && doc_.kitDesk().stroke();
}

const Clip* LoupeView::seam() const {
  if ((doc_.step() != Step::seams && doc_.step() != Step::clips) || doc_.transport().original()) return nullptr;
  const auto* later = doc_.selection().seamClip();
  const auto straight = [](const Clip& c) { return !c.reversed && c.extras->ofItsTake(); };
  return later && straight(*later) && straight(*(later - 1)) ? later : nullptr;
}

Frames LoupeView::middle() const {
  if (held_) return *held_;
  if (const auto* s = seam()) return s->start;
  const auto* h = doc_.selection().plannedHit();
  if (!h) return {};
  return showsOriginal() ? h->home : h->now;
}

double LoupeView::xOf(Frames song) const {
  return plot().center().x() + static_cast<double>((song - middle()).value) / framesPerPixel();
}

void LoupeView::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  p.fillRect(rect(), sheet.panel);
  if (const auto* later = seam()) {
    SeamLoupe(doc_, plot(), middle(), framesPerPixel()).paint(p, tr("Seam"), *later);
    return;
  }
  if (doc_.step() == Step::tempo && doc_.tempoDesk().bar() && !doc_.song().tracks.empty())
    return BarLoupe(doc_, plot(), halfMs_).paint(p, *doc_.tempoDesk().bar());
  if (doc_.step() == Step::pitch && !doc_.pitchDesk().chosen().empty())
    return NoteLoupe(doc_, QRectF(rect())).paint(p, doc_.pitchDesk().chosen().front());
  if (showsStroke()) return KitLoupe(doc_, QRectF(rect()), halfMs_).paint(p);
  const auto* h = doc_.selection().plannedHit();
  if (!h) {
    p.setFont(theme.font(12.5, 600));
    p.setPen(sheet.ink);
    p.drawText(QPointF(14, 22), tr("Loupe"));
    p.setFont(theme.font(12));
    p.setPen(sheet.note);
    p.drawText(QRectF(20, 60, width() - 40, 120), Qt::AlignHCenter | Qt::TextWordWrap,
               doc_.step() == Step::tempo   ? tr("Click a bar line to see it here against the attack in every mic")
               : doc_.step() == Step::pitch ? tr("Click a note to see what was sung and what becomes of it")
               : doc_.step() == Step::kit   ? tr("Click a stroke of a layer to see it here against the drum")
               : doc_.step() == Step::clips
                   ? tr("Choose a clip that begins with a crossfade to see the joint in every mic")
                   : tr("Click a hit to see it here in every mic"));
    return;
  }
  auto name = drumName(h->hit.drum);
  name[0] = name[0].toUpper();
  p.setFont(theme.font(13, 600));
  p.setPen(sheet.ink);
  p.drawText(QPointF(14, 22), name);
  const double after = 22 + p.fontMetrics().horizontalAdvance(name);
  p.setFont(theme.font(12));
  p.setPen(sheet.note);
  const auto& map = doc_.song().tempo;
  p.drawText(QPointF(after, 22), place(map, h->line ? h->line->at : map.toTicks(h->home)));
  const auto index = h - doc_.timingDesk().planned().hits.data() + 1;
  p.drawText(QRectF(0, 10, width() - 14, 16), Qt::AlignRight | Qt::AlignVCenter,
             tr("%1 of %2").arg(index).arg(doc_.timingDesk().planned().hits.size()));
  p.setFont(theme.font(12, 500));
  if (h->line) {
    p.setPen(h->beforeMs > 0.05 ? sheet.late : h->beforeMs < -0.05 ? sheet.early : sheet.ink);
    p.drawText(QPointF(14, 40), doc_.timingDesk().settings().on
                                    ? deviation(h->beforeMs) + " \u2192 " + deviation(h->afterMs)
                                    : deviation(h->beforeMs));
  } else {
    p.setPen(sheet.alarm);
    p.drawText(QPointF(14, 40), tr("no grid place of its own"));
  }
  paintMics(p);
  paintMarks(p, *h);
}

void LoupeView::paintMics(QPainter& p) {
  const auto* set = doc_.song().find(doc_.selection().set());
  if (!set) return;
  MicStrips(doc_, plot(), middle(), framesPerPixel())
      .paint(p, *set, showsOriginal() ? withoutPlan(*set->clips) : *set->clips);
}

void LoupeView::paintMarks(QPainter& p, const PlannedHit& hit) {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  const auto box = plot();
  p.setRenderHint(QPainter::Antialiasing);
  p.setFont(theme.font(10.5));
  struct Label {
    double x;
    QString text;
    QColor colour;
  };
  std::vector<Label> labels;
  if (!showsOriginal()) {
    const auto* set = doc_.song().find(doc_.selection().set());
    const auto mic = hit.hit.heardBy.empty() ? set->tracks.front() : hit.hit.heardBy.front().track;
    for (const auto& c : *set->clips) {
      if (!c.piece || c.piece->hit != hit.hit.id) continue;
      const double x0 = xOf(c.start - c.seam.before);
      const double x1 = xOf(c.start + c.seam.after + c.fadeIn.length);
      if (x1 < box.left() || x0 > box.right()) continue;
      auto veil = sheet.selection;
      veil.setAlphaF(0.10F);
      p.fillRect(QRectF(x0, box.top(), x1 - x0, box.height()), veil);
      QPainterPath out;
      QPainterPath in;
      const double likeness = doc_.sounding().jointLikeness(mic, c);
      for (int i = 0; i <= 24; ++i) {
        const double x = i / 24.0;
        const auto g = crossfadeGains(c.seam.law, c.seam.shape, c.seam.bias, likeness, x);
        const auto at = [&](float gain) {
          return QPointF(x0 + x * (x1 - x0), box.bottom() - gain * box.height() * 0.98);
        };
        if (i == 0)
          out.moveTo(at(g.out)), in.moveTo(at(g.in));
        else {
          out.lineTo(at(g.out));
          in.lineTo(at(g.in));
        }
      }
      p.setBrush(Qt::NoBrush);
      p.setPen(QPen(sheet.selection, 1.2));
      p.drawPath(out);
      p.drawPath(in);
      labels.push_back({(x0 + x1) / 2, tr("seam"), sheet.selection});
    }
  }
  if (hit.line) {
    const double x = xOf(hit.line->frame);
    if (x >= box.left() && x <= box.right()) {
      p.setPen(QPen(sheet.ink, 1.4));
      p.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()));
    }
  }
  const auto stands = showsOriginal() ? hit.home : hit.to();
  const double onset = xOf(stands);
  const auto tone = hit.line && hit.beforeMs < 0 ? sheet.early : sheet.late;
  p.setPen(QPen(tone, dragging_ ? 2.2 : 1.5));
  p.drawLine(QPointF(onset, box.top() - 3), QPointF(onset, box.bottom() + 3));
  p.setBrush(tone);
  p.setPen(Qt::NoPen);
  p.drawEllipse(QPointF(onset, box.top() - 3), 3.2, 3.2);
  const double grid = hit.line ? xOf(hit.line->frame) : -1e6;
  // The other drums of the hit, where they are struck.
  for (const auto& s : hit.hit.strokes) {
    if (s.at == hit.hit.at) continue;
    const double x = xOf(stands + (s.at - hit.hit.at));
    p.setPen(QPen(tone, 1, Qt::DotLine));
    p.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()));
    labels.push_back({x, drumName(s.drum), tone});
  }
  const bool same = std::abs(grid - onset) < 3;
  if (!same && grid >= box.left() && grid <= box.right()) labels.push_back({grid, tr("grid"), sheet.ink});
  labels.push_back({onset, same ? tr("onset on grid") : tr("onset"), tone});
  // Side by side from left to right, each as near to its line as the others allow.
  std::sort(labels.begin(), labels.end(), [](auto& a, auto& b) { return a.x < b.x; });
  const auto widthOf = [&](const Label& l) { return p.fontMetrics().horizontalAdvance(l.text) + 8.0; };
  std::vector<double> left;
  left.reserve(labels.size());
  for (const auto& l : labels)
    left.push_back(
        std::max(l.x - widthOf(l) / 2, left.empty() ? box.left() : left.back() + widthOf(labels[left.size() - 1])));
  const double middle =
      std::accumulate(labels.begin(), labels.end(), 0.0, [](double sum, auto& l) { return sum + l.x; }) /
      static_cast<double>(labels.size());
  const double shift =
      std::max(0.0, (left.front() + left.back() + widthOf(labels.back())) / 2 - middle) * (left.size() > 1 ? 1 : 0);
  for (std::size_t i = 0; i < labels.size(); ++i) {
    p.setPen(labels[i].colour);
    p.drawText(QRectF(std::max(box.left(), left[i] - shift), box.bottom() + 5, widthOf(labels[i]), 14), Qt::AlignCenter,
               labels[i].text);
  }
}

void LoupeView::wheelEvent(QWheelEvent* event) {
  double& half = seam() ? seamHalfMs_ : halfMs_;
  half = std::clamp(half * std::pow(0.8, event->angleDelta().y() / 120.0), 0.4, 400.0);
  update();
}

void LoupeView::mousePressEvent(QMouseEvent* event) {
  const auto* h = doc_.selection().plannedHit();
  if (!h || seam() || showsStroke()) return;
  const auto onset = showsOriginal() ? h->home : h->now;
  if (std::abs(xOf(onset) - event->position().x()) > 9) return;
  if (event->button() != Qt::LeftButton) return;
  hold_ = doc_.takeHold();
  held_ = middle();
  grip_ = event->position().x() - xOf(onset);
  dragging_ = true;
  update();
}

void LoupeView::mouseMoveEvent(QMouseEvent* event) {
  const auto* h = doc_.selection().plannedHit();
  if (!h || seam() || showsStroke()) return;
  const auto onset = showsOriginal() ? h->home : h->now;
  if (!dragging_)
    return setCursor(std::abs(xOf(onset) - event->position().x()) <= 9 ? Qt::SplitHCursor : Qt::ArrowCursor);
  const auto by = Frames{std::llround((event->position().x() - grip_ - xOf(onset)) * framesPerPixel())};
  if (by.value == 0) return;
  // What is heard stays where it is under the pointer: the onset moves in take time, the plan moves the piece
  // afterwards.
  const auto ref = *doc_.selection().hit();
  const auto at = h->hit.at + by;
  doc_.edit(tr("Move onset"), moveHit(doc_.song(), ref.take, doc_.selection().set(), ref.hit, at), "onset");
  if (!showsOriginal()) held_ = *held_ - by;
  doc_.tell(tr("Onset at %1 s of the take, moved by %2 samples")
                .arg(static_cast<double>(at.value) / doc_.song().rate, 0, 'f', 6)
                .arg(by.value));
}

void LoupeView::mouseDoubleClickEvent(QMouseEvent* event) {
  const auto* set = doc_.song().find(doc_.selection().set());
  if (!doc_.selection().plannedHit() || seam() || showsStroke() || !plot().contains(event->position())) return;
  const double tall = plot().height() / static_cast<double>(set->tracks.size());
  const auto i = static_cast<std::size_t>((event->position().y() - plot().top()) / tall);
  if (i < set->tracks.size()) doc_.hitDesk().setOnsetFrom(set->tracks[i]);
}

void LoupeView::mouseReleaseEvent(QMouseEvent*) {
  dragging_ = false;
  held_.reset();
  hold_ = {};
  update();
}

std::vector<ReadItem> LoupeView::readItems() const {
  const auto& song = doc_.song();
  std::vector<ReadItem> out;
  const auto whole = QRectF(rect());
  if (const auto* later = seam()) {
    out.push_back({seamWords(song, *later, doc_.seamDesk().measureOf(later->id)), whole});
    return out;
  }
  if (doc_.step() == Step::tempo && doc_.tempoDesk().bar()) {
    out.push_back(
        {tr("bar line, %1").arg(placeWords(song, song.tempo.toFrames(song.tempo.barStart(*doc_.tempoDesk().bar())))),
         whole});
    return out;
  }
  if (const auto chosen = doc_.step() == Step::pitch ? doc_.pitchDesk().chosen() : std::vector<PitchDesk::Note>{};
      !chosen.empty()) {
    out.push_back({noteWords(song, chosen.front(), doc_.pitchDesk()), whole});
    return out;
  }
  if (showsStroke()) {
    const auto* s = doc_.kitDesk().stroke();
    out.push_back({tr("stroke of a layer, %1, strength %2, sound %3")
                       .arg(placeWords(song, s->at))
                       .arg(s->strength, 0, 'f', 2)
                       .arg(s->sound + 1),
                   whole});
    return out;
  }
  const auto* hit = doc_.selection().plannedHit();
  if (!hit) return out;
  out.push_back({hitWords(song, *hit), QRectF(0, 0, width(), kTop)});
  const auto* set = song.find(doc_.selection().set());
  const auto count = set ? set->tracks.size() : 0;
  for (std::size_t i = 0; i < count; ++i) {
    const auto& heard = hit->hit.heardBy;
    const auto track = set->tracks[i];
    const auto mic = std::find_if(heard.begin(), heard.end(), [&](const auto& m) { return m.track == track; });
    const auto name = QString::fromStdString(song.find(track)->name);
    const double tall = plot().height() / static_cast<double>(count);
    out.push_back({mic == heard.end() ? name : tr("%1, hears it at %2").arg(name).arg(mic->strength, 0, 'f', 2),
                   QRectF(0, plot().top() + tall * static_cast<double>(i), width(), tall)});
  }
  return out;
}

}  // namespace ochron
