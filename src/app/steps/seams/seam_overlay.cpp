#include "steps/seams/seam_overlay.h"

#include <QCoreApplication>
#include <QPainterPath>
#include <algorithm>
#include <cmath>
#include <set>

#include "canvas/lane_layout.h"
#include "canvas/say.h"
#include "document/attention.h"
#include "document/seam_desk.h"
#include "document/selection.h"
#include "document/sounding.h"
#include "document/transport.h"
#include "dsp/fade.h"
#include "seams/seam_edits.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr double kGrabSeam = 6;
constexpr double kEdgeGrab = 4;
constexpr double kCurvesFrom = 8;    // pixels of crossfade from which its curves are drawn
constexpr double kMarksFrom = 5;     // pixels between seams from which each has a mark of its own
constexpr double kBiasPixels = 120;  // of drag for full bias

/// Dragging a seam: its middle moves the joint (Alt: the bias), its edges the length.
class SeamDrag : public Gesture {
 public:
  SeamDrag(Document& doc, ViewState& view, SeamSpot spot, const Press& press)
      : doc_(doc),
        view_(view),
        from_(press.at),
        spot_(spot),
        bias_(press.modifiers.testFlag(Qt::AltModifier)),
        tell_(press.tell) {
    if (const auto* c = doc_.selection().seamClip()) {
      start_ = c->start;
      length_ = c->seam.before + c->seam.after;
      bias0_ = c->seam.bias;
    }
  }

  void move(QPointF point, Qt::KeyboardModifiers) override {
    const double dx = point.x() - from_.x();
    if (!moved_ && std::abs(dx) < 3) return;
    moved_ = true;
    const auto* c = doc_.selection().seamClip();
    if (!c) return;
    const auto by = Frames{std::llround(dx * view_.framesPerPixel())};
    if (bias_)
      bend(dx);
    else if (spot_.part == SeamSpot::Part::middle)
      place(*c, start_ + by);
    else
      stretch(spot_.part == SeamSpot::Part::end ? by * 2 : by * -2);
  }

 private:
  void place(const Clip& c, Frames to) {
    const int rate = doc_.song().rate;
    const auto room = seamRoom(doc_.song(), doc_.selection().set(), c.id);
    const auto at = doc_.seamDesk().place(c.id, to, "seam");
    const auto* now = doc_.selection().seamClip();
    if (!now) return;
    QString text = say("Seam moved by %1 ms").arg(msFromFrames(now->start - start_, rate), 0, 'f', 2);
    if (const auto attack = doc_.seamDesk().attackOf(*now))
      text += say(", %1 ms before the attack").arg(msFromFrames(*attack - now->start, rate), 0, 'f', 2);
    text += say(" \u00b7 room: %1 ms back, %2 ms on")
                .arg(msFromFrames(now->start - room.start, rate), 0, 'f', 1)
                .arg(msFromFrames(room.end - now->start, rate), 0, 'f', 1);
    if (to != at) text += say(" \u00b7 no further: no sound, or an attack");
    tell_(text);
  }
  void stretch(Frames by) {
    SeamOverride change;
    const int rate = doc_.song().rate;
    change.length =
        std::clamp(length_ + by, framesFromMs(kCrossfadeRange.low, rate), framesFromMs(kCrossfadeRange.high, rate));
    doc_.seamDesk().changeThese({spot_.clip}, say("Change a seam's length"), change, "seam");
    if (const auto* now = doc_.selection().seamClip()) {
      const auto got = now->seam.before + now->seam.after;
      tell_(say("Crossfade of %1 ms").arg(msFromFrames(got, rate), 0, 'f', 2) +
            (got < *change.length ? say(" \u00b7 no more fits between the attacks") : QString()));
    }
  }
  void bend(double dx) {
    SeamOverride change;
    change.bias = kBiasRange.clamp(std::round(bias0_ * 100 + dx / kBiasPixels * 100));
    doc_.seamDesk().changeThese({spot_.clip}, say("Change a seam's bias"), change, "seam");
    tell_(say("Bias %1 %").arg(*change.bias));
  }

  Document& doc_;
  ViewState& view_;
  QPointF from_;
  SeamSpot spot_;
  bool bias_;
  std::function<void(const QString&)> tell_;
  Frames start_;
  Frames length_;
  double bias0_ = 0;
  bool moved_ = false;
};

}  // namespace

void SeamOverlay::paint(QPainter& p) const {
  if (doc_.transport().original() || doc_.step() == Step::takes || doc_.step() == Step::hits ||
      doc_.step() == Step::clips)
    return;
  for (const auto& set : doc_.song().sets)
    if (set.id != doc_.selection().set() && exposes(p, set)) paintQuietly(p, set);
  const auto* set = doc_.song().find(doc_.selection().set());
  if (!set) return;
  const auto& clips = *set->clips;
  const auto seen = view_.visible();
  const auto [top, bottom] = lanes_.setBounds(*set);
  std::set<HitId> bad;
  for (const auto& c : doc_.attention().checks())
    if (c.kind == CheckKind::levelChange || c.kind == CheckKind::roughSeam || c.kind == CheckKind::fadedGap ||
        c.kind == CheckKind::shortSeam)
      bad.insert(c.hit);
  auto c =
      std::upper_bound(clips.begin(), clips.end(), seen.start, [](Frames f, const Clip& x) { return f < x.end(); });
  const auto last = std::lower_bound(c, clips.end(), seen.end, [](const Clip& x, Frames f) { return x.start < f; });
  const bool dense = static_cast<double>(last - c) * kMarksFrom > view_.width();
  const auto current = doc_.selection().seam();
  const auto anew = exposed(p);
  double ticked = -1e9;
  p.setRenderHint(QPainter::Antialiasing, true);
  for (; c != last; ++c) {
    const auto i = static_cast<std::size_t>(c - clips.begin());
    if (c->end() < anew.start || c->start > anew.end || !isSeam(clips, i)) continue;
    const bool isBad = c->piece && bad.contains(c->piece->hit);
    if (dense && !isBad && current != c->id) {  // a tick: seams are visible at every zoom
      const double x = std::floor(view_.xOf(c->start)) + 0.5;
      if (x == ticked) continue;
      ticked = x;
      p.setPen(QPen(Theme::get().sheet().inkSoft, 1));
      p.drawLine(QPointF(x, bottom - 4), QPointF(x, bottom - 1));
      continue;
    }
    paintSeam(p, *c, top, bottom, isBad, current == c->id);
  }
}

/// Seams of a set that is not chosen: a tick each at its foot.
void SeamOverlay::paintQuietly(QPainter& p, const MicSet& set) const {
  const auto& clips = *set.clips;
  const auto seen = exposed(p);
  const auto bottom = lanes_.setBounds(set).second;
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setPen(QPen(Theme::get().sheet().inkSoft, 1));
  auto c =
      std::upper_bound(clips.begin(), clips.end(), seen.start, [](Frames f, const Clip& x) { return f < x.end(); });
  std::vector<QLineF> ticks;
  for (; c != clips.end() && c->start < seen.end; ++c) {
    if (!isSeam(clips, static_cast<std::size_t>(c - clips.begin()))) continue;
    const double x = std::floor(view_.xOf(c->start)) + 0.5;
    if (ticks.empty() || ticks.back().x1() != x) ticks.emplace_back(x, bottom - 5, x, bottom - 1);
  }
  p.drawLines(ticks.data(), static_cast<int>(ticks.size()));
}

void SeamOverlay::paintSeam(QPainter& p, const Clip& clip, double top, double bottom, bool bad, bool chosen) const {
  const auto& sheet = Theme::get().sheet();
  const bool current = chosen && doc_.step() == Step::seams;
  const bool hovered = hovered_ && hovered_->clip == clip.id;
  const double x = view_.xOf(clip.start);
  const double wide = static_cast<double>((clip.seam.before + clip.seam.after).value) / view_.framesPerPixel();
  const auto tone = bad ? sheet.alarm : current || hovered ? sheet.selection : sheet.inkSoft;
  if (doc_.step() == Step::seams) {
    auto line = tone;
    line.setAlphaF(current ? 1.0F : 0.6F);
    p.setPen(QPen(line, current ? 1.4 : 1));
    p.drawLine(QPointF(x, top), QPointF(x, bottom));
    if (wide >= kCurvesFrom) paintCurves(p, clip);
    if (current) {
      const auto room = seamRoom(doc_.song(), doc_.selection().set(), clip.id);
      p.setPen(QPen(sheet.selection, 3));
      p.drawLine(QPointF(view_.xOf(room.start), top + 1.5), QPointF(view_.xOf(room.end), top + 1.5));
    }
  }
  // A lozenge at the set's foot; hollow when sound had to be faded or stretched.
  const double r = current || hovered ? 4.5 : 3.2;
  const double y = bottom - 6;
  const bool filled = clip.seam.fill != SeamFill::faded && clip.seam.fill != SeamFill::stretched;
  p.setPen(QPen(tone, 1.3));
  p.setBrush(filled ? tone : sheet.paper);
  p.drawPolygon(QPolygonF{{x - r, y}, {x, y - r}, {x + r, y}, {x, y + r}});
}

void SeamOverlay::paintCurves(QPainter& p, const Clip& clip) const {
  const auto& sheet = Theme::get().sheet();
  const auto* set = doc_.song().find(doc_.selection().set());
  const double x0 = view_.xOf(clip.start - clip.seam.before);
  const double x1 = view_.xOf(clip.start + clip.seam.after);
  auto veil = sheet.selection;
  veil.setAlphaF(0.10F);
  for (const auto track : set->tracks) {
    const auto box = lanes_.laneBox(lanes_.laneOf(track)).adjusted(0, 3, 0, -4);
    p.fillRect(QRectF(x0, box.top(), x1 - x0, box.height()), veil);
    QPolygonF out;
    QPolygonF in;
    const double likeness = doc_.sounding().jointLikeness(track, clip);
    for (int i = 0; i <= 20; ++i) {
      const double t = i / 20.0;
      const auto g = crossfadeGains(clip.seam.law, clip.seam.shape, clip.seam.bias, likeness, t);
      out << QPointF(x0 + t * (x1 - x0), box.bottom() - g.out * box.height());
      in << QPointF(x0 + t * (x1 - x0), box.bottom() - g.in * box.height());
    }
    p.setPen(QPen(sheet.selection, 1.2));
    p.drawPolyline(out);
    p.drawPolyline(in);
  }
}

void SeamOverlay::paintUnder(QPainter& p) const {
  const auto& sheet = Theme::get().sheet();
  for (const auto& set : doc_.song().sets) {
    const auto bounds = lanes_.setBounds(set);
    const auto box = [&, top = bounds.first, bottom = bounds.second](FrameRange r) {
      const double a = std::max<double>(kGutterWidth, view_.xOf(r.start));
      return QRectF(a, top, std::min<double>(lanes_.width(), view_.xOf(r.end)) - a, bottom - top - 1);
    };
    auto locks = set.locks;
    if (set.locked) locks = {view_.visible()};
    for (const auto& lock : locks) {
      const auto b = box(lock);
      if (b.width() <= 0) continue;
      auto tone = sheet.ink;
      tone.setAlphaF(0.13F);
      p.fillRect(b, QBrush(tone, Qt::BDiagPattern));
      p.setPen(QPen(sheet.note, 1));
      p.drawRect(b.adjusted(0.5, 0.5, -0.5, -0.5));
      if (b.width() > 60) {
        const auto text = set.locked ? say("locked: the whole set") : say("locked");
        p.setFont(Theme::get().font(10.5, 600));
        const QRectF label(b.left() + 5, b.top() + 4, p.fontMetrics().horizontalAdvance(text) + 10, 15);
        p.fillRect(label, sheet.panel);
        p.setPen(sheet.ink);
        p.drawText(label, Qt::AlignCenter, text);
      }
    }
    for (const auto& gap : set.plan->gaps)
      for (const auto& c : *set.clips) {
        if (c.take != gap.take) continue;
        const auto b = box({c.toSong(gap.range.start), c.toSong(gap.range.end)});
        if (!c.played().contains(gap.range.start) || b.width() <= 0) continue;
        p.setPen(QPen(sheet.selection, 1.4));
        p.drawPolyline(QPolygonF{
            {b.left(), b.top() + 7}, {b.left(), b.top() + 2}, {b.right(), b.top() + 2}, {b.right(), b.top() + 7}});
        p.setFont(Theme::get().font(10.5, 500));
        if (b.width() > 70)
          p.drawText(QRectF(b.left() + 5, b.top() + 4, b.width(), 14), Qt::AlignLeft, say("as played"));
      }
  }
}

std::optional<SeamSpot> SeamOverlay::at(QPointF point) const {
  if (doc_.transport().original() || (doc_.step() != Step::seams && doc_.step() != Step::timing)) return {};
  const auto* set = doc_.song().find(doc_.selection().set());
  if (!set) return {};
  const auto [top, bottom] = lanes_.setBounds(*set);
  if (point.y() < top || point.y() > bottom || (doc_.step() == Step::timing && point.y() < bottom - 11)) return {};
  std::optional<SeamSpot> best;
  double nearest = kGrabSeam;
  const auto& clips = *set->clips;
  for (std::size_t i = 1; i < clips.size(); ++i) {
    const auto& c = clips[i];
    const double x = view_.xOf(c.start);
    if (std::abs(x - point.x()) > 400 || !isSeam(clips, i)) continue;
    const double x0 = view_.xOf(c.start - c.seam.before);
    const double x1 = view_.xOf(c.start + c.seam.after);
    const auto offer = [&](double at, double reach, SeamSpot::Part part) {
      const double d = std::abs(at - point.x());
      if (d <= reach && d < nearest) {
        nearest = d;
        best = SeamSpot{c.id, part};
      }
    };
    offer(x, kGrabSeam, SeamSpot::Part::middle);
    if (x1 - x0 < 14 || doc_.step() != Step::seams) continue;
    offer(x0, kEdgeGrab, SeamSpot::Part::start);
    offer(x1, kEdgeGrab, SeamSpot::Part::end);
  }
  return best;
}

Overlay::Look SeamOverlay::lookOf(const SeamSpot&) const {
  return {doc_.step() == Step::seams ? Qt::SplitHCursor : Qt::PointingHandCursor, {}};
}

void SeamOverlay::chooseSpot(const SeamSpot& spot) { doc_.selection().chooseSeam(spot.clip); }

std::unique_ptr<Gesture> SeamOverlay::take(const SeamSpot& spot, const Press& press) {
  chooseSpot(spot);
  return doc_.step() == Step::seams ? std::make_unique<SeamDrag>(doc_, view_, spot, press) : nullptr;
}

}  // namespace ochron
