#include "canvas/lane_painter.h"

#include <QCoreApplication>
#include <algorithm>
#include <cmath>

#include "canvas/say.h"
#include "dsp/fade.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr double kBracketsFrom = 14;  // pixels of clip from which its corners are drawn
constexpr double kDetailsFrom = 2;
constexpr double kFadesFrom = 3;
constexpr double kLabelFrom = 56;
constexpr double kGhost = 0.38;

/// A clip grown to a stretch of song, as far as its take reaches.
Clip grownTo(const Song& song, const Clip& clip, FrameRange stretch) {
  const auto length = song.takeLength(clip);
  const auto before = std::clamp(clip.start - stretch.start, Frames{0}, clip.handleBefore(length));
  const auto after = std::clamp(stretch.end - clip.end(), Frames{0}, clip.handleAfter(length));
  return shownOver(clip, {clip.start - before, clip.end() + after});
}

}  // namespace

double visualGain(const DecodedMedia& media) {
  int peak = 1;
  for (const auto& p : media.peaks(0).levels.back())
    peak = std::max({peak, static_cast<int>(p.high), -static_cast<int>(p.low)});
  return std::clamp(32767.0 / peak, 1.0, 20.0);
}

void LanePainter::paint(QPainter& p, const QRectF& box, const Track& track, const MicSet& set, const ClipList& clips,
                        const QRect& dirty, double ratio) const {
  const auto& sheet = Theme::get().sheet();
  const double from = std::max<double>(kGutterWidth, dirty.left() - 1);
  const double to = std::min<double>(box.right(), dirty.right() + 2);
  const auto first = view_.frameAt(from);
  const auto last = view_.frameAt(to) + Frames{1};
  const auto begin =
      std::upper_bound(clips.begin(), clips.end(), first, [](Frames f, const Clip& c) { return f < c.end(); });
  const auto end = std::partition_point(begin, clips.end(), [&](const Clip& c) { return c.start < last; });
  const QSize size(static_cast<int>(to - from) + 1, static_cast<int>(box.height()));
  WaveCanvas canvas(size, ratio);
  const QRectF local(0, 1, size.width(), box.height() - 3);
  const bool close = view_.framesPerPixel() < 1;
  // Neighbours mostly play the same recording: it is looked up once.
  std::vector<Voice> voices;
  voices.reserve(static_cast<std::size_t>(end - begin));
  for (auto c = begin; c != end; ++c)
    voices.push_back(c != begin && c->take == (c - 1)->take && c->extras->media == (c - 1)->extras->media &&
                             c->extras->sound == (c - 1)->extras->sound
                         ? voices.back()
                         : voiceOf(set, track, *c));
  const auto isNotes = [](const Voice& v) { return v.media && !v.media->notes().empty(); };
  for (auto c = begin; c != end; ++c) {
    WaveInk ink{sheet.inkSoft, sheet.ink};
    if (track.muted || c->muted) ink = {sheet.rule, sheet.inkSoft};
    const auto& voice = voices[static_cast<std::size_t>(c - begin)];
    if (!close && !isNotes(voice))
      drawWave(canvas, voice, *c, local, view_.xOf(c->start) - from, view_.xOf(c->end()) - from, ink);
  }
  p.drawImage(QPointF(from, box.top()), canvas.image());
  // Corner brackets: thin, and only as many as can be told apart.
  auto tone = sheet.ink;
  tone.setAlphaF(0.42F);
  const double top = box.top() + 1.5;
  const double low = box.bottom() - 3.5;
  std::vector<QLineF> corners;
  for (auto c = begin; c != end; ++c) {
    const double x0 = view_.xOf(c->start);
    const double x1 = view_.xOf(c->end());
    const auto& voice = voices[static_cast<std::size_t>(c - begin)];
    if (isNotes(voice))
      drawNotes(p, box, voice, *c, FrameRange{first, last}, track.muted || c->muted ? sheet.inkSoft : sheet.ink);
    else if (close)
      drawSampleLine(p, box, voice, *c, std::max(from, x0), std::min(to, x1), sheet.ink);
    if (x1 - x0 < kDetailsFrom) continue;
    drawSilence(p, box, voice, *c);
    if (c->fadeIn.length.value > 0 || c->fadeOut.length.value > 0) drawFades(p, box, *c);
    if (x1 - x0 <= kBracketsFrom) continue;
    const double arm = std::min(3.0, (x1 - x0) / 3);
    const double a = std::floor(x0) + 1.5;
    const double b = std::floor(x1) - 1.5;
    corners.insert(corners.end(),
                   {QLineF(a, top, a + arm, top), QLineF(a, top, a, top + 4), QLineF(a, low, a + arm, low),
                    QLineF(a, low, a, low - 4), QLineF(b, top, b - arm, top), QLineF(b, top, b, top + 4),
                    QLineF(b, low, b - arm, low), QLineF(b, low, b, low - 4)});
    if (x1 - x0 > kLabelFrom) drawLabel(p, box, set, track, *c);
  }
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setPen(QPen(tone, 1));
  p.drawLines(corners.data(), static_cast<int>(corners.size()));
}

LanePainter::Voice LanePainter::voiceOf(const MicSet& set, const Track& track, const Clip& clip) const {
  const auto* mic = doc_.song().micFor(set, clip, track.id);
  const auto media = mic ? doc_.pool().find(mic->media) : doc_.pool().end();
  if (media == doc_.pool().end()) return {mic, nullptr, 1};
  return {mic, media->second.get(), visualGain(*media->second)};
}

void LanePainter::paintGhost(QPainter& p, const QRectF& box, const Track& track, const MicSet& set, const Clip& clip,
                             FrameRange stretch, double ratio) const {
  const double from = std::max<double>(kGutterWidth, view_.xOf(stretch.start));
  const double to = std::min(box.right(), view_.xOf(stretch.end));
  if (to <= from + 1) return;
  const auto grown = grownTo(doc_.song(), clip, stretch);
  const auto voice = voiceOf(set, track, grown);
  const auto& sheet = Theme::get().sheet();
  p.save();
  p.setClipRect(QRectF(from, box.top(), to - from, box.height()), Qt::IntersectClip);
  p.setOpacity(kGhost);
  if (view_.framesPerPixel() < 1) {
    drawSampleLine(p, box, voice, grown, std::max(from, view_.xOf(grown.start)), std::min(to, view_.xOf(grown.end())),
                   sheet.ink);
  } else {
    WaveCanvas canvas(QSize(static_cast<int>(to - from) + 2, static_cast<int>(box.height())), ratio);
    drawWave(canvas, voice, grown, QRectF(0, 1, to - from + 2, box.height() - 3), view_.xOf(grown.start) - from,
             view_.xOf(grown.end()) - from, {sheet.inkSoft, sheet.inkSoft});
    p.drawImage(QPointF(from, box.top()), canvas.image());
  }
  p.restore();
}

void LanePainter::drawWave(WaveCanvas& canvas, const Voice& voice, const Clip& clip, const QRectF& lane, double x0,
                           double x1, const WaveInk& ink) const {
  if (!voice.media || !canvas.hasColumns(std::max(0.0, x0), std::min(lane.width(), x1))) return;
  const double pixel = view_.framesPerPixel();
  const double gain = (clip.gainDb == 0 ? 1.0 : std::pow(10, clip.gainDb / 20)) * voice.gain;
  for (const auto& piece : clip.pieces()) {
    const double from = x0 + static_cast<double>((piece.range.start - clip.start).value) / pixel;
    const double to = std::min(x1, x0 + static_cast<double>((piece.range.end - clip.start).value) / pixel);
    if (to < 0 || from > lane.width()) continue;
    const double left = std::max(0.0, from);
    const double first =
        static_cast<double>((piece.take - voice.mic->offset).value) + (left - from) * pixel * piece.speed;
    canvas.draw(*voice.media, 0, first, pixel * piece.speed, left, std::min(lane.width(), to), lane.top(),
                lane.height(), gain, ink);
  }
}

void LanePainter::drawSampleLine(QPainter& p, const QRectF& box, const Voice& voice, const Clip& clip, double from,
                                 double to, const QColor& ink) const {
  if (!voice.media) return;
  for (const auto& piece : clip.pieces()) {
    const double x0 = std::max(from, view_.xOf(piece.range.start));
    const double x1 = std::min(to, view_.xOf(piece.range.end));
    if (x1 <= x0) continue;
    const double into = view_.firstFrame() + (x0 - kGutterWidth) * view_.framesPerPixel() -
                        static_cast<double>(piece.range.start.value);
    drawSamples(p, *voice.media, 0, static_cast<double>((piece.take - voice.mic->offset).value) + into * piece.speed,
                view_.framesPerPixel() * piece.speed, QRectF(x0, box.top() + 1, x1 - x0, box.height() - 3),
                std::pow(10, clip.gainDb / 20) * voice.gain, ink);
  }
}

/// A performance that is notes: a bar each, high ones above, as strong as they were struck.
void LanePainter::drawNotes(QPainter& p, const QRectF& box, const Voice& voice, const Clip& clip, FrameRange seen,
                            const QColor& ink) const {
  constexpr double kTall = 3;
  constexpr int kLeastKeys = 12;
  const auto& notes = voice.media->notes();
  const auto& extent = voice.media->noteExtent();
  const double span = std::max(kLeastKeys, extent.highest - extent.lowest);
  const double middle = (extent.highest + extent.lowest) / 2.0;
  const auto played = clip.played();
  // Of the take what is played and seen; a note may begin before it.
  const auto a = clip.toTake(std::max(seen.start, clip.start));
  const auto b = clip.toTake(std::min(seen.end, clip.end()) - Frames{1});
  const auto from = std::max(played.start, std::min(a, b)) - voice.mic->offset;
  const auto to = std::min(played.end, std::max(a, b) + Frames{1}) - voice.mic->offset;
  p.setRenderHint(QPainter::Antialiasing, false);
  for (auto n = std::partition_point(notes.begin(), notes.end(),
                                     [&](const PlayedNote& x) { return x.at < from - extent.longest; });
       n != notes.end() && n->at < to; ++n) {
    const auto start = std::max(from, n->at) + voice.mic->offset;
    const auto end = std::min(to, n->end) + voice.mic->offset;
    if (end <= start) continue;
    const FrameRange song = clip.reversed ? FrameRange{clip.toSong(end - Frames{1}), clip.toSong(start) + Frames{1}}
                                          : FrameRange{clip.toSong(start), clip.toSong(end)};
    const double x0 = view_.xOf(song.start);
    const double x1 = std::max(x0 + 2, view_.xOf(song.end) - 1);
    const double y = box.center().y() - (n->key - middle) / span * (box.height() - kTall - 8);
    auto tone = ink;
    tone.setAlphaF(static_cast<float>(0.45 + 0.55 * n->velocity / 127.0));
    p.fillRect(QRectF(x0, std::floor(y - kTall / 2), x1 - x0, kTall), tone);
  }
}

/// What a fade takes away is veiled; its curve is a line. Tape fades, which take speed, are dashed.
void LanePainter::drawFades(QPainter& p, const QRectF& box, const Clip& clip) const {
  const auto& sheet = Theme::get().sheet();
  const double top = box.top() + 2;
  const double low = box.bottom() - 3;
  const auto draw = [&](const Fade& fade, double edge, double inner) {
    if (std::abs(inner - edge) < kFadesFrom) return;
    QPolygonF curve;
    constexpr int kPoints = 24;
    for (int i = 0; i <= kPoints; ++i) {
      const double t = static_cast<double>(i) / kPoints;
      curve << QPointF(edge + (inner - edge) * t, low - (low - top) * fadeGain(fade.shape, fade.bend, t));
    }
    auto veil = sheet.paper;
    veil.setAlphaF(0.72F);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(Qt::NoPen);
    p.setBrush(veil);
    p.drawPolygon(QPolygonF(curve) << QPointF(inner, top) << QPointF(edge, top));
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(sheet.ink, 1.1, fade.kind == FadeKind::tape ? Qt::DashLine : Qt::SolidLine));
    p.drawPolyline(curve);
  };
  draw(clip.fadeIn, view_.xOf(clip.start), view_.xOf(clip.start + clip.fadeIn.length));
  draw(clip.fadeOut, view_.xOf(clip.end()), view_.xOf(clip.end() - clip.fadeOut.length));
}

/// Where the take goes on but this mic has no recording: silence, as a dotted line.
void LanePainter::drawSilence(QPainter& p, const QRectF& box, const Voice& voice, const Clip& clip) const {
  if (voice.mic && !voice.media) return;
  const auto played = clip.played();
  const FrameRange there =
      voice.mic ? FrameRange{voice.mic->offset, voice.mic->offset + voice.media->length()} : FrameRange{};
  if (there.start <= played.start && there.end >= played.end) return;
  const auto dots = [&](FrameRange take) {
    if (take.empty()) return;
    const double a = view_.xOf(clip.toSong(clip.reversed ? take.end - Frames{1} : take.start));
    const double b = view_.xOf(clip.toSong(clip.reversed ? take.start : take.end - Frames{1}) + Frames{1});
    if (b - a < 2) return;
    p.setPen(QPen(Theme::get().sheet().note, 1, Qt::DotLine));
    p.drawLine(QPointF(a, box.center().y()), QPointF(b, box.center().y()));
  };
  if (there.empty()) return dots(played);
  dots({played.start, std::min(played.end, there.start)});
  dots({std::max(played.start, there.end), played.end});
}

void LanePainter::drawLabel(QPainter& p, const QRectF& box, const MicSet& set, const Track& track,
                            const Clip& clip) const {
  const auto& sheet = Theme::get().sheet();
  const auto& extras = *clip.extras;
  const double x = std::max<double>(kGutterWidth, view_.xOf(clip.start)) + 4;
  if (extras.colour)
    p.fillRect(QRectF(view_.xOf(clip.start) + 2, box.top() + 4, 3, box.height() - 10),
               Theme::get().tab(*extras.colour));
  if (set.tracks.front() != track.id || box.height() < 26) return;
  QStringList words;
  if (!extras.name.empty()) words << QString::fromStdString(extras.name);
  if (clip.reversed) words << say("backwards");
  if (clip.muted) words << say("muted");
  if (!extras.media.empty()) words << say("from another track");
  if (extras.sound)
    if (const auto* m = doc_.song().find(extras.sound->media)) words << QString::fromStdString(m->name);
  if (words.empty()) return;
  p.setFont(Theme::get().font(10, 500));
  const auto text = p.fontMetrics().elidedText(words.join(" \u00b7 "), Qt::ElideRight,
                                               static_cast<int>(view_.xOf(clip.end()) - x) - 14);
  const QRectF label(x + 4, box.bottom() - 16, p.fontMetrics().horizontalAdvance(text) + 6, 12);
  auto veil = sheet.paper;
  veil.setAlphaF(0.8F);
  p.fillRect(label, veil);
  p.setPen(sheet.note);
  p.drawText(label, Qt::AlignCenter, text);
}

}  // namespace ochron
