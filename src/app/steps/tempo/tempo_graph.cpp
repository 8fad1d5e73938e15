#include "steps/tempo/tempo_graph.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

#include "document/tempo_desk.h"
#include "document/thing_words.h"
#include "document/transport.h"
#include "document/wording.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr double kSameBpm = 0.05;  // as played and as the map has it
constexpr int kTitleHeight = 26;
constexpr double kLeastBpm = 4;  // BPM from the lowest to the highest line at least

double yOf(const QRectF& box, double bpm, double low, double high) {
  return box.bottom() - (bpm - low) / (high - low) * box.height();
}

}  // namespace

TempoGraph::TempoGraph(Document& document, ViewState& view, QWidget* parent) : Row(document, view, parent) {
  setMinimumHeight(110);
  setAccessibleName(tr("Tempo graph"));
  connect(&document.tempoDesk(), &TempoDesk::changed, this, qOverload<>(&QWidget::update));
}

QRectF TempoGraph::plot() const {
  return {static_cast<double>(kGutterWidth), static_cast<double>(kTitleHeight),
          static_cast<double>(width() - kGutterWidth), static_cast<double>(height() - kTitleHeight - 10)};
}

std::vector<TempoGraph::Played> TempoGraph::played() const {
  std::vector<Played> out;
  const auto& desk = doc_.tempoDesk();
  if (!desk.heard()) return out;
  const auto& heard = desk.heard()->tempo;
  const auto& downs = heard.downbeats;
  for (std::size_t i = 0; i + 1 < downs.size(); ++i) {
    const auto bar = heard.meterOfBar(static_cast<int>(i)).barLength();
    const double quarters = static_cast<double>(bar.value) / kTicksPerQuarter;
    out.push_back({{desk.heardFrame(downs[i]), desk.heardFrame(downs[i + 1])},
                   60 * quarters / std::max(1e-3, downs[i + 1] - downs[i])});
  }
  return out;
}

void TempoGraph::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  paintEmptyRow(p, tr("Tempo"));
  p.setPen(sheet.rule);
  p.drawLine(0, 0, width(), 0);
  const auto box = plot();
  const auto bars = played();
  const auto& map = doc_.song().tempo;
  double low = 1e9;
  double high = 0;
  const auto seen = view_.visible();
  const auto widen = [&](double bpm) { low = std::min(low, bpm), high = std::max(high, bpm); };
  for (const auto& b : bars)
    if (b.range.overlaps(seen)) widen(b.bpm);
  widen(map.bpmAt(map.toTicks(seen.start)));
  for (const auto& t : map.tempos())
    if (seen.contains(map.toFrames(t.at))) widen(t.bpm);
  const double span = std::max(kLeastBpm, high - low);
  const double middle = (low + high) / 2;
  low = middle - 0.62 * span;
  high = middle + 0.62 * span;
  p.setFont(theme.font(11));
  p.setPen(sheet.note);
  double after = kGutterWidth + 10;
  const auto say = [&](const QString& text, const QColor& colour, int weight) {
    p.setFont(theme.font(11, weight));
    p.setPen(colour);
    p.drawText(QPointF(after, 17), text);
    after += p.fontMetrics().horizontalAdvance(text) + 24;
  };
  if (bars.empty()) {
    say(tr("nothing heard yet"), sheet.note, 400);
  } else {
    const auto [slow, fast] =
        std::minmax_element(bars.begin(), bars.end(), [](auto& a, auto& b) { return a.bpm < b.bpm; });
    say(tr("as played: %1 \u2013 %2 BPM").arg(slow->bpm, 0, 'f', 1).arg(fast->bpm, 0, 'f', 1), sheet.note, 400);
  }
  const auto anchors = doc_.song().anchors->size();
  say(anchors == 0
          ? tr("map: %1").arg(counted(map.tempos().size(), "tempo", "tempos"))
          : tr("map: %1 through %2, every anchor within %3 ms")
                .arg(counted(map.tempos().size(), "tempo event", "tempo events"), counted(anchors, "anchor", "anchors"))
                .arg(std::ceil(10 * anchorsOffMs(doc_.song())) / 10, 0, 'f', 1),
      sheet.ink, 500);
  p.setClipRect(QRectF(0, box.top() - 6, width(), box.height() + 14));
  paintScale(p, box, low, high);
  p.setClipRect(box.adjusted(0, -6, 0, 8));
  paintRules(p, box.top(), box.bottom(), false);
  p.setRenderHint(QPainter::Antialiasing);
  // The trend: each bar with its neighbours, so that single bars do not hide where it goes.
  QPainterPath trend;
  for (std::size_t i = 0; i < bars.size(); ++i) {
    double all = 0;
    double sum = 0;
    for (std::size_t k = i >= 4 ? i - 4 : 0; k < std::min(bars.size(), i + 5); ++k) {
      const double d = static_cast<double>(k) - static_cast<double>(i);
      const double w = std::exp(-d * d / 8);
      all += w;
      sum += w * bars[k].bpm;
    }
    const QPointF at((view_.xOf(bars[i].range.start) + view_.xOf(bars[i].range.end)) / 2,
                     yOf(box, sum / all, low, high));
    i == 0 ? trend.moveTo(at) : trend.lineTo(at);
  }
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(sheet.inkSoft, 1.3));
  p.drawPath(trend);
  paintMap(p, box, low, high);
  for (const auto& b : bars) {
    const double x = (view_.xOf(b.range.start) + view_.xOf(b.range.end)) / 2;
    if (x < kGutterWidth - 8 || x > width() + 8) continue;
    const auto ticks = map.toTicks(Frames{(b.range.start.value + b.range.end.value) / 2});
    p.setBrush(sheet.paper);
    const double off = b.bpm - map.bpmAt(ticks);
    p.setPen(QPen(std::abs(off) < kSameBpm ? sheet.ink : off > 0 ? sheet.early : sheet.late, 1.4));
    p.drawEllipse(QPointF(x, yOf(box, b.bpm, low, high)), 3, 3);
  }
  paintPlayLine(p, box.top(), box.bottom());
}

void TempoGraph::paintScale(QPainter& p, const QRectF& box, double low, double high) const {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  double step = 1;
  for (const double s : {0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0})
    if (step = s; s / (high - low) * box.height() >= 26) break;
  p.setFont(theme.font(10.5));
  for (int k = static_cast<int>(std::ceil(low / step)); k * step <= high; ++k) {
    const double bpm = k * step;
    const double y = std::floor(yOf(box, bpm, low, high)) + 0.5;
    p.setPen(sheet.hairline);
    p.drawLine(QPointF(box.left(), y), QPointF(box.right(), y));
    p.setPen(sheet.note);
    p.drawText(QRectF(0, y - 8, kGutterWidth - 8, 16), Qt::AlignRight | Qt::AlignVCenter,
               QString::number(bpm, 'f', step < 1 ? 1 : 0));
  }
}

void TempoGraph::paintMap(QPainter& p, const QRectF& box, double low, double high) const {
  const auto& sheet = Theme::get().sheet();
  const auto& map = doc_.song().tempo;
  const auto& events = map.tempos();
  const auto seen = view_.visible();
  p.setPen(QPen(sheet.ink, 1.8));
  const auto xOf = [&](Frames f) { return std::clamp(view_.xOf(f), -50.0, width() + 50.0); };
  for (std::size_t i = 0; i < events.size(); ++i) {
    const auto from = i == 0 ? seen.start : map.toFrames(events[i].at);
    const auto to = i + 1 < events.size() ? map.toFrames(events[i + 1].at) : seen.end;
    if (to <= seen.start || from >= seen.end) continue;
    const bool ramp = events[i].ramp && i + 1 < events.size();
    // A ramp is straight in musical time: drawn through its middle it is a curve on the clock.
    const double end = ramp ? events[i + 1].bpm : events[i].bpm;
    const auto middle = ramp ? map.toFrames(events[i].at + (events[i + 1].at - events[i].at) / 2) : from;
    QPolygonF line;
    line << QPointF(xOf(from), yOf(box, events[i].bpm, low, high));
    if (ramp) line << QPointF(xOf(middle), yOf(box, (events[i].bpm + end) / 2, low, high));
    line << QPointF(xOf(to), yOf(box, end, low, high));
    p.drawPolyline(line);
  }
}

void TempoGraph::mousePressEvent(QMouseEvent* event) {
  setFocus();
  if (event->position().x() < kGutterWidth) return;
  const auto at = view_.frameAt(event->position().x());
  doc_.transport().setCursor(at);
  doc_.tempoDesk().setBar(doc_.song().tempo.barAt(at));
}

std::vector<ReadItem> TempoGraph::readItems() const {
  const auto& song = doc_.song();
  const auto box = plot();
  std::vector<ReadItem> out;
  const auto& tempos = song.tempo.tempos();
  for (std::size_t i = 0; i < tempos.size(); ++i) {
    const auto at = song.tempo.toFrames(tempos[i].at);
    const auto end = i + 1 < tempos.size() ? song.tempo.toFrames(tempos[i + 1].at) : song.end();
    out.push_back({tr("tempo %1 from %2%3")
                       .arg(tempos[i].bpm, 0, 'f', 2)
                       .arg(placeWords(song, at), tempos[i].ramp ? tr(", on its way to the next") : QString()),
                   QRectF(view_.xOf(at), box.top(), view_.xOf(end) - view_.xOf(at), box.height())});
  }
  for (const auto& p : played())
    out.push_back(
        {tr("played at %1, %2").arg(p.bpm, 0, 'f', 1).arg(placeWords(song, p.range.start)),
         QRectF(view_.xOf(p.range.start), box.top(), view_.xOf(p.range.end) - view_.xOf(p.range.start), box.height())});
  return out;
}

}  // namespace ochron
