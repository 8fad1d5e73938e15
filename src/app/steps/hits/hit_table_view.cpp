#include "steps/hits/hit_table_view.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QItemSelectionModel>
#include <QKeyEvent>
#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>
#include <map>

#include "document/fresh.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "edits/hit_edits.h"
#include "panel/bench_table.h"
#include "panel/choice.h"
#include "panel/controls.h"
#include "panel/empty_note.h"
#include "theme/theme.h"

namespace ochron {

HitTableView::HitTableView(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  setAccessibleName(tr("Hit table"));
  model_ = new HitTableModel(document, this);
  filtered_ = new HitFilter(this);
  filtered_->setSourceModel(model_);
  filtered_->setSortRole(Qt::UserRole);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(14, 6, 14, 6);
  column->setSpacing(5);
  bars_ = new QBoxLayout(QBoxLayout::LeftToRight);
  bars_->setSpacing(8);
  auto* which = new QHBoxLayout;
  auto* bar = new QHBoxLayout;
  for (auto* line : {which, bar}) line->setSpacing(8);
  const auto note = [&](const QString& text) {
    auto* l = new QLabel(text, this);
    l->setProperty("note", true);
    bar->addWidget(l);
  };
  const auto combo = [&](const QString& name, const QString& all) {
    auto* box = new QComboBox(this);
    box->setObjectName(name);
    box->addItem(all);
    box->setSizeAdjustPolicy(QComboBox::AdjustToContents);
    which->addWidget(box);
    connect(box, &QComboBox::currentIndexChanged, this, &HitTableView::filter);
    return box;
  };
  drum_ = combo("table class", tr("every class"));
  addChoices<DrumClass>(*drum_, kDrumClassNames);
  guide_ = combo("table guide", tr("every guide"));
  const auto number = [&](const QString& name, const QString& said, double high, double start, const QString& suffix) {
    auto* box = new NumberBox(this);
    box->setObjectName(name);
    box->setAccessibleName(said);
    box->setDecimals(0);
    box->setRange(0, high);
    box->setValue(start);
    box->setSuffix(suffix);
    box->setKeyboardTracking(false);
    bar->addWidget(box);
    connect(box, &QDoubleSpinBox::valueChanged, this, &HitTableView::filter);
    return box;
  };
  note(tr("sure \u2264"));
  sure_ = number("table sure", tr("Only hits at most so sure"), 100, 100, " %");
  note(tr("moved \u2265"));
  move_ = number("table move", tr("Only hits moved at least so far"), 500, 0, " ms");
  count_ = new QLabel(this);
  count_->setProperty("note", true);
  bar->addWidget(count_);
  bar->addStretch(1);
  become_ = new QComboBox(this);
  become_->setObjectName("table become");
  become_->setAccessibleName(tr("Class of the chosen hits"));
  become_->addItem(tr("Change class to\u2026"));
  addChoices<DrumClass>(*become_, kDrumClassNames);
  bar->addWidget(become_);
  connect(become_, &QComboBox::activated, this, [this] {
    const bool asked = hasChoice(*become_);
    const auto drum = choiceIn<DrumClass>(*become_);
    become_->setCurrentIndex(0);
    if (!asked) return;
    std::map<TakeId, std::vector<HitId>> hits;
    for (const auto& h : selected()) hits[h.take].push_back(h.hit);
    Result<Song> next = doc_.song();
    for (const auto& [take, ids] : hits)
      if (next) next = setHitClass(*next, take, doc_.selection().set(), ids, drum);
    doc_.edit(tr("Change the class of %1").arg(counted(selected().size(), "hit", "hits")), next);
  });
  which->addStretch(1);
  bars_->addLayout(which);
  bars_->addLayout(bar, 1);
  column->addLayout(bars_);
  table_ = new QTableView(this);
  table_->setObjectName("hit table");
  table_->setAccessibleName(tr("Hits"));
  table_->setModel(filtered_);
  table_->setSortingEnabled(true);
  table_->sortByColumn(HitTableModel::place, Qt::AscendingOrder);
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setShowGrid(false);
  table_->setWordWrap(false);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->verticalHeader()->hide();
  growWithText(*table_);
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
  table_->horizontalHeader()->setHighlightSections(false);
  table_->setFrameShape(QFrame::NoFrame);
  column->addWidget(table_, 1);
  new EmptyNote(*table_, [this] {
    return filtered_->sourceModel()->rowCount() == 0 ? tr("Every hit is listed here once they are found")
                                                     : tr("No hit is like that");
  });
  connect(table_->selectionModel(), &QItemSelectionModel::currentRowChanged, this, [this](const QModelIndex& row) {
    if (following_ || !row.isValid()) return;
    const auto& h = model_->hit(filtered_->mapToSource(row).row());
    following_ = true;
    doc_.selection().chooseHit(HitRef{h.take, h.hit.id});
    doc_.transport().setCursor(h.now);
    if (doc_.transport().hearing().whileStepping) doc_.transport().hear();
    following_ = false;
  });
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->on(&doc_, &Document::songChanged);
  doc_.selection().watch(Selection::kWhere, this, [this] { follow(); });
  refresh();
}

void HitTableView::paintEvent(QPaintEvent*) {
  QPainter p(this);
  paintGround(p, *this, Theme::get().sheet().panel);
}

void HitTableView::resizeEvent(QResizeEvent*) {
  constexpr int kRoomForAll = 660;
  const bool narrow = width() < kRoomForAll;
  bars_->setDirection(narrow ? QBoxLayout::TopToBottom : QBoxLayout::LeftToRight);
  for (const int extra : {HitTableModel::strength, HitTableModel::before}) table_->setColumnHidden(extra, narrow);
}

std::vector<HitRef> HitTableView::selected() const {
  std::vector<HitRef> out;
  for (const auto& row : table_->selectionModel()->selectedRows()) {
    const auto& h = model_->hit(filtered_->mapToSource(row).row());
    out.push_back({h.take, h.hit.id});
  }
  return out;
}

void HitTableView::refresh() {
  following_ = true;
  const auto chosen = selected();
  filtered_->setRate(doc_.song().rate);
  model_->refresh();
  for (const auto& ref : chosen)
    if (const int row = model_->rowOf(ref); row >= 0)
      table_->selectionModel()->select(filtered_->mapFromSource(model_->index(row, 0)),
                                       QItemSelectionModel::Select | QItemSelectionModel::Rows);
  const auto* set = doc_.song().find(doc_.selection().set());
  const auto wanted = guide_->currentText();
  const QSignalBlocker quiet(guide_);
  while (guide_->count() > 1) guide_->removeItem(1);
  for (std::size_t i = 0; set && i < set->tracks.size(); ++i)
    if (const auto* t = doc_.song().find(set->tracks[i]); t->guide)
      guide_->addItem(QString::fromStdString(t->name), QVariant::fromValue<qulonglong>(t->id.value));
  guide_->setCurrentIndex(std::max(0, guide_->findText(wanted)));
  following_ = false;
  filter();
  follow();
}

void HitTableView::filter() {
  HitFilter::Want want;
  if (hasChoice(*drum_)) want.drum = choiceIn<DrumClass>(*drum_);
  if (guide_->currentIndex() > 0) want.guide = TrackId{guide_->currentData().toULongLong()};
  want.confidenceAtMost = sure_->value() / 100;
  want.moveAtLeastMs = move_->value();
  filtered_->want(want);
  count_->setText(tr("%1 of %2").arg(filtered_->rowCount()).arg(model_->rowCount()));
}

void HitTableView::follow() {
  const auto hit = doc_.selection().hit();
  if (following_ || !isVisible() || !hit) return;
  const int row = model_->rowOf(*hit);
  if (row < 0) return;
  following_ = true;
  const auto index = filtered_->mapFromSource(model_->index(row, 0));
  if (index.isValid()) table_->setCurrentIndex(index);
  following_ = false;
}

void HitTableView::keyPressEvent(QKeyEvent* event) {
  if (event->key() != Qt::Key_Delete) return QWidget::keyPressEvent(event);
  std::map<TakeId, std::vector<HitId>> hits;
  const auto chosen = selected();
  for (const auto& h : chosen) hits[h.take].push_back(h.hit);
  Result<Song> next = doc_.song();
  for (const auto& [take, ids] : hits)
    if (next) next = removeHits(*next, take, doc_.selection().set(), ids);
  if (!chosen.empty()) doc_.edit(tr("Remove %1").arg(counted(chosen.size(), "hit", "hits")), next);
}

}  // namespace ochron
