#include "steps/clips/curve_box.h"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "document/clip_desk.h"
#include "document/selection.h"
#include "document/sounding.h"
#include "dsp/fade.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr double kPixelsOfBend = 60;  // of drag for a full bend
constexpr double kBiasPixels = 60;    // for a full bias
constexpr double kDoublePixels = 40;  // for twice the length
constexpr int kPoints = 32;

/// The sheet a curve stands on; the inside.
QRectF sheetOf(const QWidget& widget, QPainter& p, bool hover) {
  const auto& sheet = Theme::get().sheet();
  const QRectF box = QRectF(widget.rect()).adjusted(0.5, 0.5, -0.5, -0.5);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(hover && widget.isEnabled() ? sheet.selection : sheet.rule, 1));
  p.setBrush(sheet.field);
  p.drawRoundedRect(box, 4, 4);
  return box.adjusted(6, 6, -6, -6);
}

void note(QPainter& p, const QRectF& box, const QString& text) {
  p.setPen(Theme::get().sheet().note);
  p.setFont(Theme::get().font(10.5));
  p.drawText(box, Qt::AlignCenter | Qt::TextWordWrap, text);
}

void handle(QPainter& p, QPointF at) {
  const auto& sheet = Theme::get().sheet();
  p.setPen(QPen(sheet.selection, 1.6));
  p.setBrush(sheet.paper);
  p.drawEllipse(at, 4, 4);
}

}  // namespace

CurveBox::CurveBox(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  setCursor(Qt::SizeAllCursor);
  setFixedHeight(56);
  setAttribute(Qt::WA_Hover);
  for (auto signal : {&Document::songChanged, &Document::songPreviewed})
    connect(&doc_, signal, this, qOverload<>(&QWidget::update));
  doc_.selection().watch(Selection::kClips | Selection::kMark, this, [this] { update(); });
}

const Clip* CurveBox::first() const {
  const auto ids = doc_.selection().clips();
  return ids.empty() ? nullptr : doc_.song().find(ids.front());
}

void CurveBox::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const auto inside = sheetOf(*this, p, underMouse());
  if (const auto* clip = first()) draw(p, inside, *clip);
}

void CurveBox::mousePressEvent(QMouseEvent* event) {
  const auto* clip = first();
  if (!clip || event->button() != Qt::LeftButton) return;
  hold_ = doc_.takeHold();
  from_ = event->position();
  grasp(*clip);
}

void CurveBox::mouseMoveEvent(QMouseEvent* event) {
  if (event->buttons().testFlag(Qt::LeftButton) && first()) drag(event->position() - from_);
}

FadeBox::FadeBox(Document& document, FadeEnd end, QWidget* parent) : CurveBox(document, parent), end_(end) {
  setObjectName(end == FadeEnd::in ? "fade in curve" : "fade out curve");
  setAccessibleName(end == FadeEnd::in ? tr("Curve of the fade in") : tr("Curve of the fade out"));
  setToolTip(tr("Drag across for the length, up and down to bend it"));
}

void FadeBox::draw(QPainter& p, const QRectF& inside, const Clip& clip) {
  const auto& sheet = Theme::get().sheet();
  const auto& fade = fadeOf(clip);
  if (fade.length.value == 0) return note(p, inside, tr("no fade: drag to draw one"));
  QPolygonF curve;
  const auto at = [&](double t) {
    const double level = fadeGain(fade.shape, fade.bend, t);
    const double x = end_ == FadeEnd::in ? inside.left() + t * inside.width() : inside.right() - t * inside.width();
    return QPointF(x, inside.bottom() - level * inside.height());
  };
  for (int i = 0; i <= kPoints; ++i) curve << at(static_cast<double>(i) / kPoints);
  p.setPen(Qt::NoPen);
  p.setBrush(sheet.selectionSoft);
  p.drawPolygon(QPolygonF(curve) << QPointF(curve.back().x(), inside.bottom())
                                 << QPointF(curve.front().x(), inside.bottom()));
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(sheet.selection, 1.6, fade.kind == FadeKind::tape ? Qt::DashLine : Qt::SolidLine));
  p.drawPolyline(curve);
  handle(p, at(0.5));
}

void FadeBox::grasp(const Clip& clip) {
  before_ = fadeOf(clip);
  longest_ = clip.length;
}

void FadeBox::drag(QPointF by) {
  const double grow = (end_ == FadeEnd::in ? by.x() : -by.x()) / kDoublePixels;
  const auto start = std::max<double>(static_cast<double>(before_.length.value), doc_.song().rate / 200.0);
  const bool wider = std::abs(by.x()) > 2;
  const auto length =
      wider || before_.length.value > 0
          ? Frames{std::llround(std::min(static_cast<double>(longest_.value), start * std::exp2(wider ? grow : 0)))}
          : Frames{};
  const double bend = std::clamp(before_.bend - by.y() / kPixelsOfBend, -1.0, 1.0);
  doc_.edit(tr("Bend fades"),
            changeFades(doc_.song(), doc_.selection().clips(), end_,
                        [&](const Clip&, Fade f) {
                          f.length = length;
                          f.bend = bend;
                          return f;
                        }),
            "fade curve");
  doc_.tell(
      tr("Fade of %1 ms, bend %2 %").arg(msFromFrames(length, doc_.song().rate), 0, 'f', 1).arg(bend * 100, 0, 'f', 0));
}

JointBox::JointBox(Document& document, QWidget* parent) : CurveBox(document, parent) {
  setObjectName("joint curve");
  setAccessibleName(tr("Gains of the crossfade before"));
  setToolTip(tr("Drag across to move where both sides meet, up and down for the length"));
}

void JointBox::draw(QPainter& p, const QRectF& inside, const Clip& clip) {
  const auto& sheet = Theme::get().sheet();
  const auto room = crossfadeRoom(doc_.song(), clip.id);
  if ((room.before + room.after).value == 0) return note(p, inside, tr("no clip touches its start"));
  const auto& seam = clip.seam;
  if ((seam.before + seam.after).value == 0) return note(p, inside, tr("a plain cut: drag down to crossfade"));
  QPolygonF out;
  QPolygonF in;
  const auto* set = doc_.song().setOf(clip.id);
  const auto active = doc_.selection().track();
  const bool inSet = std::find(set->tracks.begin(), set->tracks.end(), active) != set->tracks.end();
  const double likeness = doc_.sounding().jointLikeness(inSet ? active : set->tracks.front(), clip);
  double meets = 0.5;
  double nearest = 2;
  double most = 1;  // sides that take away from each other are raised above what they are
  for (int i = 0; i <= kPoints; ++i) {
    const auto g = crossfadeGains(seam.law, seam.shape, seam.bias, likeness, static_cast<double>(i) / kPoints);
    most = std::max({most, static_cast<double>(g.out), static_cast<double>(g.in)});
  }
  const double tall = inside.height() / most;
  for (int i = 0; i <= kPoints; ++i) {
    const double t = static_cast<double>(i) / kPoints;
    const auto g = crossfadeGains(seam.law, seam.shape, seam.bias, likeness, t);
    const double x = inside.left() + t * inside.width();
    out << QPointF(x, inside.bottom() - g.out * tall);
    in << QPointF(x, inside.bottom() - g.in * tall);
    if (std::abs(g.in - g.out) < nearest) {
      nearest = std::abs(g.in - g.out);
      meets = t;
    }
  }
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(sheet.inkSoft, 1.6));
  p.drawPolyline(out);
  p.setPen(QPen(sheet.selection, 1.6));
  p.drawPolyline(in);
  const auto g = crossfadeGains(seam.law, seam.shape, seam.bias, likeness, meets);
  handle(p, {inside.left() + meets * inside.width(), inside.bottom() - g.in * tall});
}

void JointBox::drag(QPointF by) {
  CrossfadeChange change;
  change.bias = std::clamp(before_.bias + by.x() / kBiasPixels, -1.0, 1.0);
  const auto whole = before_.before + before_.after;
  if (std::abs(by.y()) > 2 || whole.value > 0) {
    const double start = std::max<double>(static_cast<double>(whole.value), doc_.song().rate / 500.0);
    const Frames length{std::llround(start * std::exp2(std::abs(by.y()) > 2 ? by.y() / kDoublePixels : 0))};
    change.before = length / 2;
    change.after = length - length / 2;
  }
  doc_.edit(tr("Change crossfades"), changeCrossfades(doc_.song(), doc_.selection().clips(), change), "joint curve");
}

}  // namespace ochron
