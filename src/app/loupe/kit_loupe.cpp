#include "loupe/kit_loupe.h"

#include <QPainterPath>
#include <algorithm>
#include <array>
#include <cmath>

#include "document/kit_desk.h"
#include "document/sounding.h"
#include "document/transport.h"
#include "dsp/fft.h"
#include "loupe/loupe_view.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr double kStrokeHead = 72;
constexpr double kBandRoom = 40;
constexpr double kLeadShare = 0.2;  // of what is shown lies before the attack
constexpr int kBandFft = 2048;

struct BandName {
  double from, to;
  const char* name;
};
constexpr std::array<BandName, 3> kBands{{{30, 250, "low"}, {250, 2'500, "middle"}, {2'500, 16'000, "high"}}};

/// Power in three bands of the first frames from a place on.
std::array<double, 3> bandsOf(const std::vector<float>& x, std::size_t from, int rate) {
  RealFft fft(kBandFft);
  auto in = fft.time();
  for (std::size_t i = 0; i < in.size(); ++i) in[i] = from + i < x.size() ? x[from + i] : 0.0F;
  fft.forward();
  std::array<double, 3> out{};
  const auto bins = fft.bins();
  for (std::size_t b = 1; b < bins.size(); ++b) {
    const double hz = static_cast<double>(b) * rate / kBandFft;
    for (std::size_t i = 0; i < kBands.size(); ++i)
      if (hz >= kBands[i].from && hz < kBands[i].to) out[i] += static_cast<double>(std::norm(bins[b]));
  }
  return out;
}

QString signedDb(double db) {
  return QStringLiteral("%1%2")
      .arg(db < 0 ? QStringLiteral("\u2212") : QStringLiteral("+"))
      .arg(std::abs(db), 0, 'f', 1);
}

}  // namespace

/// A layer's sound as it plays; null until the song with it is compiled.
const PlayedSound* KitLoupe::playedNow(TrackId track, std::size_t sound) const {
  const auto plan = doc_.sounding().playPlan();
  if (!plan) return nullptr;
  for (const auto& t : plan->edited.tracks)
    if (t.track == track && t.played && sound < t.played->size()) return &(*t.played)[sound];
  return nullptr;
}

void KitLoupe::paint(QPainter& p) const {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  auto& desk = doc_.kitDesk();
  const auto* layer = desk.layer();
  const auto* stroke = desk.stroke();
  const auto& song = doc_.song();
  const auto& all = desk.strokesOf(layer->id);
  const auto& sound = layer->sounds->sounds[stroke->sound];
  p.setRenderHint(QPainter::Antialiasing);
  p.setFont(theme.font(13, 600));
  p.setPen(sheet.ink);
  const auto title = QString::fromStdString(layer->name);
  p.drawText(QPointF(14, 22), p.fontMetrics().elidedText(title, Qt::ElideRight, static_cast<int>(box_.width() - 150)));
  p.setFont(theme.font(12));
  p.setPen(sheet.note);
  p.drawText(QRectF(0, 10, box_.width() - 14, 16), Qt::AlignRight | Qt::AlignVCenter,
             LoupeView::tr("%1 of %2").arg(stroke - all.data() + 1).arg(all.size()));
  p.setPen(sheet.selection);
  p.setFont(theme.font(12, 500));
  p.drawText(QPointF(14, 40), LoupeView::tr("strength %1 \u00b7 sound %2 of %3")
                                  .arg(stroke->strength, 0, 'f', 2)
                                  .arg(stroke->sound + 1)
                                  .arg(layer->sounds->sounds.size()));
  p.setPen(sheet.note);
  p.setFont(theme.font(11));
  const auto lag = sound.lag.value;
  p.drawText(QPointF(14, 57),
             LoupeView::tr("%1 \u00b7 %2 \u00b7 %3 dB")
                 .arg(lag == 0 ? LoupeView::tr("attack on attack")
                               : LoupeView::tr("%1 samples %2")
                                     .arg(std::abs(lag))
                                     .arg(lag > 0 ? LoupeView::tr("later") : LoupeView::tr("earlier")),
                      stroke->turned ? LoupeView::tr("polarity turned") : LoupeView::tr("polarity as it is"))
                 .arg(stroke->gainDb, 0, 'f', 1));
  const auto shown = std::max<std::int64_t>(64, framesFromMs(2 * halfMs_, song.rate).value);
  const auto lead = static_cast<std::int64_t>(kLeadShare * static_cast<double>(shown));
  const auto n = static_cast<std::size_t>(shown + kBandFft);
  std::vector<float> mic(n, 0.0F);
  std::vector<float> played(n, 0.0F);
  QString micName = LoupeView::tr("mic");
  if (const auto* heard = song.micOf(stroke->take, layer->heard->mic)) {
    micName = QString::fromStdString(song.find(layer->heard->mic)->name);
    const auto media = doc_.pool().find(heard->media);
    if (media != doc_.pool().end()) {
      media->second->channel(0).readAround((stroke->inTake - heard->offset).value - lead, mic);
    }
  }
  if (const auto* made = playedNow(layer->track, stroke->sound); made && stroke->heard && !made->channels.empty()) {
    const auto gain = static_cast<float>(std::pow(10.0, stroke->gainDb / 20)) * (stroke->turned ? -1.0F : 1.0F);
    const auto begin = lead - made->attack.value + lag + framesFromMs(layer->settings.offsetMs, song.rate).value;
    Samples(made->channels.front()).readAround(-begin, played);
    for (auto& v : played) v *= gain;
  }
  std::vector<float> both(n);
  for (std::size_t i = 0; i < n; ++i) both[i] = mic[i] + played[i];
  const auto before = bandsOf(mic, static_cast<std::size_t>(lead), song.rate);
  const auto after = bandsOf(both, static_cast<std::size_t>(lead), song.rate);
  float peak = 1e-4F;
  for (std::size_t i = 0; i < static_cast<std::size_t>(shown); ++i)
    peak = std::max({peak, std::abs(mic[i]), std::abs(played[i]), std::abs(both[i])});
  for (auto* x : {&mic, &played, &both}) x->resize(static_cast<std::size_t>(shown));
  const double tall = (box_.height() - kStrokeHead - kBandRoom) / 3;
  const QRectF first(10, kStrokeHead, box_.width() - 20, tall - 4);
  const double attack = first.left() + kLeadShare * first.width();
  paintStrip(p, first, micName, mic, peak, sheet.ink);
  paintStrip(p, first.translated(0, tall), QString::fromStdString(sound.name), played, peak, sheet.selection);
  paintStrip(p, first.translated(0, 2 * tall), LoupeView::tr("both"), both, peak, sheet.ink);
  p.setPen(QPen(sheet.late, 1.4));
  p.drawLine(QPointF(attack, first.top() - 3), QPointF(attack, first.bottom() + 2 * tall + 3));
  p.setFont(theme.font(10.5));
  const double third = first.width() / 3;
  for (std::size_t i = 0; i < kBands.size(); ++i) {
    const double db = before[i] > 0 && after[i] > 0 ? 10 * std::log10(after[i] / before[i]) : 0;
    const QRectF cell(first.left() + static_cast<double>(i) * third, box_.height() - kBandRoom + 10, third, 22);
    p.setPen(db < -1 ? sheet.alarm : sheet.note);
    p.drawText(cell, Qt::AlignCenter, QStringLiteral("%1 %2 dB").arg(LoupeView::tr(kBands[i].name), signedDb(db)));
  }
}

void KitLoupe::paintStrip(QPainter& p, const QRectF& strip, const QString& name, const std::vector<float>& samples,
                          float peak, const QColor& ink) const {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  p.fillRect(strip, sheet.paper);
  const double middle = strip.center().y();
  const double scale = 0.46 * strip.height() / static_cast<double>(peak);
  QPainterPath path;
  const double step = static_cast<double>(samples.size()) / strip.width();
  // Of each pixel's samples the lowest and highest, so that nothing is left out.
  for (int x = 0; x < static_cast<int>(strip.width()); ++x) {
    const auto a = static_cast<std::size_t>(x * step);
    const auto b = std::min(samples.size(), std::max(a + 1, static_cast<std::size_t>((x + 1) * step)));
    if (a >= samples.size()) break;
    const auto [low, high] = std::minmax_element(samples.begin() + static_cast<std::ptrdiff_t>(a),
                                                 samples.begin() + static_cast<std::ptrdiff_t>(b));
    const double at = strip.left() + x;
    if (x == 0) path.moveTo(at, middle - static_cast<double>(samples[a]) * scale);
    path.lineTo(at, middle - static_cast<double>(*high) * scale);
    if (b > a + 1) path.lineTo(at, middle - static_cast<double>(*low) * scale);
  }
  p.setPen(QPen(ink, 1.2));
  p.setBrush(Qt::NoBrush);
  p.drawPath(path);
  p.setFont(theme.font(10.5));
  p.setPen(sheet.note);
  // At the right: the attack's line stands at the left.
  const auto room = static_cast<int>((1 - kLeadShare) * strip.width() - 14);
  p.drawText(strip.adjusted(5, 3, -5, 0), Qt::AlignRight | Qt::AlignTop,
             p.fontMetrics().elidedText(name, Qt::ElideRight, room));
}

}  // namespace ochron
