#include "loupe/seam_loupe.h"

#include <QCoreApplication>
#include <algorithm>
#include <cmath>

#include "canvas/say.h"
#include "canvas/wave.h"
#include "document/attention.h"
#include "document/seam_desk.h"
#include "document/sounding.h"
#include "dsp/fade.h"
#include "loupe/mic_name.h"
#include "render/made_sound.h"
#include "seams/measure.h"
#include "theme/theme.h"

namespace ochron {
namespace {

QString decibels(double db) {
  const auto text = QString::number(std::abs(db), 'f', 1);
  return (text == "0.0" ? "" : db > 0 ? "+" : "\u2212") + text + say(" dB");
}

/// Text that can be read over a waveform.
void label(QPainter& p, const QRectF& strip, Qt::AlignmentFlag side, const QString& text, const QColor& ink) {
  const auto& sheet = Theme::get().sheet();
  p.setFont(Theme::get().font(10));
  const double wide = p.fontMetrics().horizontalAdvance(text) + 6.0;
  const QRectF box(side == Qt::AlignLeft ? strip.left() + 2 : strip.right() - wide - 2, strip.top() + 1, wide, 13);
  auto veil = sheet.paper;
  veil.setAlphaF(0.8F);
  p.fillRect(box, veil);
  p.setPen(ink);
  p.drawText(box, Qt::AlignCenter, text);
}

QString fillWords(SeamFill fill) {
  switch (fill) {
    case SeamFill::none: return say("cut as recorded");
    case SeamFill::continuation: return say("own sound goes on");
    case SeamFill::shortened: return say("earlier piece shortened");
    case SeamFill::stretched: return say("sustain stretched");
    case SeamFill::faded: return say("faded out and in");
  }
  return {};
}

}  // namespace

void SeamLoupe::paint(QPainter& p, const QString& name, const Clip& later, TrackId only) const {
  const auto& sheet = Theme::get().sheet();
  const auto* set = doc_.song().setOf(later.id);
  if (!set) return;
  const auto& clips = *set->clips;
  const auto at = std::find_if(clips.begin(), clips.end(), [&](const Clip& c) { return c.id == later.id; });
  if (at == clips.begin() || at == clips.end()) return;
  const auto& levels = doc_.seamDesk().micsAt(later.id);
  paintTitle(p, name, *(at - 1), later, levels);
  const auto tracks = only ? std::vector<TrackId>{only} : set->tracks;
  const double tall = plot_.height() / static_cast<double>(tracks.size());
  for (std::size_t i = 0; i < tracks.size(); ++i) {
    const QRectF strip(plot_.left(), plot_.top() + tall * static_cast<double>(i), plot_.width(), tall - 2);
    const auto level =
        std::find_if(levels.begin(), levels.end(), [&](const MicSeam& m) { return m.track == tracks[i]; });
    paintMic(p, strip, *(at - 1), later, tracks[i], level == levels.end() ? nullptr : &*level);
  }
  const double x0 = xOf(later.start - later.seam.before);
  const double x1 = xOf(later.start + later.seam.after + later.fadeIn.length);
  p.setPen(QPen(sheet.selection, 1));
  p.setRenderHint(QPainter::Antialiasing);
  for (const double x : {x0, x1}) p.drawLine(QPointF(x, plot_.top()), QPointF(x, plot_.bottom()));
  if (later.piece && later.piece->hit)
    for (const auto& h : *doc_.song().hitsOf(later.take, set->id)) {
      if (h.id != later.piece->hit) continue;
      const double x = xOf(later.toSong(h.at));
      if (x > plot_.right()) break;
      p.setPen(QPen(sheet.ink, 1.3));
      p.drawLine(QPointF(x, plot_.top()), QPointF(x, plot_.bottom()));
      p.setFont(Theme::get().font(10.5));
      p.drawText(QRectF(std::min(std::max(x - 30, (x0 + x1) / 2 + 18), plot_.right() - 48), plot_.bottom() + 5, 60, 14),
                 Qt::AlignCenter, say("attack"));
    }
  p.setPen(sheet.selection);
  p.setFont(Theme::get().font(10.5));
  p.drawText(QRectF(std::clamp((x0 + x1) / 2 - 45, plot_.left(), plot_.right() - 70), plot_.bottom() + 5, 70, 14),
             Qt::AlignCenter, say("crossfade"));
}

/// The checks list the plan's own seams that are not accepted yet; of others the loupe says why they are not there.
QString SeamLoupe::whyNotListed(const Clip& later) const {
  if (!later.piece || !later.piece->hit) return say(", cut by hand");
  const auto& checks = doc_.attention().checks();
  const bool listed =
      std::any_of(checks.begin(), checks.end(), [&](const Check& c) { return c.hit == later.piece->hit; });
  const auto* set = doc_.song().setOf(later.id);
  const auto& accepted = set->plan->accepted;
  const bool taken =
      std::any_of(accepted.begin(), accepted.end(), [&](auto& a) { return a.first == later.piece->hit; });
  return listed ? QString() : taken ? say(", accepted") : say(", locked or left alone");
}

void SeamLoupe::paintTitle(QPainter& p, const QString& name, const Clip& earlier, const Clip& later,
                           const std::vector<MicSeam>& levels) const {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  p.setFont(theme.font(13, 600));
  p.setPen(sheet.ink);
  p.drawText(QPointF(14, 22), name);
  const int after = 14 + p.fontMetrics().horizontalAdvance(name) + 10;
  p.setFont(theme.font(12));
  p.setPen(sheet.note);
  const double ms = msFromFrames(later.seam.before + later.seam.after, doc_.song().rate);
  const auto about = say("%1 ms \u00b7 %2").arg(ms, 0, 'f', 1).arg(fillWords(later.seam.fill));
  p.drawText(QPointF(after, 22),
             p.fontMetrics().elidedText(about, Qt::ElideRight, static_cast<int>(plot_.right()) - after));
  const auto worst = worstOf(levels);
  if (levels.empty()) {
    const bool coming = needsMaking(earlier) || needsMaking(later);
    p.drawText(QPointF(14, 40), coming ? say("not measured yet: its sound is being made")
                                       : say("not measured: nothing is crossfaded here"));
    return;
  }
  p.setFont(theme.font(12, 500));
  const bool good = std::abs(worst.levelDb) <= kSeamLevelBarDb && worst.steepness <= kSeamSteepnessBar;
  p.setPen(good ? sheet.ink : sheet.alarm);
  p.drawText(QPointF(14, 40),
             good ? say("level holds: %1 at worst").arg(decibels(worst.levelDb))
                  : (worst.steepness > kSeamSteepnessBar ? say("possible click")
                                                         : say("level changes by %1").arg(decibels(worst.levelDb))) +
                        whyNotListed(later));
}

void SeamLoupe::paintMic(QPainter& p, const QRectF& strip, const Clip& earlier, const Clip& later, TrackId track,
                         const MicSeam* level) const {
  const auto& sheet = Theme::get().sheet();
  p.fillRect(strip, sheet.paper);
  const auto* mic = doc_.song().micOf(later.take, track);
  const auto media = mic ? doc_.pool().find(mic->media) : doc_.pool().end();
  if (media == doc_.pool().end()) return;
  // The loudest of both pieces in sight fills the row: a wave never leaves it.
  float peak = 1e-4F;
  const auto samples = media->second->channel(0);
  const auto end = later.start + later.seam.after;
  const auto loudest = [&](const Clip& c, double from, double to) {
    const auto a = std::clamp<std::int64_t>((c.toTake(frameAt(from)) - mic->offset).value, 0, std::ssize(samples));
    const auto b = std::clamp<std::int64_t>((c.toTake(frameAt(to)) - mic->offset).value, a, std::ssize(samples));
    for (auto k = a; k < b; ++k) peak = std::max(peak, std::abs(samples[static_cast<std::size_t>(k)]));
  };
  loudest(earlier, plot_.left(), plot_.right());
  loudest(later, plot_.left(), plot_.right());
  const double gain = 0.9 / peak;
  const auto from = later.start - later.seam.before;
  p.save();
  p.setClipRect(strip);
  auto ghost = sheet.inkSoft;
  ghost.setAlphaF(0.45F);
  // Beyond the crossfade both pieces go on as ghosts: the handles a longer or moved crossfade would use.
  paintPiece(p, strip, earlier, *mic, {end, frameAt(plot_.right()) + Frames{1}}, gain, ghost);
  paintPiece(p, strip, later, *mic, {frameAt(plot_.left()), from}, gain, ghost);
  paintPiece(p, strip, earlier, *mic, {frameAt(plot_.left()), end}, gain, sheet.inkSoft);
  paintPiece(p, strip, later, *mic, {from, frameAt(plot_.right()) + Frames{1}}, gain, sheet.ink);
  p.setRenderHint(QPainter::Antialiasing);
  QPolygonF out;
  QPolygonF in;
  const double x0 = xOf(from);
  const double x1 = xOf(end);
  const double likeness = doc_.sounding().jointLikeness(track, later);
  for (int i = 0; i <= 20; ++i) {
    const double t = i / 20.0;
    const auto g = crossfadeGains(later.seam.law, later.seam.shape, later.seam.bias, likeness, t);
    out << QPointF(x0 + t * (x1 - x0), strip.bottom() - 1 - g.out * (strip.height() - 3));
    in << QPointF(x0 + t * (x1 - x0), strip.bottom() - 1 - g.in * (strip.height() - 3));
  }
  p.setPen(QPen(sheet.selection, 1.1));
  p.drawPolyline(out);
  p.drawPolyline(in);
  p.restore();
  paintMicName(p, strip, QString::fromStdString(doc_.song().find(track)->name), scaleOf(peak));
  if (!level) return;
  const bool good = std::abs(level->levelDb) <= kSeamLevelBarDb && level->steepness <= kSeamSteepnessBar;
  label(p, strip, Qt::AlignRight, decibels(level->levelDb), good ? sheet.note : sheet.alarm);
}

void SeamLoupe::paintPiece(QPainter& p, const QRectF& strip, const Clip& clip, const TakeMic& mic, FrameRange heard,
                           double gain, const QColor& ink) const {
  const auto& media = *doc_.pool().at(mic.media);
  for (const auto& even : shownOver(clip, heard).pieces()) {
    const double left = std::max(strip.left(), xOf(even.range.start));
    const double right = std::min(strip.right(), xOf(even.range.end));
    if (right - left < 1) continue;
    const double at = static_cast<double>((even.take - mic.offset).value) +
                      static_cast<double>((frameAt(left) - even.range.start).value) * even.speed;
    const double step = perPixel_ * even.speed;
    if (perPixel_ > 6) {
      WaveCanvas canvas(QSize(static_cast<int>(std::ceil(right - left)), std::max(1, static_cast<int>(strip.height()))),
                        p.device()->devicePixelRatioF());
      canvas.draw(media, 0, at, step, 0, right - left, 0, strip.height(), gain, {ink, ink});
      p.drawImage(QPointF(left, strip.top()), canvas.image());
    } else {
      drawSamples(p, media, 0, at, step, QRectF(left, strip.top(), right - left, strip.height()), gain, ink);
    }
  }
}

}  // namespace ochron
