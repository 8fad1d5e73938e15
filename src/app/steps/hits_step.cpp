#include "steps/hits_step.h"

#include <QCheckBox>
#include <QGridLayout>
#include <QSignalBlocker>
#include <algorithm>

#include "actions/actions.h"
#include "document/wording.h"
#include "theme/theme.h"

namespace ochron {

HitsStep::HitsStep(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(46, 0, 16, 14);
  column->setSpacing(7);
  auto* heading = new QLabel(tr("Listen to"), this);
  heading->setProperty("note", true);
  column->addWidget(heading);
  guides_ = new QVBoxLayout;
  guides_->setSpacing(3);
  column->addLayout(guides_);
  find_ = new QPushButton(tr("Find hits"), this);
  find_->setProperty("primary", true);
  find_->setObjectName("find hits");
  connect(find_, &QPushButton::clicked, this, [this] { Actions::of(this)->trigger("hits.find"); });
  column->addWidget(find_);
  sensitivity_ = new SettingControl(tr("Sensitivity"), kSensitivityRange, {}, this);
  sensitivity_->setHint(tr("how much counts as a hit"));
  connect(sensitivity_, &SettingControl::changed, this, [this](double v) {
    const auto* set = doc_.song().find(doc_.activeSet());
    if (!set) return;
    auto s = set->hits;
    s.sensitivity = v;
    doc_.setHitSettingsLive(s, "sensitivity");
  });
  connect(sensitivity_, &SettingControl::released, &doc_, &Document::endGesture);
  column->addWidget(sensitivity_);
  auto* grid = new QGridLayout;
  spacing_ = numberField(kMinSpacingRange, tr("Minimum spacing"), this);
  grid->addWidget(new QLabel(tr("At least apart"), this), 0, 0);
  grid->addWidget(spacing_, 0, 1);
  connect(spacing_, &QDoubleSpinBox::valueChanged, this, [this](double v) {
    const auto* set = doc_.song().find(doc_.activeSet());
    if (!set) return;
    auto s = set->hits;
    s.minSpacingMs = v;
    doc_.setHitSettingsLive(s);
  });
  column->addLayout(grid);
  count_ = new QLabel(this);
  count_->setWordWrap(true);
  column->addWidget(count_);
  remove_ = new QPushButton(tr("Remove this hit"), this);
  remove_->setObjectName("remove hit");
  connect(remove_, &QPushButton::clicked, this, [this] { Actions::of(this)->trigger("hits.remove"); });
  column->addWidget(remove_);
  auto* hint = new QLabel(tr("Double-click on a lane to add a hit. Drag the onset in the loupe to correct one."), this);
  hint->setProperty("note", true);
  hint->setWordWrap(true);
  column->addWidget(hint);
  for (auto signal : {&Document::songChanged, &Document::selectionChanged})
    connect(&doc_, signal, this, &HitsStep::refresh);
  refresh();
}

void HitsStep::rebuildGuides() {
  const auto* set = doc_.song().find(doc_.activeSet());
  while (auto* item = guides_->takeAt(0)) {
    item->widget()->deleteLater();
    delete item;
  }
  if (!set) return;
  for (auto id : set->tracks) {
    auto* box = new QCheckBox(QString::fromStdString(doc_.song().find(id)->name), this);
    box->setProperty("track", QVariant::fromValue<qulonglong>(id.value));
    connect(box, &QCheckBox::clicked, this, [this, id](bool on) {
      const auto* s = doc_.song().find(doc_.activeSet());
      std::vector<TrackId> guides;
      for (auto t : s->tracks)
        if (t == id ? on : doc_.song().find(t)->guide) guides.push_back(t);
      if (doc_.edit(tr("Change guides"), setGuides(doc_.song(), s->id, guides)) && !guides.empty())
        doc_.findHits(s->id);
    });
    guides_->addWidget(box);
  }
}

void HitsStep::refresh() {
  const auto* set = doc_.song().find(doc_.activeSet());
  if (shownSet_ != doc_.activeSet() || guides_->count() != (set ? static_cast<int>(set->tracks.size()) : 0)) {
    shownSet_ = doc_.activeSet();
    rebuildGuides();
  }
  for (int i = 0; i < guides_->count(); ++i)
    if (auto* box = qobject_cast<QCheckBox*>(guides_->itemAt(i)->widget()))
      if (const auto* t = doc_.song().find(TrackId{box->property("track").toULongLong()}))
        box->setChecked(t->guide), box->setText(QString::fromStdString(t->name));
  find_->setEnabled(set != nullptr);
  sensitivity_->setEnabled(set != nullptr);
  remove_->setEnabled(doc_.currentHit().has_value());
  if (!set) return count_->setText(tr("Import recordings first."));
  sensitivity_->show(set->hits.sensitivity);
  const QSignalBlocker quiet(spacing_);
  spacing_->setValue(set->hits.minSpacingMs);
  std::array<int, kDrumClassNames.size()> counts{};
  for (const auto& h : doc_.planned().hits) ++counts[static_cast<std::size_t>(h.hit.drum)];
  QStringList parts;
  for (std::size_t i = 0; i < counts.size(); ++i)
    if (counts[i] > 0)
      parts << QStringLiteral("%1 %2").arg(counts[i]).arg(QString::fromUtf8(kDrumClassNames[i].data()));
  count_->setText(parts.isEmpty() ? tr("No hits yet.")
                                  : counted(doc_.planned().hits.size(), "hit: ", "hits: ") + parts.join(", "));
}

}  // namespace ochron
