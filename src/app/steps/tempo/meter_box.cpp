#include "steps/tempo/meter_box.h"

#include <QHBoxLayout>
#include <QLineEdit>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>

#include "document/transport.h"
#include "edits/tempo_edits.h"
#include "panel/controls.h"
#include "seams/apply_plan.h"
#include "theme/theme.h"

namespace ochron {
namespace {

QString textOf(const Meter& m) { return QStringLiteral("%1/%2").arg(m.beats).arg(m.unit); }

}  // namespace

MeterBox::MeterBox(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(6);
  auto* line = new QHBoxLayout;
  line->setSpacing(6);
  where_ = new QLabel(this);
  line->addWidget(where_, 1);
  meter_ = new QComboBox(this);
  meter_->setObjectName("meter");
  meter_->setAccessibleName(tr("Meter"));
  meter_->setEditable(true);
  meter_->setInsertPolicy(QComboBox::NoInsert);
  meter_->addItems({"4/4", "3/4", "2/4", "5/4", "6/8", "7/8", "9/8", "12/8"});
  fixWidth(*meter_, 78);
  line->addWidget(meter_);
  column->addLayout(line);
  auto* buttons = new QHBoxLayout;
  buttons->setSpacing(6);
  const auto button = [&](const QString& text, const char* name, const QString& tip, bool alone) {
    auto* b = new QPushButton(text, this);
    b->setObjectName(name);
    b->setProperty("small", true);
    b->setToolTip(tip);
    connect(b, &QPushButton::clicked, this, [this, alone] { set(alone); });
    buttons->addWidget(b, 1);
  };
  button(tr("From here on"), "meter from here", tr("Nothing that sounds moves, only the bar lines that follow do"),
         false);
  button(tr("This bar"), "meter of bar", tr("A half bar, a pick-up: only this bar has another meter"), true);
  column->addLayout(buttons);
  for (auto signal : {&Document::songChanged, &Document::transportChanged})
    connect(&doc_, signal, this, &MeterBox::refresh);
  refresh();
}

int MeterBox::bar() const {
  const auto& map = doc_.song().tempo;
  return std::max(0, map.barAt(doc_.transport().cursor() + Frames{1}));  // a bar line lies between two frames
}

void MeterBox::refresh() {
  where_->setText(tr("Bar %1").arg(bar() + 1));
  if (meter_->lineEdit()->hasFocus() && shown_ == bar()) return;
  shown_ = bar();
  const QSignalBlocker quiet(meter_);
  meter_->setCurrentText(textOf(doc_.song().tempo.meterOfBar(bar())));
}

void MeterBox::set(bool alone) {
  const auto parts = meter_->currentText().split('/');
  bool beats = false;
  bool unit = false;
  Meter meter;
  if (parts.size() == 2) {
    meter.beats = parts[0].trimmed().toInt(&beats);
    meter.unit = parts[1].trimmed().toInt(&unit);
  }
  if (!beats || !unit) return doc_.tell(tr("Write a meter as beats and unit, such as 7/8."));
  const auto text = textOf(meter);
  doc_.edit(alone ? tr("Bar %1 in %2").arg(bar() + 1).arg(text) : tr("%1 from bar %2 on").arg(text).arg(bar() + 1),
            setMeter(doc_.song(), bar(), meter, alone));
}

}  // namespace ochron
