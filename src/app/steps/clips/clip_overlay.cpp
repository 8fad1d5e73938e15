#include "steps/clips/clip_overlay.h"

#include <QCoreApplication>
#include <algorithm>
#include <cmath>

#include "canvas/lane_layout.h"
#include "canvas/range_drag.h"
#include "canvas/say.h"
#include "document/clip_desk.h"
#include "document/selection.h"
#include "document/sounding.h"
#include "document/transport.h"
#include "dsp/fade.h"
#include "edits/arrange.h"
#include "edits/fade_edits.h"
#include "theme/theme.h"

namespace ochron {
namespace {

using Part = ClipPart;

constexpr double kEdgeReach = 5;
constexpr double kCornerReach = 7;
constexpr double kHandlesFrom = 22;  // pixels of clip from which its corners can be grabbed
constexpr double kJointZone = 11;    // at a lane's top, where a crossfade is drawn out of a joint
constexpr double kBendFrom = 26;
constexpr double kFadeCurvesFrom = 6;

auto firstInSight(const ClipList& clips, Frames from) {
  return std::partition_point(clips.begin(), clips.end(), [&](const Clip& c) { return c.end() <= from; });
}

Qt::CursorShape cursorFor(Part part) {
  switch (part) {
    case Part::startEdge:
    case Part::endEdge:
    case Part::spanStart:
    case Part::spanEnd: return Qt::SizeHorCursor;
    case Part::fadeInBend:
    case Part::fadeOutBend: return Qt::SizeVerCursor;
    case Part::joint: return Qt::SplitHCursor;
    case Part::fadeIn:
    case Part::fadeOut: return Qt::PointingHandCursor;
    default: return Qt::ArrowCursor;
  }
}

}  // namespace

bool ClipOverlay::active() const { return doc_.step() == Step::clips && !doc_.transport().original(); }

QPointF ClipOverlay::fadeHandle(const Clip& clip, FadeEnd end, const QRectF& box) const {
  const double x = end == FadeEnd::in ? view_.xOf(clip.start + clip.fadeIn.length) + 4
                                      : view_.xOf(clip.end() - clip.fadeOut.length) - 4;
  return {x, box.top() + 6};
}

QPointF ClipOverlay::bendHandle(const Clip& clip, FadeEnd end, const QRectF& box) const {
  const auto& fade = end == FadeEnd::in ? clip.fadeIn : clip.fadeOut;
  const double edge = view_.xOf(end == FadeEnd::in ? clip.start : clip.end());
  const double half = static_cast<double>(fade.length.value) / view_.framesPerPixel() / 2;
  const double y = box.bottom() - 3 - (box.height() - 5) * fadeGain(fade.shape, fade.bend, 0.5);
  return {end == FadeEnd::in ? edge + half : edge - half, y};
}

// Finding what is under the pointer -----------------------------------------------------------------------------------

std::optional<ClipSpot> ClipOverlay::spanAt(QPointF point, int lane) const {
  const auto track = doc_.song().tracks[static_cast<std::size_t>(lane)].id;
  for (const auto& s : doc_.song().spans) {
    if (std::find(s.tracks.begin(), s.tracks.end(), track) == s.tracks.end()) continue;
    const double a = view_.xOf(s.range.start);
    const double b = view_.xOf(s.range.end);
    if (point.x() < a - 3 || point.x() > b + 3) continue;
    const double reach = std::min(kEdgeReach, (b - a) / 4);
    return ClipSpot{point.x() - a < reach   ? Part::spanStart
                    : b - point.x() < reach ? Part::spanEnd
                                            : Part::span,
                    {},
                    s.id,
                    lane};
  }
  return {};
}

std::optional<ClipSpot> ClipOverlay::cornerAt(QPointF point, const ClipList& clips, std::size_t i, int lane) const {
  const auto& c = clips[i];
  const auto box = lanes_.laneBox(lane);
  const auto near = [&](QPointF at) { return std::hypot(at.x() - point.x(), at.y() - point.y()) < kCornerReach; };
  const bool touchesBefore = i > 0 && clips[i - 1].end() == c.start;
  const bool touchesAfter = i + 1 < clips.size() && c.end() == clips[i + 1].start;
  // Out of a joint's top a crossfade is drawn; its ends can be taken hold of there too.
  if (point.y() < box.top() + kJointZone) {
    const auto jointAt = [&](const Clip& later) {
      const double x0 = view_.xOf(later.start - later.seam.before) - kEdgeReach;
      const double x1 = view_.xOf(later.start + later.seam.after) + kEdgeReach;
      return point.x() > x0 && point.x() < x1;
    };
    if (touchesBefore && c.fadeIn.length.value == 0 && jointAt(c)) return ClipSpot{Part::joint, c.id, {}, lane};
    if (touchesAfter && c.fadeOut.length.value == 0 && jointAt(clips[i + 1]))
      return ClipSpot{Part::joint, clips[i + 1].id, {}, lane};
  }
  const double wide = static_cast<double>(c.length.value) / view_.framesPerPixel();
  if (wide < kHandlesFrom) return {};
  const bool in = !touchesBefore || c.fadeIn.length.value > 0;
  const bool out = !touchesAfter || c.fadeOut.length.value > 0;
  if (in && near(fadeHandle(c, FadeEnd::in, box))) return ClipSpot{Part::fadeIn, c.id, {}, lane};
  if (out && near(fadeHandle(c, FadeEnd::out, box))) return ClipSpot{Part::fadeOut, c.id, {}, lane};
  const auto bends = [&](const Fade& f) {
    return static_cast<double>(f.length.value) / view_.framesPerPixel() > kBendFrom;
  };
  if (bends(c.fadeIn) && near(bendHandle(c, FadeEnd::in, box))) return ClipSpot{Part::fadeInBend, c.id, {}, lane};
  if (bends(c.fadeOut) && near(bendHandle(c, FadeEnd::out, box))) return ClipSpot{Part::fadeOutBend, c.id, {}, lane};
  return {};
}

std::optional<ClipSpot> ClipOverlay::at(QPointF point) const {
  const int lane = lanes_.laneAt(point.y());
  if (!active() || lane < 0 || point.x() < kGutterWidth) return {};
  const auto* set = doc_.song().setOf(doc_.song().tracks[static_cast<std::size_t>(lane)].id);
  const auto& clips = *set->clips;
  const auto reach = Frames{std::llround(kCornerReach * 2 * view_.framesPerPixel())};
  const auto at = view_.frameAt(point.x());
  const auto first = firstInSight(clips, at - reach);
  for (auto c = first; c != clips.end() && c->start <= at + reach; ++c)
    if (auto corner = cornerAt(point, clips, static_cast<std::size_t>(c - clips.begin()), lane)) return corner;
  if (auto span = spanAt(point, lane)) return span;
  std::optional<ClipSpot> body;
  for (auto c = first; c != clips.end() && c->start <= at + reach; ++c) {
    const double x0 = view_.xOf(c->start);
    const double x1 = view_.xOf(c->end());
    const double edge = std::min(kEdgeReach, (x1 - x0) / 4);
    // A narrow clip's edge does not reach into its neighbour.
    if (point.x() >= x0 - 2 && point.x() < x0 + edge) return ClipSpot{Part::startEdge, c->id, {}, lane};
    if (point.x() > x1 - edge && point.x() <= x1 + 2) body = body ? body : ClipSpot{Part::endEdge, c->id, {}, lane};
    if (!body && point.x() >= x0 && point.x() < x1) body = ClipSpot{Part::body, c->id, {}, lane};
  }
  return body;
}

QString ClipOverlay::tipFor(const ClipSpot& spot) const {
  switch (spot.part) {
    case Part::body:
      return say("Drag: move \u00b7 Ctrl: copy \u00b7 Alt: slip the sound \u00b7 Alt+Shift: slide between neighbours");
    case Part::startEdge:
    case Part::endEdge:
      return say("Drag to trim, or to pull recorded material back out \u00b7 Ctrl on the end: repeat");
    case Part::fadeIn:
    case Part::fadeOut: return say("Drag for a fade; all chosen clips follow");
    case Part::fadeInBend:
    case Part::fadeOutBend: return say("Drag up or down to bend the fade");
    case Part::joint: {
      const auto room = crossfadeRoom(doc_.song(), spot.clip);
      const double ms = 1000.0 / doc_.song().rate;
      return say("Drag to either side for a crossfade \u00b7 room: %1 ms into the earlier, %2 ms into the later piece")
          .arg(static_cast<double>(room.before.value) * ms, 0, 'f', 0)
          .arg(static_cast<double>(room.after.value) * ms, 0, 'f', 0);
    }
    default: return say("Silent span: drag to move, its ends for its length, Ctrl for a copy");
  }
}

Overlay::Look ClipOverlay::lookOf(const ClipSpot& spot) const { return {cursorFor(spot.part), tipFor(spot)}; }

bool ClipOverlay::isFade(QPointF point) const {
  const auto spot = at(point);
  return spot && (spot->part == Part::fadeIn || spot->part == Part::fadeOut);
}

// Taking hold --------------------------------------------------------------------------------------------------------

void ClipOverlay::chooseSpot(const ClipSpot& spot) {
  if (spot.span)
    doc_.selection().chooseSpan(spot.span);
  else if (!doc_.selection().isChosen(spot.clip))
    doc_.selection().choose({spot.clip});
}

std::unique_ptr<Gesture> ClipOverlay::take(const ClipSpot& spot, const Press& press) {
  const bool ctrl = press.modifiers.testFlag(Qt::ControlModifier);
  const bool alt = press.modifiers.testFlag(Qt::AltModifier);
  const bool shift = press.modifiers.testFlag(Qt::ShiftModifier);
  DragContext context{doc_, view_, lanes_, press.at, press.tell, [this](auto found) { target_ = found; }};
  pressed_ = spot;
  if (press.modifiers == Qt::ShiftModifier) return rangeDrag(std::move(context));
  if (!spot.span && spot.part == Part::body) doc_.transport().setCursor(view_.frameAt(press.at.x()));
  if (!spot.span && !ctrl) doc_.selection().setRange({});
  if (spot.span) {
    chooseSpot(spot);
    const auto part = spot.part == Part::spanStart ? SpanPart::start
                      : spot.part == Part::spanEnd ? SpanPart::end
                                                   : SpanPart::body;
    return spanDrag(std::move(context), spot.span, part, ctrl);
  }
  if (!ctrl) chooseSpot(spot);
  workedOn_ = spot;
  switch (spot.part) {
    case Part::startEdge: return trimDrag(std::move(context), spot.clip, true);
    case Part::endEdge:
      return ctrl ? repeatDrag(std::move(context), spot.clip) : trimDrag(std::move(context), spot.clip, false);
    case Part::fadeIn: return fadeDrag(std::move(context), spot.clip, FadeEnd::in);
    case Part::fadeOut: return fadeDrag(std::move(context), spot.clip, FadeEnd::out);
    case Part::fadeInBend: return bendDrag(std::move(context), spot.clip, FadeEnd::in);
    case Part::fadeOutBend: return bendDrag(std::move(context), spot.clip, FadeEnd::out);
    case Part::joint: return crossfadeDrag(std::move(context), spot.clip);
    default: break;
  }
  if (alt && shift) return slideDrag(std::move(context), spot.clip);
  if (alt) return slipDrag(std::move(context), spot.clip);
  return moveDrag(std::move(context), spot.clip, ctrl);
}

void ClipOverlay::release(bool clicked, Qt::KeyboardModifiers modifiers) {
  const auto spot = std::exchange(pressed_, {});
  workedOn_.reset();
  if (!clicked || !spot || !spot->clip) return;
  if (modifiers.testFlag(Qt::ControlModifier))
    doc_.selection().toggle(spot->clip);
  else if (modifiers.testFlag(Qt::ShiftModifier) && !modifiers.testFlag(Qt::AltModifier))
    doc_.selection().chooseTo(spot->clip);
  else
    doc_.selection().choose({spot->clip});
}

bool ClipOverlay::doubleClick(QPointF point) {
  const auto spot = at(point);
  const auto* clip = spot ? doc_.song().find(spot->clip) : nullptr;
  if (clip && clip->bundle) doc_.clipDesk().openBundle(clip->bundle);
  return spot.has_value();
}

// Painting ------------------------------------------------------------------------------------------------------------

void ClipOverlay::eachChosen(const std::function<void(const Clip&, double top, double bottom)>& draw) const {
  const auto seen = view_.visible();
  for (const auto& set : doc_.song().sets) {
    const auto [top, bottom] = lanes_.setBounds(set);
    for (auto c = firstInSight(*set.clips, seen.start); c != set.clips->end() && c->start < seen.end; ++c)
      if (doc_.selection().isChosen(c->id)) draw(*c, top, bottom);
  }
}

void ClipOverlay::paintUnder(QPainter& p) const {
  if (!active() || !doc_.selection().hasClips()) return;
  eachChosen([&](const Clip& c, double top, double bottom) {
    const double a = view_.xOf(c.start);
    p.fillRect(QRectF(a, top, std::max(1.0, view_.xOf(c.end()) - a), bottom - top - 1),
               Theme::get().sheet().selectionSoft);
  });
}

void ClipOverlay::paint(QPainter& p) const {
  if (!active()) return;
  p.setRenderHint(QPainter::Antialiasing, true);
  paintSilence(p);
  paintCrossfades(p);
  paintGhosts(p);
  paintBundles(p);
  const auto& sheet = Theme::get().sheet();
  eachChosen([&](const Clip& c, double top, double bottom) {
    const double a = std::floor(view_.xOf(c.start)) + 0.5;
    const double b = std::floor(view_.xOf(c.end())) - 0.5;
    auto line = sheet.selection;
    line.setAlphaF(0.7F);
    p.setPen(QPen(line, 1));
    p.setBrush(Qt::NoBrush);
    if (b - a > 3) p.drawRect(QRectF(a, top + 0.5, b - a, bottom - top - 2));
    if (!c.extras->sync) return;
    const double x = view_.xOf(c.toSong(*c.extras->sync));
    p.setBrush(sheet.selection);
    p.setPen(Qt::NoPen);
    p.drawPolygon(QPolygonF{{x - 4, bottom - 2}, {x + 4, bottom - 2}, {x, bottom - 8}});
  });
  if (workedOn_)
    paintHandles(p, *workedOn_);
  else if (hovered_ && hovered_->clip)
    paintHandles(p, *hovered_);
  paintTarget(p);
}

void ClipOverlay::paintHandles(QPainter& p, const ClipSpot& spot) const {
  const auto* clip = doc_.song().find(spot.clip);
  const auto* set = doc_.song().setOf(spot.clip);
  if (!clip || !set) return;
  const auto& sheet = Theme::get().sheet();
  const auto& clips = *set->clips;
  const auto i = static_cast<std::size_t>(clip - clips.data());
  const auto box = lanes_.laneBox(spot.lane);
  const auto dot = [&](QPointF at, bool lit) {
    p.setPen(QPen(sheet.selection, 1.4));
    p.setBrush(lit ? sheet.selection : sheet.paper);
    p.drawEllipse(at, lit ? 4.2 : 3.4, lit ? 4.2 : 3.4);
  };
  if (spot.part == Part::joint) {
    const auto room = crossfadeRoom(doc_.song(), spot.clip);
    const double x = view_.xOf(clip->start);
    const double from = std::max<double>(kGutterWidth, view_.xOf(clip->start - room.before));
    const double to = std::min<double>(lanes_.width(), view_.xOf(clip->start + room.after));
    auto tone = sheet.selection;
    tone.setAlphaF(0.5F);
    p.setPen(QPen(tone, 3));
    p.drawLine(QPointF(from, box.top() + 2), QPointF(to, box.top() + 2));
    dot({view_.xOf(clip->start - clip->seam.before), box.top() + 6}, true);
    if (clip->seam.after.value > 0) dot({view_.xOf(clip->start + clip->seam.after), box.top() + 6}, true);
    p.setPen(QPen(sheet.selection, 1));
    p.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()));
    return;
  }
  if (static_cast<double>(clip->length.value) / view_.framesPerPixel() < kHandlesFrom) return;
  const bool touchesBefore = i > 0 && clips[i - 1].end() == clip->start;
  const bool touchesAfter = i + 1 < clips.size() && clip->end() == clips[i + 1].start;
  if (!touchesBefore || clip->fadeIn.length.value > 0)
    dot(fadeHandle(*clip, FadeEnd::in, box), spot.part == Part::fadeIn);
  if (!touchesAfter || clip->fadeOut.length.value > 0)
    dot(fadeHandle(*clip, FadeEnd::out, box), spot.part == Part::fadeOut);
  const auto bends = [&](const Fade& f) {
    return static_cast<double>(f.length.value) / view_.framesPerPixel() > kBendFrom;
  };
  if (bends(clip->fadeIn)) dot(bendHandle(*clip, FadeEnd::in, box), spot.part == Part::fadeInBend);
  if (bends(clip->fadeOut)) dot(bendHandle(*clip, FadeEnd::out, box), spot.part == Part::fadeOutBend);
  if (spot.part == Part::startEdge || spot.part == Part::endEdge) {
    const double x = view_.xOf(spot.part == Part::startEdge ? clip->start : clip->end());
    p.setPen(QPen(sheet.selection, 2));
    p.drawLine(QPointF(x, box.top() + 1), QPointF(x, box.bottom() - 3));
  }
}

/// Recorded material beyond the edges of what is worked on, in the gaps around it; a crossfade shows its own.
void ClipOverlay::paintGhosts(QPainter& p) const {
  if (!workedOn_ || !workedOn_->clip || workedOn_->part == Part::joint) return;
  const auto* set = doc_.song().setOf(workedOn_->clip);
  const auto* clip = doc_.song().find(workedOn_->clip);
  if (!set || !clip) return;
  const auto seen = view_.visible();
  const auto i = clip - set->clips->data();
  const auto from = i > 0 ? std::max(seen.start, (clip - 1)->end()) : seen.start;
  const auto to = i + 1 < std::ssize(*set->clips) ? std::min(seen.end, (clip + 1)->start) : seen.end;
  const double ratio = lanes_.devicePixelRatio();
  for (const auto track : set->tracks) {
    const auto box = lanes_.laneBox(lanes_.laneOf(track));
    const auto& t = *doc_.song().find(track);
    painter_.paintGhost(p, box, t, *set, *clip, {from, clip->start}, ratio);
    painter_.paintGhost(p, box, t, *set, *clip, {clip->end(), to}, ratio);
  }
}

/// Both pieces under their curves.
void ClipOverlay::paintCrossfades(QPainter& p) const {
  const auto& sheet = Theme::get().sheet();
  const auto seen = view_.visible();
  auto veil = sheet.selection;
  veil.setAlphaF(0.08F);
  for (const auto& set : doc_.song().sets) {
    const auto& clips = *set.clips;
    for (auto c = firstInSight(clips, seen.start); c != clips.end() && c->start < seen.end; ++c) {
      if (c == clips.begin() || (c - 1)->end() != c->start) continue;
      const auto length = c->seam.before + c->seam.after;
      if (static_cast<double>(length.value) / view_.framesPerPixel() < kFadeCurvesFrom) continue;
      const double x0 = view_.xOf(c->start - c->seam.before);
      const double x1 = view_.xOf(c->start + c->seam.after);
      QPolygonF out;
      QPolygonF in;
      constexpr int kPoints = 20;
      for (const auto track : set.tracks) {
        const int lane = lanes_.laneOf(track);
        const auto box = lanes_.laneBox(lane).adjusted(0, 2, 0, -3);
        if (box.bottom() < 0 || box.top() > lanes_.height()) continue;
        const auto& t = *doc_.song().find(track);
        painter_.paintGhost(p, lanes_.laneBox(lane), t, set, *(c - 1), {c->start, c->start + c->seam.after},
                            lanes_.devicePixelRatio());
        painter_.paintGhost(p, lanes_.laneBox(lane), t, set, *c, {c->start - c->seam.before, c->start},
                            lanes_.devicePixelRatio());
        p.fillRect(QRectF(x0, box.top(), x1 - x0, box.height()), veil);
        out.clear();
        in.clear();
        const double likeness = doc_.sounding().jointLikeness(track, *c);
        for (int i = 0; i <= kPoints; ++i) {
          const double x = static_cast<double>(i) / kPoints;
          const auto g = crossfadeGains(c->seam.law, c->seam.shape, c->seam.bias, likeness, x);
          out << QPointF(x0 + x * (x1 - x0), box.bottom() - g.out * box.height());
          in << QPointF(x0 + x * (x1 - x0), box.bottom() - g.in * box.height());
        }
        p.setPen(QPen(sheet.selection, 1.2));
        p.setBrush(Qt::NoBrush);
        p.drawPolyline(out);
        p.drawPolyline(in);
      }
    }
  }
}

void ClipOverlay::paintBundles(QPainter& p) const {
  const auto& sheet = Theme::get().sheet();
  for (const auto& b : doc_.song().bundles) {
    const auto ids = clipsOf(doc_.song(), b.id);
    const auto extent = extentOf(doc_.song(), ids);
    double top = 1e9;
    double bottom = -1e9;
    for (const auto id : ids) {
      const auto [t, low] = lanes_.setBounds(*doc_.song().setOf(id));
      top = std::min(top, t);
      bottom = std::max(bottom, low);
    }
    const double a = view_.xOf(extent.start);
    const double e = view_.xOf(extent.end);
    if (e < kGutterWidth || a > lanes_.width()) continue;
    const bool open = doc_.selection().openBundle() == b.id;
    p.setPen(QPen(sheet.ink, open ? 1 : 1.6, open ? Qt::DashLine : Qt::SolidLine));
    p.setBrush(Qt::NoBrush);
    p.drawPolyline(QPolygonF{{a + 7, top + 2}, {a + 2, top + 2}, {a + 2, bottom - 3}, {a + 7, bottom - 3}});
    p.drawPolyline(QPolygonF{{e - 7, top + 2}, {e - 2, top + 2}, {e - 2, bottom - 3}, {e - 7, bottom - 3}});
    const auto curve = [&](const Fade& fade, double edge, double inner) {
      if (fade.length.value == 0) return;
      QPolygonF line;
      constexpr int kPoints = 24;
      for (int i = 0; i <= kPoints; ++i) {
        const double t = static_cast<double>(i) / kPoints;
        line << QPointF(edge + (inner - edge) * t,
                        bottom - 3 - (bottom - top - 6) * fadeGain(fade.shape, fade.bend, t));
      }
      p.drawPolyline(line);
    };
    curve(b.fadeIn, a, view_.xOf(extent.start + b.fadeIn.length));
    curve(b.fadeOut, e, view_.xOf(extent.end - b.fadeOut.length));
    p.setFont(Theme::get().font(10.5, 600));
    const auto name = QString::fromStdString(b.name);
    const QRectF label(std::max<double>(kGutterWidth, a) + 9, top + 2, p.fontMetrics().horizontalAdvance(name) + 10,
                       14);
    if (label.right() > e) continue;
    p.fillRect(label, sheet.panel);
    p.drawText(label, Qt::AlignCenter, name);
  }
}

void ClipOverlay::paintOnSound(QPainter& p) const {
  if (doc_.transport().original()) return;
  const auto& sheet = Theme::get().sheet();
  const auto seen = view_.visible();
  for (const auto& s : doc_.song().spans) {
    if (!s.range.overlaps(seen)) continue;
    const double a = std::max<double>(kGutterWidth - 2, view_.xOf(s.range.start));
    const double b = std::min<double>(lanes_.width() + 2, view_.xOf(s.range.end));
    const bool chosen = doc_.selection().span() == s.id && active();
    for (const auto track : s.tracks) {
      const auto box = lanes_.laneBox(lanes_.laneOf(track)).adjusted(0, 2, 0, -3);
      auto veil = sheet.paper;
      veil.setAlphaF(0.84F);
      const QRectF r(a, box.top(), std::max(2.0, b - a), box.height());
      p.setRenderHint(QPainter::Antialiasing);
      p.setPen(QPen(chosen ? sheet.selection : sheet.note, chosen ? 1.6 : 1));
      p.setBrush(veil);
      p.drawRoundedRect(r.adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
      if (b - a < 44) continue;
      p.setFont(Theme::get().font(10, 500));
      p.setPen(chosen ? sheet.selection : sheet.note);
      const auto text = s.label.empty() ? say("silent") : QString::fromStdString(s.label);
      p.drawText(r.adjusted(7, 0, -7, 0), Qt::AlignVCenter | Qt::AlignLeft,
                 p.fontMetrics().elidedText(text, Qt::ElideRight, static_cast<int>(b - a) - 14));
    }
  }
}

/// The silent gaps that a split at silence would find.
void ClipOverlay::paintSilence(QPainter& p) const {
  if (!doc_.clipDesk().silenceShown()) return;
  const auto& sheet = Theme::get().sheet();
  auto veil = sheet.selection;
  veil.setAlphaF(0.16F);
  for (const auto& [id, gap] : doc_.clipDesk().silence()) {
    const auto [top, bottom] = lanes_.setBounds(*doc_.song().find(id));
    const double a = view_.xOf(gap.start);
    const double b = view_.xOf(gap.end);
    if (b < kGutterWidth || a > lanes_.width()) continue;
    p.fillRect(QRectF(a, top, b - a, bottom - top - 1), veil);
    p.setPen(QPen(sheet.selection, 1, Qt::DashLine));
    p.drawLine(QPointF(a, top), QPointF(a, bottom));
    p.drawLine(QPointF(b, top), QPointF(b, bottom));
  }
}

void ClipOverlay::paintTarget(QPainter& p) const {
  if (!target_) return;
  const auto& sheet = Theme::get().sheet();
  const double x = std::floor(view_.xOf(target_->at)) + 0.5;
  p.setPen(QPen(sheet.selection, 1.2, Qt::DashLine));
  p.drawLine(QPointF(x, 0), QPointF(x, lanes_.height()));
  p.setFont(Theme::get().font(10.5, 600));
  const QRectF label(x + 4, 3, p.fontMetrics().horizontalAdvance(target_->what) + 10, 15);
  p.setPen(Qt::NoPen);
  p.setBrush(sheet.selection);
  p.drawRoundedRect(label, 3, 3);
  p.setPen(sheet.paper);
  p.drawText(label, Qt::AlignCenter, target_->what);
}

}  // namespace ochron
