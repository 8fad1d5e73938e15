#include "steps/clips/clip_gestures.h"

#include <QCoreApplication>
#include <algorithm>
#include <cmath>

#include "canvas/lane_layout.h"
#include "canvas/say.h"
#include "document/clip_desk.h"
#include "document/selection.h"
#include "document/wording.h"
#include "edits/arrange.h"
#include "edits/clip_edits.h"
#include "edits/fade_edits.h"
#include "edits/mark_edits.h"

namespace ochron {

QString DragContext::place(Frames at) const {
  const auto p = base->tempo.position(at);
  const auto beat = base->tempo.meterOfBar(p.bar).beatLength();
  return QStringLiteral("%1.%2.%3")
      .arg(p.bar + 1)
      .arg(p.beat + 1)
      .arg(100 * p.rest.value / beat.value, 2, 10, QLatin1Char('0'));
}

namespace {

constexpr double kThreshold = 3;    // pixels before a press becomes a drag
constexpr double kBendPixels = 60;  // of drag for the whole bend

QString byMs(double ms) { return signedMs(ms) + " ms"; }

/// The frame of every drag: nothing happens before it has moved some pixels.
class ClipDrag : public Gesture {
 public:
  ClipDrag(DragContext context, ClipId grabbed) : c_(std::move(context)), grabbed_(grabbed) {
    ids_ = c_.doc.selection().isChosen(grabbed) ? c_.doc.selection().clips() : ClipIds{grabbed};
    if (const auto* clip = c_.base->find(grabbed)) clip_ = *clip;
  }
  ~ClipDrag() override { c_.target({}); }

  void move(QPointF point, Qt::KeyboardModifiers modifiers) final {
    if (!moved_ && (point - c_.from).manhattanLength() < kThreshold) return;
    moved_ = true;
    drag(point, modifiers.testFlag(Qt::ShiftModifier));
  }

 protected:
  virtual void drag(QPointF point, bool free) = 0;
  QString count() const { return counted(ids_.size(), "clip", "clips"); }
  Snapper snapper() const { return {c_.doc, c_.view}; }
  ChosenClips moving() const { return {ids_.begin(), ids_.end()}; }
  /// `by` drawn to what is near one of the points.
  Frames snapped(const std::vector<Frames>& points, Frames by, bool free) {
    if (free) {
      c_.target({});
      return by;
    }
    const auto move = snapper().move(points, by, moving());
    c_.target(move.target);
    target_ = move.target;
    return move.by;
  }
  QString tail() const {
    QString out = say(" \u00b7 Shift: free \u00b7 Escape takes it back");
    return target_ ? say(" \u00b7 at %1").arg(target_->what) + out : out;
  }

  DragContext c_;
  ClipId grabbed_;
  ClipIds ids_;
  Clip clip_;
  std::optional<Snapper::Found> target_;

 private:
  bool moved_ = false;
};

class MoveDrag : public ClipDrag {
 public:
  MoveDrag(DragContext context, ClipId grabbed, bool copying)
      : ClipDrag(std::move(context), grabbed), copying_(copying) {
    extent_ = extentOf(*c_.base, ids_);
    order_ = setsInOrder(*c_.base);
    if (copying_)
      if (auto copied = copyClips(*c_.base, ids_)) copied_ = std::move(*copied);
  }
  /// What was copied is chosen once it is dropped.
  ~MoveDrag() override {
    if (!copies_.empty()) c_.doc.selection().choose(copies_);
  }

 protected:
  void drag(QPointF point, bool free) override {
    const auto* set = c_.base->setOf(grabbed_);
    const auto by =
        snapped({clip_.start, anchorOf(*c_.base, *set, clip_), clip_.end(), extent_.start}, c_.moved(point), free);
    const int rows = rowAt(point.y()) - rowOf(set->id);
    const auto overlap = c_.doc.clipDesk().settings().overlap;
    if (copying_) return copyTo(by, rows, overlap);
    const auto next = moveClipsAcross(*c_.base, ids_, by, rows, overlap);
    if (!next && rows != 0) {
      c_.doc.edit(say("Move clips"), moveClips(*c_.base, ids_, by, overlap), "move clips");
      return c_.tell(QString::fromStdString(next.error().message));
    }
    if (!c_.doc.edit(say("Move %1").arg(count()), next, "move clips")) return;
    c_.tell(say("%1 from %2 to %3, by %4")
                .arg(count(), c_.place(extent_.start), c_.place(extent_.start + by), byMs(c_.ms(by))) +
            tail());
  }

 private:
  void copyTo(Frames by, int rows, Overlap overlap) {
    std::optional<SetId> to;
    if (rows != 0 && copied_.parts.size() == 1)
      to = order_.at(static_cast<std::size_t>(rowOf(copied_.parts.front().set)) + static_cast<std::size_t>(rows));
    auto placed = pasteClips(*c_.base, copied_, extent_.start + by, overlap, to);
    Result<Song> next = placed ? Result<Song>(std::move(placed->song)) : tl::unexpected(placed.error());
    if (!c_.doc.edit(say("Copy %1").arg(count()), next, "copy clips")) return;
    copies_ = std::move(placed->clips);
    c_.tell(say("A copy of %1 to %2").arg(count(), c_.place(extent_.start + by)) + tail());
  }
  int rowOf(SetId set) const { return static_cast<int>(std::find(order_.begin(), order_.end(), set) - order_.begin()); }
  int rowAt(double y) const {
    const int lane = c_.lanes.laneAt(y);
    const auto* set = lane < 0 ? nullptr : c_.base->setOf(c_.base->tracks[static_cast<std::size_t>(lane)].id);
    return rowOf(set ? set->id : c_.base->setOf(grabbed_)->id);
  }

  bool copying_;
  CopiedClips copied_;
  ClipIds copies_;
  FrameRange extent_;
  std::vector<SetId> order_;
};

class SlipDrag : public ClipDrag {
 public:
  using ClipDrag::ClipDrag;

 protected:
  void drag(QPointF point, bool free) override {
    const auto* set = c_.base->setOf(grabbed_);
    const auto by = snapped({anchorOf(*c_.base, *set, clip_)}, c_.moved(point), free);
    if (!c_.doc.edit(say("Slip %1").arg(count()), slipClips(*c_.base, ids_, by), "slip")) return;
    const auto* now = c_.doc.song().find(grabbed_);
    const auto* take = now ? c_.base->find(now->take) : nullptr;
    if (!take) return;
    const auto did = (now->source - clip_.source) * (now->reversed ? 1 : -1);
    c_.tell(say("Sound moved by %1 inside the clip \u00b7 room: %2 ms back, %3 ms on")
                .arg(byMs(c_.ms(did)))
                .arg(c_.ms(now->handleAfter(take->length)), 0, 'f', 0)
                .arg(c_.ms(now->handleBefore(take->length)), 0, 'f', 0) +
            tail());
  }
};

class SlideDrag : public ClipDrag {
 public:
  using ClipDrag::ClipDrag;

 protected:
  void drag(QPointF point, bool free) override {
    const auto by = snapped({clip_.start, clip_.end()}, c_.moved(point), free);
    if (!c_.doc.edit(say("Slide %1").arg(count()), slideClips(*c_.base, ids_, by), "slide")) return;
    if (const auto* now = c_.doc.song().find(grabbed_))
      c_.tell(say("%1 slid by %2; the neighbours follow").arg(count(), byMs(c_.ms(now->start - clip_.start))) + tail());
  }
};

class TrimDrag : public ClipDrag {
 public:
  TrimDrag(DragContext context, ClipId grabbed, bool start) : ClipDrag(std::move(context), grabbed), start_(start) {}

 protected:
  void drag(QPointF point, bool free) override {
    const auto edge = start_ ? clip_.start : clip_.end();
    const auto by = snapped({edge}, c_.moved(point), free);
    const bool gaps = c_.doc.clipDesk().settings().closeGaps;
    const auto next = start_ ? trimStarts(*c_.base, ids_, by, gaps) : trimEnds(*c_.base, ids_, by, gaps);
    if (!c_.doc.edit(start_ ? say("Trim starts") : say("Trim ends"), next, "trim")) return;
    const auto* now = c_.doc.song().find(grabbed_);
    const auto* take = now ? c_.base->find(now->take) : nullptr;
    if (!take) return;
    const auto did = now->length - clip_.length;
    const auto room = start_ ? now->handleBefore(take->length) : now->handleAfter(take->length);
    QString text = say("%1 %2 at %3, length %4 \u00b7 %5 ms of recording left")
                       .arg(start_ ? say("Start") : say("End"),
                            did.value == 0  ? say("unmoved")
                            : did.value > 0 ? say("pulled out")
                                            : say("trimmed"),
                            c_.place(start_ ? now->start : now->end()), byMs(c_.ms(did)))
                       .arg(c_.ms(room), 0, 'f', 0);
    if (room.value == 0) text += say(": its end");
    if (gaps) text += say(" \u00b7 what follows moves along");
    c_.tell(text + tail());
  }

 private:
  bool start_;
};

class RepeatDrag : public ClipDrag {
 public:
  using ClipDrag::ClipDrag;

 protected:
  void drag(QPointF point, bool free) override {
    const auto extent = extentOf(*c_.base, ids_);
    const auto until = extent.end + snapped({extent.end}, c_.moved(point), free);
    auto placed = repeatClips(*c_.base, ids_, until);
    if (!placed) return c_.tell(QString::fromStdString(placed.error().message));
    const auto copies = static_cast<double>((until - extent.end).value) / static_cast<double>(extent.length().value);
    if (!c_.doc.edit(say("Repeat %1").arg(count()), placed->song, "repeat")) return;
    c_.tell(
        say("%1 repeated %2 times, up to %3").arg(count()).arg(std::max(0.0, copies), 0, 'f', 2).arg(c_.place(until)) +
        tail());
  }
};

class FadeDrag : public ClipDrag {
 public:
  FadeDrag(DragContext context, ClipId grabbed, FadeEnd end) : ClipDrag(std::move(context), grabbed), end_(end) {}

 protected:
  void drag(QPointF point, bool free) override {
    const auto& own = end_ == FadeEnd::in ? clip_.fadeIn : clip_.fadeOut;
    const auto at = end_ == FadeEnd::in ? clip_.start + own.length : clip_.end() - own.length;
    const auto by = snapped({at}, c_.moved(point), free);
    const auto length = std::clamp(own.length + (end_ == FadeEnd::in ? by : -by), Frames{0}, clip_.length);
    if (const auto* bundle = c_.base->find(clip_.bundle); bundle && clip_.bundle != c_.doc.selection().openBundle())
      return fadeBundle(*bundle, by);
    // All chosen clips' fades follow: to the same length.
    const auto next = changeFades(*c_.base, ids_, end_, [&](const Clip&, Fade f) { return f.length = length, f; });
    if (!c_.doc.edit(end_ == FadeEnd::in ? say("Fade in") : say("Fade out"), next, "fade")) return;
    c_.tell(say("%1 of %2 ms on %3")
                .arg(end_ == FadeEnd::in ? say("Fade in") : say("Fade out"))
                .arg(c_.ms(length), 0, 'f', 1)
                .arg(count()) +
            tail());
  }

 private:
  void fadeBundle(Bundle b, Frames by) {
    auto& fade = end_ == FadeEnd::in ? b.fadeIn : b.fadeOut;
    fade.length =
        std::clamp(fade.length + (end_ == FadeEnd::in ? by : -by), Frames{0}, extentOf(*c_.base, ids_).length());
    if (!c_.doc.edit(say("Fade a bundle"), setBundle(*c_.base, b), "fade")) return;
    c_.tell(say("Fade of %1 ms over \"%2\"").arg(c_.ms(fade.length), 0, 'f', 1).arg(QString::fromStdString(b.name)) +
            tail());
  }

  FadeEnd end_;
};

class BendDrag : public ClipDrag {
 public:
  BendDrag(DragContext context, ClipId grabbed, FadeEnd end) : ClipDrag(std::move(context), grabbed), end_(end) {}

 protected:
  void drag(QPointF point, bool) override {
    const auto& own = end_ == FadeEnd::in ? clip_.fadeIn : clip_.fadeOut;
    const double bend = std::clamp(own.bend + (c_.from.y() - point.y()) / kBendPixels, -1.0, 1.0);
    const auto next = changeFades(*c_.base, ids_, end_, [&](const Clip&, Fade f) { return f.bend = bend, f; });
    if (!c_.doc.edit(say("Bend fades"), next, "bend")) return;
    c_.tell(say("Bend %1 % on %2 \u00b7 up: early, down: late \u00b7 Escape takes it back")
                .arg(bend * 100, 0, 'f', 0)
                .arg(count()));
  }

 private:
  FadeEnd end_;
};

class CrossfadeDrag : public ClipDrag {
 public:
  CrossfadeDrag(DragContext context, ClipId later) : ClipDrag(std::move(context), later) {
    // All joints of the selection follow the one that is dragged.
    if (!c_.doc.selection().isChosen(later)) ids_ = {later};
    room_ = crossfadeRoom(*c_.base, later);
    const double into = c_.view.xOf(clip_.start);
    earlier_ = c_.from.x() < into - 2 ? true : c_.from.x() > into + 2 ? false : std::optional<bool>();
  }

 protected:
  void drag(QPointF point, bool) override {
    const auto at = c_.view.frameAt(point.x());
    if (!earlier_) earlier_ = point.x() < c_.from.x();
    CrossfadeChange change;
    const auto wanted = std::max(Frames{0}, *earlier_ ? clip_.start - at : at - clip_.start);
    const auto room = *earlier_ ? room_.before : room_.after;
    (*earlier_ ? change.before : change.after) = wanted;
    const auto next = changeCrossfades(*c_.base, ids_, change);
    if (!next) return c_.tell(QString::fromStdString(next.error().message));
    if (!c_.doc.edit(say("Crossfade"), next, "crossfade")) return;
    QString text = say("Crossfade %1 ms into the %2 piece \u00b7 room: %3 ms")
                       .arg(c_.ms(std::min(wanted, room)), 0, 'f', 1)
                       .arg(*earlier_ ? say("earlier") : say("later"))
                       .arg(c_.ms(room), 0, 'f', 1);
    if (room.value == 0)
      text = *earlier_ ? say("No room: the later piece has no recording before its start")
                       : say("No room: the earlier piece has no recording after its end");
    else if (wanted > room)
      text += say(", all of it used");
    c_.tell(text + say(" \u00b7 Escape takes it back"));
  }

 private:
  CrossfadeRoom room_;
  std::optional<bool> earlier_;
};

class SpanDrag : public ClipDrag {
 public:
  SpanDrag(DragContext context, SpanId span, SpanPart part, bool copying)
      : ClipDrag(std::move(context), {}), span_(*c_.base->find(span)), part_(part), copying_(copying) {}

 protected:
  void drag(QPointF point, bool free) override {
    const auto edge = part_ == SpanPart::end ? span_.range.end : span_.range.start;
    auto points = std::vector{edge};
    if (part_ == SpanPart::body) points.push_back(span_.range.end);
    const auto by = snapped(points, c_.moved(point), free);
    auto next = span_;
    if (part_ != SpanPart::end) next.range.start += by;
    if (part_ != SpanPart::start) next.range.end += by;
    if (next.range.empty()) return;
    const auto song = copying_ ? copySpan(*c_.base, span_.id, next.range.start) : setSpan(*c_.base, next);
    if (!c_.doc.edit(copying_ ? say("Copy a silent span") : say("Change a silent span"), song, "span")) return;
    c_.tell(say("Silent from %1 to %2, %3 ms")
                .arg(c_.place(next.range.start), c_.place(next.range.end))
                .arg(c_.ms(next.range.length()), 0, 'f', 1) +
            tail());
  }

 private:
  MuteSpan span_;
  SpanPart part_;
  bool copying_;
};

}  // namespace

std::unique_ptr<Gesture> moveDrag(DragContext context, ClipId grabbed, bool copying) {
  return std::make_unique<MoveDrag>(std::move(context), grabbed, copying);
}
std::unique_ptr<Gesture> slipDrag(DragContext context, ClipId grabbed) {
  return std::make_unique<SlipDrag>(std::move(context), grabbed);
}
std::unique_ptr<Gesture> slideDrag(DragContext context, ClipId grabbed) {
  return std::make_unique<SlideDrag>(std::move(context), grabbed);
}
std::unique_ptr<Gesture> trimDrag(DragContext context, ClipId grabbed, bool start) {
  return std::make_unique<TrimDrag>(std::move(context), grabbed, start);
}
std::unique_ptr<Gesture> repeatDrag(DragContext context, ClipId grabbed) {
  return std::make_unique<RepeatDrag>(std::move(context), grabbed);
}
std::unique_ptr<Gesture> fadeDrag(DragContext context, ClipId grabbed, FadeEnd end) {
  return std::make_unique<FadeDrag>(std::move(context), grabbed, end);
}
std::unique_ptr<Gesture> bendDrag(DragContext context, ClipId grabbed, FadeEnd end) {
  return std::make_unique<BendDrag>(std::move(context), grabbed, end);
}
std::unique_ptr<Gesture> crossfadeDrag(DragContext context, ClipId later) {
  return std::make_unique<CrossfadeDrag>(std::move(context), later);
}
std::unique_ptr<Gesture> spanDrag(DragContext context, SpanId span, SpanPart part, bool copying) {
  return std::make_unique<SpanDrag>(std::move(context), span, part, copying);
}

}  // namespace ochron
