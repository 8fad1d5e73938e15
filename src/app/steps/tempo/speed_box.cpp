#include "steps/tempo/speed_box.h"

#include <QHBoxLayout>
#include <QSignalBlocker>
#include <QVBoxLayout>

#include "document/fresh.h"
#include "document/selection.h"
#include "document/transport.h"
#include "edits/speed_edits.h"
#include "panel/choice.h"
#include "panel/controls.h"
#include "theme/theme.h"

namespace ochron {

SpeedBox::SpeedBox(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(6);
  for_ = noteLabel({}, this);
  column->addWidget(for_);
  auto* line = new QHBoxLayout;
  line->setSpacing(6);
  value_ = new NumberBox(this);
  value_->setObjectName("song speed");
  value_->setAccessibleName(tr("Song speed"));
  value_->setDecimals(2);
  value_->setKeyboardTracking(false);
  fixWidth(*value_, 80);
  unit_ = new QComboBox(this);
  unit_->setObjectName("speed unit");
  unit_->setAccessibleName(tr("Unit of the song speed"));
  addChoices<SpeedUnit>(*unit_, kSpeedUnitNames);
  unit_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  unit_->setMinimumContentsLength(4);
  line->addWidget(value_);
  line->addWidget(unit_, 1);
  column->addLayout(line);
  pitch_ = new QComboBox(this);
  pitch_->setObjectName("speed pitch");
  pitch_->setAccessibleName(tr("Pitch at another speed"));
  pitch_->addItems({tr("Pitch goes along"), tr("Pitch stays")});
  pitch_->setItemData(0, tr("As a tape that runs faster or slower"), Qt::ToolTipRole);
  pitch_->setItemData(1, tr("Only the speed changes; exports are made at full quality, which takes longer"),
                      Qt::ToolTipRole);
  column->addWidget(pitch_);
  exported_ = new QCheckBox(tr("Exports run so, too"), this);
  exported_->setObjectName("speed exported");
  exported_->setToolTip(tr("Off: only heard here. So that a speed is never applied twice"));
  column->addWidget(exported_);
  connect(value_, &QDoubleSpinBox::valueChanged, this, &SpeedBox::typed);
  connect(unit_, &QComboBox::activated, this, &SpeedBox::refresh);
  connect(pitch_, &QComboBox::activated, this, [this](int i) {
    auto m = doc_.song().speedManner;
    m.keepsPitch = i == 1;
    doc_.edit(i == 1 ? tr("Song speed without pitch") : tr("Song speed with pitch"), setSpeedManner(doc_.song(), m));
  });
  connect(exported_, &QCheckBox::clicked, this, [this](bool on) {
    auto m = doc_.song().speedManner;
    m.exported = on;
    doc_.edit(on ? tr("Export at the song speed") : tr("Export as recorded"), setSpeedManner(doc_.song(), m));
  });
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->on(&doc_, &Document::songChanged)
      .on(doc_.selection(), Selection::kWhere)
      .on(&doc_, &Document::transportChanged);
  refresh();
}

double SpeedBox::percentHere() const {
  const auto at = doc_.selection().range().empty() ? doc_.transport().cursor() : doc_.selection().range().start;
  return valueAt(*doc_.song().speedEnvelope, at, kSpeedRange.fallback);
}

double SpeedBox::bpmHere() const {
  const auto& map = doc_.song().tempo;
  return map.bpmAt(
      map.toTicks(doc_.selection().range().empty() ? doc_.transport().cursor() : doc_.selection().range().start));
}

void SpeedBox::typed(double value) {
  const auto percent = percentOf(choiceIn<SpeedUnit>(*unit_), value, bpmHere());
  doc_.edit(doc_.selection().range().empty() ? tr("Song speed %1 %").arg(percent, 0, 'f', 1)
                                             : tr("Speed of the range %1 %").arg(percent, 0, 'f', 1),
            setSongSpeed(doc_.song(), percent, doc_.selection().range()));
}

void SpeedBox::refresh() {
  const QSignalBlocker a(value_);
  const auto unit = choiceIn<SpeedUnit>(*unit_);
  const double bpm = bpmHere();
  value_->setRange(speedIn(unit, kSpeedRange.low, bpm), speedIn(unit, kSpeedRange.high, bpm));
  value_->setSingleStep(unit == SpeedUnit::cents || unit == SpeedUnit::percent ? 1 : 0.5);
  value_->setValue(speedIn(unit, percentHere(), bpm));
  const auto& manner = doc_.song().speedManner;
  pitch_->setCurrentIndex(manner.keepsPitch ? 1 : 0);
  exported_->setChecked(manner.exported);
  for_->setText(doc_.selection().range().empty() ? tr("Of the whole song") : tr("Of the chosen range"));
}

}  // namespace ochron
