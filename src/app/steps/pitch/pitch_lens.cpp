#include "steps/pitch/pitch_lens.h"

#include <QContextMenuEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>
#include <optional>

#include "actions/actions.h"
#include "canvas/lane_painter.h"
#include "canvas/wave.h"
#include "document/pitch_desk.h"
#include "document/selection.h"
#include "document/thing_words.h"
#include "document/transport.h"
#include "document/wording.h"
#include "steps/pitch/deviation_strip.h"
#include "steps/pitch/note_drag.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr int kHead = 26;
constexpr int kWaveHeight = 44;
constexpr int kStripHeight = 58;
constexpr int kTallEnough = 260;  // for the strip, too
constexpr double kSemitone = 100;
constexpr double kLeastCents = 1000;  // cents
constexpr double kMargin = 250;       // cents above and below the notes
constexpr double kNear = 7;           // pixels

}  // namespace

PitchLens::PitchLens(Document& document, ViewState& view, QWidget* parent)
    : Row(document, view, parent), desk_(document.pitchDesk()) {
  setMinimumHeight(150);
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setAccessibleName(tr("Pitch lens"));
  setToolTip(
      tr("Click a note to choose it, drag over some to choose them.\nDrag it up or down to another pitch, sideways in "
         "time, by an end to another length."));

  connect(&desk_, &PitchDesk::changed, this, qOverload<>(&QWidget::update));
  document.selection().watch(Selection::kNotes, this, [this] { update(); });
  connect(&document, &Document::mediaChanged, this, qOverload<>(&QWidget::update));
}

QRectF PitchLens::plot() const {
  return {static_cast<double>(kGutterWidth), static_cast<double>(kHead), static_cast<double>(width() - kGutterWidth),
          static_cast<double>(height() - kHead - kWaveHeight - stripHeight())};
}

QRectF PitchLens::strip() const {
  return {static_cast<double>(kGutterWidth), static_cast<double>(height() - stripHeight()),
          static_cast<double>(width() - kGutterWidth), static_cast<double>(stripHeight())};
}

int PitchLens::stripHeight() const { return height() >= kTallEnough ? kStripHeight : 0; }

double PitchLens::yOf(double cents) const {
  const auto box = plot();
  return box.bottom() - (cents - low_) / (high_ - low_) * box.height();
}

double PitchLens::centsAt(double y) const {
  const auto box = plot();
  return low_ + (box.bottom() - y) / box.height() * (high_ - low_);
}

void PitchLens::fitRange() {
  if (byHand_ || dragging()) return;
  double low = 1e9;
  double high = 0;
  for (const auto& n : desk_.notes()) {
    low = std::min({low, n.tuned.parts.centre, n.tuned.after});
    high = std::max({high, n.tuned.parts.centre, n.tuned.after});
  }
  if (high == 0) return;
  const double span = std::max(kLeastCents, high - low + 2 * kMargin);
  low_ = (low + high) / 2 - span / 2;
  high_ = low_ + span;
}

/// What the clips in sight are transposed by on top of the plan, which the notes are drawn without.
QString PitchLens::transposed() const {
  const auto* set = doc_.song().find(doc_.selection().set());
  if (!set) return {};
  const auto seen = view_.visible();
  std::optional<long> same;
  for (const auto& clip : *set->clips) {
    if (!clip.range().overlaps(seen)) continue;
    const long cents = std::lround(valueAt(clip.extras->pitch, clip.played().start, 0));
    if (same && *same != cents) return tr("clips transposed");
    same = cents;
  }
  const long by = same.value_or(0);
  if (by == 0) return {};
  const auto sign = by < 0 ? QStringLiteral("\u2212") : QStringLiteral("+");
  const auto whole = by % 100 == 0;
  return tr("heard %1%2 %3").arg(sign).arg(std::abs(by) / (whole ? 100 : 1)).arg(whole ? tr("semitones") : tr("cents"));
}

void PitchLens::paintHead(QPainter& p) const {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  const auto* set = doc_.song().find(doc_.selection().set());
  p.setFont(theme.font(12.5, 600));
  p.setPen(sheet.ink);
  const auto name = set ? QString::fromStdString(set->name) : tr("Pitch");
  p.drawText(QPointF(14, 17), p.fontMetrics().elidedText(name, Qt::ElideRight, kGutterWidth - 22));
  if (const auto by = transposed(); !by.isEmpty()) {
    p.setFont(theme.font(11, 500));
    p.setPen(sheet.selection);
    p.drawText(QRectF(0, 4, width() - 10, 18), Qt::AlignRight | Qt::AlignVCenter, by);
  }
  const auto s = desk_.stats();
  if (s.count == 0) return;
  const auto figures = [](double mean, double spread) {
    const auto sign = mean < -0.5 ? QStringLiteral("\u2212") : mean > 0.5 ? QStringLiteral("+") : QString();
    return tr("mean %1%2, spread %3 c").arg(sign).arg(std::lround(std::abs(mean))).arg(std::lround(spread));
  };
  p.setFont(theme.font(11));
  p.setPen(sheet.note);
  const auto before = tr("off the scale: %1").arg(figures(s.meanBefore, s.spreadBefore));
  p.drawText(QPointF(kGutterWidth + 10, 17), before);
  const double after = kGutterWidth + 34 + p.fontMetrics().horizontalAdvance(before);
  p.setFont(theme.font(11, 500));
  p.setPen(sheet.ink);
  p.drawText(QPointF(after, 17), tr("after: %1").arg(figures(s.meanAfter, s.spreadAfter)));
}

void PitchLens::paintPitches(QPainter& p) const {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  const auto box = plot();
  const auto scale = desk_.heardScale();
  const double a4 = centsOf(scale.reference);
  const double tall = kSemitone / (high_ - low_) * box.height();
  p.setRenderHint(QPainter::Antialiasing, false);
  for (int k = static_cast<int>(std::ceil((low_ - a4) / kSemitone)); a4 + k * kSemitone <= high_; ++k) {
    const double c = a4 + k * kSemitone;
    const bool inScale = std::abs(scale.nearest(c) - c) < 1;
    const double y = std::floor(yOf(c)) + 0.5;
    auto line = inScale ? sheet.rule : sheet.hairline;
    if (!inScale) line.setAlphaF(0.4F);
    p.setPen(line);
    p.drawLine(QPointF(box.left(), y), QPointF(box.right(), y));
    if (tall < 9 && !inScale) continue;
    const auto name = desk_.heardName(c);
    const bool tonic = std::abs(std::remainder(c - scale.tonicCents(), 1200)) < 1 && scale.name != "chromatic";
    p.setFont(theme.font(10.5, tonic ? 600 : 400));
    auto word = inScale ? sheet.ink : sheet.note;
    if (!tonic) word.setAlphaF(inScale ? 0.8F : 0.55F);
    p.setPen(word);
    if (tall >= 9 || tonic || inScale)
      p.drawText(QRectF(0, y - 8, kGutterWidth - 10, 16), Qt::AlignRight | Qt::AlignVCenter, name);
  }
}

void PitchLens::paintWave(QPainter& p) const {
  const auto& sheet = Theme::get().sheet();
  const auto* set = doc_.song().find(doc_.selection().set());
  if (!set || set->tracks.empty()) return;
  const QRectF box(kGutterWidth, plot().bottom(), width() - kGutterWidth, kWaveHeight - 6);
  auto soft = sheet.inkSoft;
  soft.setAlphaF(0.30F);
  auto core = sheet.inkSoft;
  core.setAlphaF(0.55F);
  WaveCanvas canvas(QSize(std::max(1, static_cast<int>(box.width())), static_cast<int>(box.height())),
                    devicePixelRatioF());
  const auto seen = view_.visible();
  for (const auto& clip : *set->clips) {
    const auto* mic = doc_.song().micFor(*set, clip, set->tracks.front());
    const auto media = mic ? doc_.pool().find(mic->media) : doc_.pool().end();
    if (media == doc_.pool().end() || !clip.range().overlaps(seen)) continue;
    for (const auto& even : clip.pieces()) {
      const auto from = std::max(seen.start, even.range.start);
      const auto to = std::min(seen.end, even.range.end);
      if (to <= from) continue;
      const double at = static_cast<double>((even.take - mic->offset).value) +
                        static_cast<double>((from - even.range.start).value) * even.speed;
      canvas.draw(*media->second, 0, at, view_.framesPerPixel() * even.speed, view_.xOf(from) - kGutterWidth,
                  view_.xOf(to) - kGutterWidth, 0, box.height(), visualGain(*media->second), {soft, core});
    }
  }
  p.drawImage(box.topLeft(), canvas.image());
}

void PitchLens::paintTrace(QPainter& p) const {
  const auto& sheet = Theme::get().sheet();
  const auto* set = doc_.song().find(doc_.selection().set());
  if (!set) return;
  const auto seen = view_.visible();
  QPainterPath path;
  for (const auto& clip : *set->clips) {
    const auto& line = *doc_.song().lineOf(clip.take, set->id);
    if (line.notes.empty() || clip.reversed || !clip.range().overlaps(seen)) continue;
    const auto first = clip.toTake(std::max(seen.start, clip.start));
    const auto last = clip.toTake(std::min(seen.end, clip.end()));
    const auto valueAt = [&](Frames f) {
      return static_cast<std::size_t>(
          std::max(0.0, static_cast<double>(f.value) / doc_.song().rate / PitchTrack::kHop));
    };
    bool down = false;
    const auto end = std::min(line.track.values.size(), valueAt(last) + 1);
    // At most two values a pixel: what is closer cannot be seen.
    const double perPixel = view_.framesPerPixel() / doc_.song().rate / PitchTrack::kHop;
    const auto stride = std::max<std::size_t>(1, static_cast<std::size_t>(perPixel / 2));
    for (auto t = valueAt(first); t < end; t += stride) {
      const auto& v = line.track.values[t];
      if (!v.sounds()) {
        down = false;
        continue;
      }
      const Frames at{std::llround(PitchTrack::secondsAt(t) * doc_.song().rate)};
      const QPointF point(view_.xOf(clip.toSong(at)), yOf(centsOf(v.hertz)));
      if (down)
        path.lineTo(point);
      else
        path.moveTo(point);
      down = true;
    }
  }
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(sheet.inkSoft, 1.1));
  p.drawPath(path);
}

/// Under everything else, so that the trace is seen on it.
void PitchLens::paintChosen(QPainter& p) const {
  const auto& sheet = Theme::get().sheet();
  p.setPen(QPen(sheet.selection, 1));
  p.setBrush(sheet.selectionSoft);
  for (const auto& n : desk_.notes()) {
    if (!doc_.selection().isChosen(n.name)) continue;
    const double sung = n.tuned.parts.centre;
    const double highest = std::max({n.tuned.after, sung, sung - desk_.off(sung)});
    const double lowest = std::min({n.tuned.after, sung, sung - desk_.off(sung)});
    p.drawRoundedRect(
        QRectF(QPointF(view_.xOf(n.start) - 2, yOf(highest) - 8), QPointF(view_.xOf(n.end) + 2, yOf(lowest) + 8)), 3,
        3);
  }
}

void PitchLens::paintNotes(QPainter& p) const {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  p.setFont(theme.font(10.5, 500));
  for (const auto& n : desk_.notes()) {
    const double x0 = view_.xOf(n.start);
    const double x1 = view_.xOf(n.end);
    if (x1 < kGutterWidth - 60 || x0 > width()) continue;
    const bool chosen = doc_.selection().isChosen(n.name);
    const double off = desk_.off(n.tuned.parts.centre);
    const double after = yOf(n.tuned.after);
    const double sung = yOf(n.tuned.parts.centre);
    const double onScale = yOf(n.tuned.parts.centre - off);
    const auto tone = off < 0 ? sheet.early : sheet.late;
    auto veil = tone;
    veil.setAlphaF(0.20F);
    p.fillRect(QRectF(x0, std::min(sung, onScale), x1 - x0, std::abs(sung - onScale)), veil);
    const auto step = n.wish == NoteWish{} ? sheet.ink : sheet.selection;
    p.setPen(QPen(step, 2.2));
    p.drawLine(QPointF(x0, after), QPointF(x1, after));
    p.setPen(QPen(step, 1.6));
    for (const double x : {x0, x1}) p.drawLine(QPointF(x, after - 4), QPointF(x, after + 4));
    if (!chosen && x1 - x0 < 46) continue;
    if (std::abs(off) < 3 && !chosen) continue;
    const auto text =
        (off < 0 ? QStringLiteral("\u2212") : QStringLiteral("+")) + QString::number(std::lround(std::abs(off))) + " c";
    p.setPen(tone);
    p.drawText(QPointF(x1 + 4, after - 3), text);
  }
}

void PitchLens::paintEvent(QPaintEvent*) {
  fitRange();
  QPainter p(this);
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  paintEmptyRow(p);
  paintHead(p);
  const auto box = plot();
  if (desk_.notes().empty()) {
    p.setFont(theme.font(12));
    p.setPen(sheet.note);
    p.drawText(QRectF(kGutterWidth, 0, width() - kGutterWidth, height()).adjusted(40, 0, -40, 0),
               Qt::AlignCenter | Qt::TextWordWrap, emptyText());
    return;
  }
  p.setClipRect(QRectF(0, box.top(), width(), box.height()));
  paintPitches(p);
  p.setClipRect(QRectF(kGutterWidth, box.top(), box.width(), height() - box.top()));
  paintRules(p, box.top(), height(), false);
  paintWave(p);
  p.setClipping(false);
  if (stripHeight() > 0) {
    paintDeviations(p, strip(), doc_, view_);
    p.setPen(sheet.hairline);
    p.drawLine(QPointF(0, strip().top()), QPointF(width(), strip().top()));
  }
  p.setClipRect(box);
  p.setRenderHint(QPainter::Antialiasing);
  paintChosen(p);
  paintTrace(p);
  paintNotes(p);
  if (bandFrom_) {
    p.setPen(QPen(sheet.selection, 1));
    p.setBrush(sheet.selectionSoft);
    p.drawRect(QRectF(*bandFrom_, bandTo_).normalized());
  }
  p.setClipRect(QRectF(kGutterWidth, box.top(), box.width(), height() - box.top()));
  paintPlayLine(p, box.top(), height());
  p.setClipping(false);
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setPen(sheet.rule);
  p.drawLine(0, 0, width(), 0);
}

/// In the strip any note at that time, on the lens the one that is near.
const PitchDesk::Note* PitchLens::noteAt(QPointF point) const {
  if (strip().contains(point)) {
    const auto at = view_.frameAt(point.x());
    const auto& notes = desk_.notes();
    const auto found =
        std::find_if(notes.begin(), notes.end(), [&](const auto& n) { return n.start <= at && at < n.end; });
    return found == notes.end() ? nullptr : &*found;
  }
  const PitchDesk::Note* best = nullptr;
  double least = kNear + 3;
  for (const auto& n : desk_.notes()) {
    const double x0 = view_.xOf(n.start) - 3;
    const double x1 = view_.xOf(n.end) + 3;
    if (point.x() < x0 || point.x() > x1) continue;
    const double top = std::min(yOf(n.tuned.after), yOf(n.tuned.parts.centre));
    const double bottom = std::max(yOf(n.tuned.after), yOf(n.tuned.parts.centre));
    const double away = std::max({0.0, top - point.y(), point.y() - bottom});
    if (away >= least) continue;
    least = away;
    best = &n;
  }
  return best;
}

void PitchLens::mousePressEvent(QMouseEvent* event) {
  setFocus();
  if (event->button() != Qt::LeftButton || event->position().x() < kGutterWidth) return;
  const auto* found = noteAt(event->position());
  if (!found) {
    if (!(event->modifiers() & Qt::ControlModifier)) doc_.selection().chooseNotes({});
    doc_.transport().setCursor(view_.frameAt(event->position().x()));
    bandFrom_ = bandTo_ = event->position();
    return;
  }
  const auto note = *found;
  if (event->modifiers() & Qt::ControlModifier) return doc_.selection().toggle(note.name);
  if (!doc_.selection().isChosen(note.name)) doc_.selection().chooseNotes({note.name});
  doc_.transport().setCursor(note.start);
  if (strip().contains(event->position())) return;
  gesture_ = std::make_unique<NoteDrag>(doc_, view_, event->position(), note, partAt(note, event->position()),
                                        (high_ - low_) / plot().height(),
                                        [this](const QString& text) { emit gestureTold(text); });
}

/// Near its ends a note is made longer or shorter.
NotePart PitchLens::partAt(const PitchDesk::Note& note, QPointF point) const {
  const double x0 = view_.xOf(note.start);
  const double x1 = view_.xOf(note.end);
  const double reach = std::min(6.0, (x1 - x0) / 4);
  if (point.x() < x0 + reach) return NotePart::start;
  return point.x() > x1 - reach ? NotePart::end : NotePart::whole;
}

void PitchLens::contextMenuEvent(QContextMenuEvent* event) {
  if (const auto* note = noteAt(event->pos()); note && !doc_.selection().isChosen(note->name))
    doc_.selection().chooseNotes({note->name});
  auto* actions = Actions::of(this);
  if (!actions) return;
  QMenu menu(this);
  const std::vector<std::vector<const char*>> groups{
      {"pitch.assung", "pitch.giveback"}, {"pitch.split", "pitch.join", "pitch.silence"}, {"pitch.tohits"}};
  for (const auto& group : groups) {
    for (const char* id : group) menu.addAction(actions->action(id));
    menu.addSeparator();
  }
  menu.exec(event->globalPos());
}

void PitchLens::mouseMoveEvent(QMouseEvent* event) {
  if (!(event->buttons() & Qt::LeftButton)) {
    const auto* note = noteAt(event->position());
    return setCursor(!note || strip().contains(event->position())          ? Qt::ArrowCursor
                     : partAt(*note, event->position()) == NotePart::whole ? Qt::SizeAllCursor
                                                                           : Qt::SizeHorCursor);
  }
  if (gesture_) return gesture_->move(event->position(), event->modifiers());
  if (!bandFrom_) return;
  bandTo_ = event->position();
  const auto band = QRectF(*bandFrom_, bandTo_).normalized();
  std::vector<NoteName> inside;
  for (const auto& n : desk_.notes())
    if (view_.xOf(n.end) > band.left() && view_.xOf(n.start) < band.right() && yOf(n.tuned.after) > band.top() &&
        yOf(n.tuned.after) < band.bottom())
      inside.push_back(n.name);
  doc_.selection().chooseNotes(inside, event->modifiers() & Qt::ControlModifier);
}

void PitchLens::dragEnded() {
  gesture_.reset();
  bandFrom_.reset();
  update();
}

void PitchLens::wheelEvent(QWheelEvent* event) {
  if (event->modifiers() != Qt::ShiftModifier) return Row::wheelEvent(event);
  const auto turn = event->angleDelta();
  const double by = (turn.y() != 0 ? turn.y() : turn.x()) / 120.0 * kSemitone;
  low_ += by;
  high_ += by;
  byHand_ = true;
  update();
  event->accept();
}

QString PitchLens::emptyText() const {
  const auto* set = doc_.song().find(doc_.selection().set());
  if (doc_.song().tracks.empty()) return tr("The notes of a voice or an instrument are drawn here");
  return set && set->tracks.size() == 1
             ? tr("Press \"Listen\" to see what \"%1\" sang or played: its pitch and its notes")
                   .arg(QString::fromStdString(set->name))
             : tr("Choose a track with a single line (a voice, a bass, a bowed string) and press \"Listen\"");
}

std::vector<ReadItem> PitchLens::readItems() const {
  std::vector<ReadItem> out;
  if (desk_.notes().empty()) out.push_back({emptyText(), QRectF(rect()), false, {}});
  for (const auto& n : desk_.notes()) {
    const double x = view_.xOf(n.start);
    out.push_back({noteWords(doc_.song(), n, desk_),
                   QRectF(x, yOf(n.tuned.after) - kNear, view_.xOf(n.end) - x, 2 * kNear),
                   doc_.selection().isChosen(n.name), [this, name = n.name] { doc_.selection().chooseNotes({name}); }});
  }
  return out;
}

}  // namespace ochron
