#include "steps/hits/hits_step.h"

#include <QCheckBox>
#include <QGridLayout>
#include <QSignalBlocker>
#include <QTimer>
#include <algorithm>
#include <cstdlib>

#include "actions/actions.h"
#include "document/fresh.h"
#include "document/hit_desk.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "edits/track_edits.h"
#include "panel/controls.h"
#include "steps/hits/hit_table_view.h"
#include "theme/theme.h"

namespace ochron {

HitsStep::HitsStep(Document& document, QWidget* parent) : StepPage(document, parent) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 0, 16, 14);
  column->setSpacing(7);
  column->addWidget(noteLabel(tr("Listen to, weight, \u00b1 sensitivity"), this));
  guides_ = new QVBoxLayout;
  guides_->setSpacing(1);
  column->addLayout(guides_);
  find_ = new QPushButton(tr("Find hits"), this);
  find_->setProperty("primary", true);
  find_->setObjectName("find hits");
  Actions::bind(find_, "hits.find");
  column->addWidget(find_);
  const auto& sensitivity = settingOf(kHitNumbers, &HitSettings::sensitivity);
  sensitivity_ = new SettingControl(tr("Sensitivity"), sensitivity.range, {}, this);
  sensitivity_->setHint(tr(std::string(sensitivity.help).c_str()));
  connect(sensitivity_, &SettingControl::changed, this, [this](double v) {
    const auto* set = doc_.song().find(doc_.selection().set());
    if (!set) return;
    auto s = set->hits;
    s.sensitivity = v;
    doc_.hitDesk().setSettings(s, "sensitivity");
  });
  connect(sensitivity_, &SettingControl::held, &doc_.hitDesk(), &HitDesk::showThreshold);
  connect(sensitivity_, &SettingControl::held, &doc_, holdingWhile(doc_));
  connect(sensitivity_, &SettingControl::held, this, [this](bool down) {
    heldFrom_ = down ? std::optional(strokes()) : std::nullopt;
    refresh();
  });
  column->addWidget(sensitivity_);
  auto* grid = new QGridLayout;
  const auto& spacing = settingOf(kHitNumbers, &HitSettings::minSpacingMs);
  spacing_ = numberField(spacing.range, tr("Minimum spacing"), this);
  spacing_->setToolTip(tr(std::string(spacing.help).c_str()));
  grid->addWidget(new QLabel(tr("At least apart"), this), 0, 0);
  grid->addWidget(spacing_, 0, 1);
  connect(spacing_, &QDoubleSpinBox::valueChanged, this, [this](double v) {
    const auto* set = doc_.song().find(doc_.selection().set());
    if (!set) return;
    auto s = set->hits;
    s.minSpacingMs = v;
    doc_.hitDesk().setSettings(s);
  });
  column->addLayout(grid);
  count_ = new QLabel(this);
  count_->setObjectName("stroke counts");
  count_->setWordWrap(true);
  column->addWidget(count_);
  remove_ = new QPushButton(tr("Remove this hit"), this);
  remove_->setObjectName("remove hit");
  Actions::bind(remove_, "hits.remove");
  column->addWidget(remove_);
  hear_ = new QCheckBox(tr("Hear hits while stepping"), this);
  hear_->setObjectName("hear while stepping");
  click_ = new QCheckBox(tr("With the click"), this);
  click_->setObjectName("hear with click");
  for (auto* box : {hear_, click_}) {
    column->addWidget(box);
    connect(box, &QCheckBox::clicked, this, [this] {
      auto h = doc_.transport().hearing();
      h.whileStepping = hear_->isChecked();
      h.click = click_->isChecked();
      doc_.transport().setHearing(h);
    });
  }
  auto* hint = new QLabel(
      tr("Double-click on a lane to add a hit. In the loupe, drag the onset to correct it, or double-click a mic to "
         "set it from there."),
      this);
  hint->setProperty("note", true);
  hint->setWordWrap(true);
  column->addWidget(hint);
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->onSong(doc_).on(doc_.selection(), Selection::kWhere).on(&doc_, &Document::transportChanged);
  refresh();
}

void HitsStep::rebuildGuides() {
  constexpr int kGuideRow = 26;  // with and without fields
  const auto* set = doc_.song().find(doc_.selection().set());
  rows_.clear();
  while (auto* item = guides_->takeAt(0)) {
    item->widget()->deleteLater();
    delete item;
  }
  if (!set) return;
  for (auto id : set->tracks) {
    auto* line = new QWidget(this);
    auto* inside = new QHBoxLayout(line);
    inside->setContentsMargins(0, 0, 0, 0);
    inside->setSpacing(2);
    line->setMinimumHeight(kGuideRow);
    GuideRow row;
    row.track = id;
    row.on = new QCheckBox(QString::fromStdString(doc_.song().find(id)->name), line);
    row.on->setProperty("track", QVariant::fromValue<qulonglong>(id.value));
    inside->addWidget(row.on, 1);
    connect(row.on, &QCheckBox::clicked, this, [this, id](bool on) {
      const auto* s = doc_.song().find(doc_.selection().set());
      std::vector<TrackId> guides;
      for (auto t : s->tracks)
        if (t == id ? on : doc_.song().find(t)->guide) guides.push_back(t);
      if (doc_.edit(tr("Change guides"), setGuides(doc_.song(), s->id, guides)) && !guides.empty())
        doc_.hitDesk().find(s->id);
    });
    row.weight = guideField(&GuideSettings::weight, tr("Weight of %1").arg(row.on->text()), line);
    row.sensitivity = guideField(&GuideSettings::sensitivity, tr("Sensitivity of %1").arg(row.on->text()), line);
    for (auto* field : {row.weight, row.sensitivity}) {
      inside->addWidget(field);
      connect(field, &QDoubleSpinBox::valueChanged, this, [this, row] {
        auto s = doc_.song().find(doc_.selection().set())->hits;
        const GuideSettings g{row.weight->value(), row.sensitivity->value()};
        if (g == GuideSettings{})
          s.guides.erase(row.track);
        else
          s.guides[row.track] = g;
        doc_.hitDesk().setSettings(s);
        flashThreshold();
      });
    }
    rows_.push_back(row);
    guides_->addWidget(line);
  }
}

QDoubleSpinBox* HitsStep::guideField(double GuideSettings::*value, const QString& name, QWidget* parent) {
  const auto& setting = settingOf(kGuideNumbers, value);
  auto* field = numberField(setting.range, name, parent);
  field->setToolTip(tr(std::string(setting.help).c_str()));
  field->setButtonSymbols(QAbstractSpinBox::NoButtons);
  fixWidth(*field, 38);
  field->setSuffix({});
  return field;
}

/// After a typed change the threshold is seen for a moment.
void HitsStep::flashThreshold() {
  doc_.hitDesk().showThreshold(true);
  QTimer::singleShot(1500, this, [this] { doc_.hitDesk().showThreshold(false); });
}

void HitsStep::refresh() {
  const auto* set = doc_.song().find(doc_.selection().set());
  if (shownSet_ != doc_.selection().set() || guides_->count() != (set ? static_cast<int>(set->tracks.size()) : 0)) {
    shownSet_ = doc_.selection().set();
    rebuildGuides();
  }
  for (const auto& row : rows_) {
    const auto* t = doc_.song().find(row.track);
    if (!t || !set) continue;
    const QSignalBlocker w(row.weight), q(row.sensitivity);
    const auto settings = set->hits.guide(row.track);
    row.on->setChecked(t->guide);
    row.on->setText(QString::fromStdString(t->name));
    row.weight->setVisible(t->guide);
    row.sensitivity->setVisible(t->guide);
    row.weight->setValue(settings.weight);
    row.sensitivity->setValue(settings.sensitivity);
  }
  hear_->setChecked(doc_.transport().hearing().whileStepping);
  click_->setChecked(doc_.transport().hearing().click);
  find_->setEnabled(set != nullptr);
  sensitivity_->setEnabled(set != nullptr);
  remove_->setEnabled(doc_.selection().hit().has_value());
  if (!set) return count_->setText(tr("Import recordings first."));
  sensitivity_->show(set->hits.sensitivity);
  const QSignalBlocker quiet(spacing_);
  spacing_->setValue(set->hits.minSpacingMs);
  const auto counts = strokes();
  QStringList parts;
  for (std::size_t i = 0; i < counts.size(); ++i) {
    const int before = heldFrom_ ? (*heldFrom_)[i] : counts[i];
    if (counts[i] == 0 && before == 0) continue;
    auto part = QStringLiteral("%1 %2").arg(counts[i]).arg(drumName(static_cast<DrumClass>(i)));
    if (counts[i] != before)
      part += QStringLiteral(" (%1%2)").arg(counts[i] > before ? "+" : "\u2212").arg(std::abs(counts[i] - before));
    parts << part;
  }
  count_->setText(parts.isEmpty()
                      ? doc_.hitDesk().finding() ? tr("Finding hits \u2026") : tr("No hits yet.")
                      : counted(doc_.timingDesk().planned().hits.size(), "hit: ", "hits: ") + parts.join(", "));
}

HitsStep::Counts HitsStep::strokes() const {
  Counts counts{};
  for (const auto& h : doc_.timingDesk().planned().hits)
    for (const auto& s : strokesOf(h.hit)) ++counts[static_cast<std::size_t>(s.drum)];
  return counts;
}

QWidget* HitsStep::makeBench(ViewState&, QWidget* parent) { return new HitTableView(doc_, parent); }

StepState HitsStep::state() const {
  std::size_t all = 0;
  for (const auto& set : doc_.song().sets) all += doc_.timingDesk().plannedOf(set.id).hits.size();
  if (all == 0) return {tr("none yet"), tr("No hits found yet"), 0};
  const auto here = doc_.timingDesk().planned().hits.size();
  auto full = counted(all, "hit", "hits");
  if (here != all) full += tr(", %1 of them here").arg(here);
  return {QString::number(all), full, checksOf(CheckGroup::hits)};
}

}  // namespace ochron
