#include "steps/print/loudness_view.h"

#include <QPainter>
#include <QPainterPath>

#include "actions/actions.h"
#include "document/fresh.h"
#include "document/print_desk.h"
#include "panel/bench.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr double kTop = 0;  // LUFS
constexpr double kBottom = -48;
constexpr int kStep = 12;
constexpr double kHead = 40;
constexpr double kScaleRoom = 30;

QString lufs(const std::optional<double>& v) { return v ? QString::number(*v, 'f', 1) : LoudnessView::tr("none"); }

}  // namespace

LoudnessView::LoudnessView(Document& document, std::function<ExportSettings()> settings, QWidget* parent)
    : QWidget(parent), doc_(document), settings_(std::move(settings)) {
  setObjectName("loudness view");
  measure_ = new QPushButton(tr("Measure"), this);
  measure_->setObjectName("measure loudness");
  measure_->setToolTip(tr("Listens to the whole mix of the range (EBU R 128)"));
  measure_->setProperty(kCommand, "print.measure");
  connect(measure_, &QPushButton::clicked, this,
          [this] { doc_.printDesk().measure(settings_().range, settings_().mono); });
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->on(&doc_.printDesk(), &PrintDesk::measured).on(&doc_, &Document::songChanged);
  refresh();
}

void LoudnessView::refresh() {
  setAccessibleName(tr("Loudness"));
  setAccessibleDescription(words());
  setToolTip(words());
  update();
}

void LoudnessView::resizeEvent(QResizeEvent*) {
  measure_->adjustSize();
  measure_->move(width() - measure_->width() - 4, 0);
}

QString LoudnessView::words() const {
  const auto* m = doc_.printDesk().loudness();
  if (!m) return tr("The mix has not been measured.");
  auto text =
      tr("%1 LUFS \u00b7 true peak %2 dB\nshort-term at most %3 \u00b7 range %4 LU")
          .arg(lufs(m->report.integrated), lufs(m->report.truePeak), lufs(m->report.shortTerm), lufs(m->report.range));
  if (m->song != doc_.version()) text += tr(" \u00b7 before the latest change");
  if (const auto asked = settings_().loudness)
    text += QStringLiteral("\n") + PrintDesk::wordsFor(toLoudness(m->report, *asked));
  return text;
}

void LoudnessView::paintEvent(QPaintEvent*) {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.setFont(theme.font(11));
  p.setPen(sheet.note);
  const auto* m = doc_.printDesk().loudness();
  const auto lines = words().split('\n');
  const int room = measure_->x() - 8;
  for (int i = 0; i < lines.size(); ++i)
    p.drawText(QRectF(0, i * 16, room, 18), Qt::AlignVCenter,
               p.fontMetrics().elidedText(lines[i], Qt::ElideRight, room));
  const QRectF box(kScaleRoom, kHead + 18, width() - kScaleRoom - 4, height() - kHead - 24);
  if (box.height() < 20) return;
  p.fillRect(box, sheet.paper);
  const auto yOf = [&](double level) {
    return box.top() + box.height() * std::clamp((kTop - level) / (kTop - kBottom), 0.0, 1.0);
  };
  p.setFont(theme.font(9.5));
  for (int level = 0; level >= static_cast<int>(kBottom); level -= kStep) {
    p.setPen(sheet.rule);
    p.drawLine(QPointF(box.left(), yOf(level)), QPointF(box.right(), yOf(level)));
    p.setPen(sheet.note);
    p.drawText(QRectF(0, yOf(level) - 7, kScaleRoom - 5, 14), Qt::AlignRight | Qt::AlignVCenter,
               QString::number(level).replace('-', QChar(0x2212)));
  }
  if (const auto asked = settings_().loudness) {
    p.setPen(QPen(sheet.late, 1.2, Qt::DashLine));
    p.drawLine(QPointF(box.left(), yOf(*asked)), QPointF(box.right(), yOf(*asked)));
  }
  if (!m || m->report.curve.size() < 2) return;
  const double seconds = std::max(0.1, m->report.curve.back().seconds);
  const auto line = [&](auto value) {
    QPainterPath path;
    bool down = false;
    for (const auto& point : m->report.curve) {
      const auto v = value(point);
      if (const QPointF at(box.left() + box.width() * point.seconds / seconds, yOf(v.value_or(kBottom))); v && down)
        path.lineTo(at);
      else
        path.moveTo(at);
      down = v.has_value();
    }
    return path;
  };
  auto soft = sheet.ink;
  soft.setAlphaF(0.3F);
  p.setPen(QPen(soft, 1));
  p.drawPath(line([](const LoudnessReport::Point& x) { return x.momentary; }));
  p.setPen(QPen(sheet.selection, 1.8));
  p.drawPath(line([](const LoudnessReport::Point& x) { return x.shortTerm; }));
}

}  // namespace ochron
