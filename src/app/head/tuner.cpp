#include "head/tuner.h"

#include <QPainter>
#include <algorithm>
#include <cmath>

#include "analysis/pitch/pitch.h"
#include "document/selection.h"
#include "document/sounding.h"
#include "document/transport.h"
#include "document/wording.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr const char* kSlot = "tuner";
constexpr int kWide = 132;
constexpr int kHigh = 34;
constexpr int kOftenMs = 90;
constexpr double kBefore = 0.09;  // s
constexpr double kAfter = 0.03;
constexpr int kPatience = 4;   // readings without a pitch until the last one is forgotten
constexpr double kInTune = 5;  // cents

}  // namespace

Tuner::Tuner(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  setObjectName("tuner");
  setAccessibleName(tr("Tuner"));
  setToolTip(tr("The note that the chosen track sounds at the play line, and how many cents it is off"));
  setFixedSize(kWide, kHigh);
  connect(&Theme::get(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void Tuner::listen(Frames at) {
  if ((last_.isValid() && last_.elapsed() < kOftenMs) || doc_.jobs().runs(kSlot)) return;
  last_.start();
  const auto plan = doc_.sounding().playPlan();
  const auto* set = doc_.song().find(doc_.selection().set());
  if (!plan || !set || set->tracks.empty() || !isVisible()) return;
  const bool inSet = std::find(set->tracks.begin(), set->tracks.end(), doc_.selection().track()) != set->tracks.end();
  const auto track = inSet ? doc_.selection().track() : set->tracks.front();
  doc_.jobs().start(
      {},
      [this, plan, track, at, original = doc_.transport().original(),
       rate = doc_.song().rate](Progress&) -> Jobs::Finish {
        const auto& version = original ? plan->original : plan->edited;
        const auto found = std::find_if(version.tracks.begin(), version.tracks.end(),
                                        [&](const TrackPlan& t) { return t.track == track; });
        if (found == version.tracks.end()) return {};
        std::vector<float> sound(static_cast<std::size_t>((kBefore + kAfter) * rate), 0.0F);
        addTrack(*found, 0, at - Frames{std::llround(kBefore * rate)}, sound);
        const auto hertz = pitchOfMoment(sound, rate);
        return [this, cents = hertz ? std::optional(centsOf(*hertz)) : std::nullopt] { show(cents); };
      },
      kSlot, Jobs::Scope::song, Jobs::Kind::follow);
}

void Tuner::show(std::optional<double> cents) {
  missed_ = cents ? 0 : missed_ + 1;
  if (!cents && missed_ < kPatience) return;
  if (cents == heard_) return;
  heard_ = cents;
  update();
}

std::optional<Tuner::Reading> Tuner::reading() const {
  if (!heard_) return {};
  const auto* set = doc_.song().find(doc_.selection().set());
  const auto tuning = set ? set->pitch->settings.scale : chromaticScale();
  const double semitones = (*heard_ - centsOf(tuning.reference)) / 100;
  const double off = 100 * (semitones - std::round(semitones));
  return Reading{off, pitchName(*heard_ - off, tuning)};
}

std::vector<ReadItem> Tuner::readItems() const {
  const auto heard = reading();
  if (!heard) return {{tr("no note"), rect(), false, {}}};
  const auto cents = static_cast<std::size_t>(std::lround(std::abs(heard->off)));
  const auto words = heard->off > 0 ? tr("%1, %2 sharp") : tr("%1, %2 flat");
  return {{cents == 0 ? tr("%1, in tune").arg(heard->name) : words.arg(heard->name, counted(cents, "cent", "cents")),
           rect(),
           false,
           {}}};
}

void Tuner::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  p.setFont(theme.font(10.5));
  p.setPen(sheet.note);
  p.drawText(QPointF(0, 11), tr("tuner"));
  const QRectF scale(46, 21, width() - 52.0, 5);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  p.setBrush(sheet.hairline);
  p.drawRoundedRect(scale, 2.5, 2.5);
  p.setBrush(sheet.rule);
  p.drawRect(QRectF(scale.center().x() - 0.5, scale.top() - 3, 1, scale.height() + 6));
  const auto heard = reading();
  if (!heard) {
    p.setFont(theme.font(13.5, 600));
    p.setPen(sheet.note);
    p.drawText(QPointF(0, 28), QStringLiteral("\u2013"));
    return;
  }
  const double off = heard->off;
  p.setFont(theme.font(13.5, 600));
  p.setPen(sheet.ink);
  p.drawText(QPointF(0, 28), heard->name);
  const auto tone = std::abs(off) <= kInTune ? sheet.selection : off < 0 ? sheet.early : sheet.late;
  const double x = scale.center().x() + off / 50 * scale.width() / 2;
  p.setPen(Qt::NoPen);
  p.setBrush(tone);
  p.drawRoundedRect(QRectF(x - 2, scale.top() - 4, 4, scale.height() + 8), 2, 2);
  p.setFont(theme.font(10.5, 500));
  p.setPen(tone);
  p.drawText(QRectF(scale.left(), 0, scale.width(), 14), Qt::AlignRight | Qt::AlignVCenter,
             tr("%1%2 c")
                 .arg(off < -0.5  ? QStringLiteral("\u2212")
                      : off > 0.5 ? QStringLiteral("+")
                                  : QString())
                 .arg(std::lround(std::abs(off))));
}

}  // namespace ochron
