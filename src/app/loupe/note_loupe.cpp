#include "loupe/note_loupe.h"

#include <QPainterPath>
#include <algorithm>
#include <cmath>

#include "analysis/pitch/pitch_course.h"
#include "canvas/wave.h"
#include "document/document.h"
#include "document/pitch_desk.h"
#include "document/selection.h"
#include "document/wording.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr double kAround = 0.12;  // s before and after the note
constexpr double kSide = 12;
constexpr double kHead = 52;
constexpr double kWaveHeight = 64;
constexpr double kLegend = 26;
constexpr double kLeastReach = 70;  // cents to either side of the middle

}  // namespace

void NoteLoupe::paint(QPainter& p, const PitchDesk::Note& note) const {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  const auto& desk = doc_.pitchDesk();
  const auto scale = desk.heardScale();
  const double off = desk.off(note.tuned.parts.centre);
  const double left = note.tuned.after - scale.nearest(note.tuned.after);
  p.setFont(theme.font(13, 600));
  p.setPen(sheet.ink);
  p.drawText(QPointF(14, 22), desk.heardName(scale.nearest(note.tuned.after)));
  p.setFont(theme.font(12));
  p.setPen(sheet.note);
  const auto& all = desk.notes();
  const auto at =
      std::find_if(all.begin(), all.end(), [&](auto& n) { return n.name == note.name && n.start == note.start; });
  p.drawText(QRectF(0, 10, box_.width() - 14, 16), Qt::AlignRight | Qt::AlignVCenter,
             PitchDesk::tr("%1 of %2").arg(at - all.begin() + 1).arg(all.size()));
  const auto say = [](double cents) {
    const auto n = std::lround(std::abs(cents));
    if (n == 0) return PitchDesk::tr("on pitch");
    return cents < 0 ? PitchDesk::tr("%1 c flat").arg(n) : PitchDesk::tr("%1 c sharp").arg(n);
  };
  p.setFont(theme.font(12, 500));
  p.setPen(off < -0.5 ? sheet.early : off > 0.5 ? sheet.late : sheet.ink);
  QString text = say(off) + QStringLiteral(" \u2192 ") + say(left);
  if (note.tuned.parts.vibratoHertz > 0)
    text += PitchDesk::tr(" \u00b7 vibrato %1 Hz").arg(note.tuned.parts.vibratoHertz, 0, 'f', 1);
  p.drawText(QPointF(14, 40), text);
  const auto& line = *doc_.song().lineOf(note.take, doc_.selection().set());
  const QRectF traces(kSide, kHead, box_.width() - 2 * kSide, box_.height() - kHead - kWaveHeight - kLegend - 10);
  if (traces.height() < 40) return;
  p.fillRect(traces, sheet.paper);
  paintTraces(p, note, line, traces);
  paintWave(p, note, line, QRectF(traces.left(), traces.bottom() + kLegend, traces.width(), kWaveHeight));
}

void NoteLoupe::paintTraces(QPainter& p, const PitchDesk::Note& note, const SungLine& line, const QRectF& plot) const {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  const auto& parts = note.tuned.parts;
  const auto& s = doc_.pitchDesk().settings();
  const double from = std::max(0.0, note.tuned.note.start - kAround);
  const double until = note.tuned.note.end + kAround;
  const auto first = static_cast<std::size_t>(from / PitchTrack::kHop);
  const auto last = std::min(line.track.values.size(), static_cast<std::size_t>(until / PitchTrack::kHop) + 1);
  const double middle = (parts.centre + note.tuned.after) / 2;
  double reach = std::max(kLeastReach, 1.3 * std::abs(parts.centre - note.tuned.after));
  for (const double v : parts.vibrato) reach = std::max(reach, 1.4 * std::abs(v) + std::abs(parts.centre - middle));
  const auto xOf = [&](double t) { return plot.left() + (t - from) / (until - from) * plot.width(); };
  const auto yOf = [&](double cents) { return plot.center().y() - (cents - middle) / reach * plot.height() / 2; };
  p.save();
  p.setClipRect(plot);
  p.setRenderHint(QPainter::Antialiasing);
  const auto scale = doc_.pitchDesk().heardScale();
  const double onScale = scale.nearest(note.tuned.after);
  auto veil = doc_.pitchDesk().off(parts.centre) < 0 ? sheet.early : sheet.late;
  veil.setAlphaF(0.14F);
  const double meant = parts.centre - doc_.pitchDesk().off(parts.centre);
  p.fillRect(QRectF(QPointF(xOf(note.tuned.note.start), yOf(std::max(parts.centre, meant))),
                    QPointF(xOf(note.tuned.note.end), yOf(std::min(parts.centre, meant)))),
             veil);
  p.setPen(QPen(sheet.rule, 1));
  p.drawLine(QPointF(plot.left(), yOf(onScale)), QPointF(plot.right(), yOf(onScale)));
  p.setFont(theme.font(10.5));
  p.setPen(sheet.note);
  p.drawText(QPointF(plot.left() + 4, yOf(onScale) - 3), doc_.pitchDesk().heardName(onScale));
  const auto trace = [&](const QColor& colour, double wide, auto&& centsAt) {
    QPainterPath path;
    bool down = false;
    for (auto t = first; t < last; ++t) {
      if (!line.track.values[t].sounds()) {
        down = false;
        continue;
      }
      const QPointF at(xOf(PitchTrack::secondsAt(t)), yOf(centsAt(t)));
      if (down)
        path.lineTo(at);
      else
        path.moveTo(at);
      down = true;
    }
    p.setPen(QPen(colour, wide));
    p.setBrush(Qt::NoBrush);
    p.drawPath(path);
  };
  const auto inside = [&](std::size_t t) { return t >= parts.first && t < parts.last; };
  trace(sheet.inkSoft, 1.2, [&](std::size_t t) { return centsOf(line.track.values[t].hertz); });
  QPainterPath wander;
  for (auto t = parts.first; t < parts.last; ++t) {
    const QPointF at(xOf(PitchTrack::secondsAt(t)), yOf(parts.centre + parts.wander[t - parts.first]));
    if (t == parts.first)
      wander.moveTo(at);
    else
      wander.lineTo(at);
  }
  p.setPen(QPen(sheet.late, 1.2));
  p.drawPath(wander);
  const bool keeps = !s.on || note.wish.asSung;
  const double keepWander = keeps ? 1 : s.keepWander / 100;
  const double keepVibrato = keeps ? 1 : s.keepVibrato / 100;
  trace(sheet.ink, 1.7, [&](std::size_t t) {
    const double sung = centsOf(line.track.values[t].hertz);
    if (!inside(t)) return sung + note.tuned.after - parts.centre;
    const auto i = t - parts.first;
    return note.tuned.after + keepWander * parts.wander[i] + keepVibrato * parts.vibrato[i];
  });
  p.restore();
  p.setFont(theme.font(10.5));
  double x = plot.left();
  for (const auto& [text, colour] : {std::pair{PitchDesk::tr("sung"), sheet.inkSoft},
                                     {PitchDesk::tr("wander"), sheet.late},
                                     {PitchDesk::tr("after"), sheet.ink}}) {
    p.setPen(colour);
    p.drawText(QRectF(x, plot.bottom() + 5, plot.width() / 3, 16), Qt::AlignCenter, text);
    x += plot.width() / 3;
  }
}

void NoteLoupe::paintWave(QPainter& p, const PitchDesk::Note& note, const SungLine& line, const QRectF& plot) const {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  p.fillRect(plot, sheet.paper);
  const auto* set = doc_.song().find(doc_.selection().set());
  const auto* mic = set ? doc_.song().micOf(note.take, set->tracks.front()) : nullptr;
  const auto media = mic ? doc_.pool().find(mic->media) : doc_.pool().end();
  if (media == doc_.pool().end()) return;
  const double rate = doc_.song().rate;
  const double from = std::max(0.0, note.tuned.note.start - kAround);
  const double until = note.tuned.note.end + kAround;
  const auto x = media->second->channel(0);
  float peak = 1e-4F;
  for (auto i = static_cast<std::int64_t>(from * rate) - mic->offset.value;
       i < static_cast<std::int64_t>(until * rate) - mic->offset.value; ++i)
    if (i >= 0 && i < std::ssize(x)) peak = std::max(peak, std::abs(x[static_cast<std::size_t>(i)]));
  WaveCanvas canvas(QSize(std::max(1, static_cast<int>(plot.width())), std::max(1, static_cast<int>(plot.height()))),
                    p.device()->devicePixelRatioF());
  canvas.draw(*media->second, 0, from * rate - static_cast<double>(mic->offset.value),
              (until - from) * rate / plot.width(), 0, plot.width(), 0, plot.height(), 0.95 / peak,
              {sheet.inkSoft, sheet.ink});
  p.drawImage(plot.topLeft(), canvas.image());
  // What has no pitch is never touched.
  auto veil = sheet.panel;
  veil.setAlphaF(0.62F);
  bool named = false;
  const auto first = static_cast<std::size_t>(from / PitchTrack::kHop);
  const auto last = std::min(line.track.values.size(), static_cast<std::size_t>(until / PitchTrack::kHop) + 1);
  const auto xOf = [&](std::size_t t) {
    return plot.left() + (PitchTrack::secondsAt(t) - from) / (until - from) * plot.width();
  };
  for (auto t = first; t < last;) {
    auto end = t;
    while (end < last && !line.track.values[end].sounds()) ++end;
    if (end > t) {
      const double a = std::max(plot.left(), xOf(t));
      const double b = std::min(plot.right(), xOf(end));
      p.fillRect(QRectF(a, plot.top(), b - a, plot.height()), veil);
      if (!named && b - a > 54) {
        p.setFont(theme.font(9.5));
        p.setPen(sheet.note);
        p.drawText(QRectF(a + 3, plot.bottom() - 15, b - a, 14), Qt::AlignLeft | Qt::AlignVCenter,
                   PitchDesk::tr("untouched"));
        named = true;
      }
    }
    t = std::max(end, t + 1);
  }
}

}  // namespace ochron
