#include "steps/seams/seam_bench.h"

#include <QPainter>
#include <QSettings>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

#include "actions/actions.h"
#include "document/attention.h"
#include "document/seam_desk.h"
#include "document/selection.h"
#include "document/thing_words.h"
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
  setAccessibleName(tr("Seam"));
  every_ = new QToolButton(this);
  every_->setObjectName("every mic");
  every_->setProperty("plain", true);
  every_->setCheckable(true);
  every_->setProperty(kCommand, "view.everymic");
  every_->setText(tr("every mic"));
  every_->setToolTip(tr("Every mic of the set, or only the one on which the level comes out worst"));
  every_->setChecked(QSettings().value("bench/every mic", false).toBool());
  connect(every_, &QToolButton::toggled, this, [this](bool on) {
    QSettings().setValue("bench/every mic", on);
    update();
  });
  setToolTip(tr("The chosen seam; the wheel comes closer"));
  for (auto signal : {&Document::songChanged, &Document::songPreviewed, &Document::mediaChanged})
    connect(&doc_, signal, this, qOverload<>(&QWidget::update));
  doc_.selection().watch(Selection::kWhere, this, [this] { update(); });
  connect(&doc_.seamDesk(), &SeamDesk::measured, this, qOverload<>(&QWidget::update));
  connect(&Theme::get(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

const Clip* SeamBench::seam() const {
  if (doc_.transport().original()) return nullptr;
  const auto* later = doc_.selection().seamClip();
  if (!later) later = first();
  const auto straight = [](const Clip& c) { return !c.reversed && c.extras->ofItsTake(); };
  return later && straight(*later) && straight(*(later - 1)) ? later : nullptr;
}

/// The active set's seam that needs most a look; where none does, its first one.
const Clip* SeamBench::first() const {
  const auto* set = doc_.song().find(doc_.selection().set());
  if (!set) return nullptr;
  const auto& clips = *set->clips;
  const auto seamWhere = [&](const auto& holds) -> const Clip* {
    for (std::size_t i = 1; i < clips.size(); ++i)
      if (isSeam(clips, i) && holds(clips[i])) return &clips[i];
    return nullptr;
  };
  for (const auto& check : doc_.attention().checks())
    if (check.set == set->id && groupOf(check.kind) == CheckGroup::seams)
      if (const auto* clip = seamWhere([&](const Clip& c) { return c.piece && c.piece->hit == check.hit; }))
        return clip;
  return seamWhere([](const Clip&) { return true; });
}

/// The mic where the level is furthest off; the set's first when nothing is measured.
TrackId SeamBench::worst(const Clip& later) const {
  const auto* set = doc_.song().setOf(later.id);
  if (const auto* m = doc_.seamDesk().measureOf(later.id); m && m->worst) return m->worst;
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
                   : tr("There is no seam yet. Turn the timing plan on, or split a clip: what goes, what comes and how "
                        "the level holds is seen here."));
    return;
  }
  const QRectF plot(micNames(), kTop, width() - micNames() - kSide, height() - kTop - kFoot);
  constexpr double kAround = 1.25;  // a long crossfade is seen whole
  const auto seamMs = msFromFrames(std::max(later->seam.before, later->seam.after), doc_.song().rate);
  const double half = std::max(halfMs_, kAround * seamMs);
  SeamLoupe(doc_, plot, later->start, 2 * half * doc_.song().rate / 1000 / plot.width())
      .paint(p, doc_.selection().seamClip() ? tr("Seam") : tr("The one to look at first"), *later,
             every_->isChecked() ? TrackId{} : worst(*later));
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

std::vector<ReadItem> SeamBench::readItems() const {
  const auto* later = seam();
  if (!later) return {};
  return {{seamWords(doc_.song(), *later, doc_.seamDesk().measureOf(later->id)), QRectF(rect())}};
}

}  // namespace ochron
