#include "bench/seam_bench.h"

#include <QPainter>
#include <QSettings>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

#include "document/transport.h"
#include "loupe/mic_name.h"
#include "loupe/seam_loupe.h"
#include "seams/measure.h"
#include "theme/theme.h"

namespace ochron {
namespace {
constexpr double kTop = 46;
constexpr double kFoot = 22;
constexpr double kSide = 12;
constexpr double kLeastMs = 2;
constexpr double kMostMs = 500;
}  // namespace

SeamBench::SeamBench(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  every_ = new QToolButton(this);
  every_->setObjectName("every mic");
  every_->setProperty("plain", true);
  every_->setCheckable(true);
  every_->setText(tr("every mic"));
  every_->setToolTip(tr("Every mic of the set, or only the one on which the level comes out worst"));
  every_->setChecked(QSettings().value("bench/every mic", false).toBool());
  connect(every_, &QToolButton::toggled, this, [this](bool on) {
    QSettings().setValue("bench/every mic", on);
    update();
  });
  setToolTip(tr("The chosen seam; the wheel comes closer"));
  for (auto signal : {&Document::songChanged, &Document::songPreviewed, &Document::selectionChanged,
                      &Document::mediaChanged, &Document::seamsMeasured})
    connect(&doc_, signal, this, qOverload<>(&QWidget::update));
  connect(&Theme::get(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

const Clip* SeamBench::seam() const {
  if (doc_.transport().original()) return nullptr;
  const auto* later = doc_.currentSeamClip();
  const auto straight = [](const Clip& c) { return !c.reversed && c.extras->media.empty(); };
  return later && straight(*later) && straight(*(later - 1)) ? later : nullptr;
}

/// The mic where the level is furthest off; the set's first when nothing is measured.
TrackId SeamBench::worst(const Clip& later) const {
  const auto* set = doc_.song().setOf(later.id);
  const auto found = doc_.seamMeasures().find(later.id);
  if (found != doc_.seamMeasures().end() && found->second.worst) return found->second.worst;
  return set->tracks.front();
}

void SeamBench::paintEvent(QPaintEvent*) {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  QPainter p(this);
  paintGround(p, *this, sheet.panel);
  const auto* later = seam();
  every_->setVisible(later != nullptr);
  if (!later) {
    p.setFont(theme.font(12));
    p.setPen(sheet.note);
    p.drawText(QRectF(rect()).adjusted(40, 0, -40, 0), Qt::AlignCenter | Qt::TextWordWrap,
               doc_.transport().original()
                   ? tr("Seams are heard in Edited.")
                   : tr("Click a seam on the lanes to see it here: what goes, what comes, and how the level "
                        "holds."));
    return;
  }
  const QRectF plot(kMicNames, kTop, width() - kMicNames - kSide, height() - kTop - kFoot);
  constexpr double kAround = 1.25;  // a long crossfade is seen whole
  const auto seamMs = msFromFrames(std::max(later->seam.before, later->seam.after), doc_.song().rate);
  const double half = std::max(halfMs_, kAround * seamMs);
  SeamLoupe(doc_, plot, later->start, 2 * half * doc_.song().rate / 1000 / plot.width())
      .paint(p, *later, every_->isChecked() ? TrackId{} : worst(*later));
}

void SeamBench::resizeEvent(QResizeEvent*) {
  const auto size = every_->sizeHint();
  every_->setGeometry(width() - size.width() - 12, 10, size.width(), 24);
}

void SeamBench::wheelEvent(QWheelEvent* event) {
  halfMs_ = std::clamp(halfMs_ * std::exp2(-event->angleDelta().y() / 240.0), kLeastMs, kMostMs);
  update();
  event->accept();
}

}  // namespace ochron
