#include "steps/print/effect_panel.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QTimer>
#include <QVBoxLayout>

#include "actions/actions.h"
#include "document/effect_desk.h"
#include "document/fresh.h"
#include "document/selection.h"
#include "panel/controls.h"
#include "steps/print/effect_picker.h"

namespace ochron {
namespace {

constexpr int kRowHeight = 28;

QString stateText(LiveRacks::State state) {
  switch (state) {
    case LiveRacks::State::missing: return EffectPanel::tr("not on this machine");
    case LiveRacks::State::starting: return EffectPanel::tr("starting\u2026");
    case LiveRacks::State::stopped: return EffectPanel::tr("stopped");
    case LiveRacks::State::ready: break;
  }
  return {};
}

}  // namespace

EffectPanel::EffectPanel(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 4, 0, 0);
  column->setSpacing(8);
  where_ = new QComboBox(this);
  where_->setObjectName("effect place");
  where_->setAccessibleName(tr("Where"));
  where_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  where_->setMinimumContentsLength(8);
  column->addWidget(where_);
  connect(where_, &QComboBox::activated, this,
          [this](int i) { doc_.effectDesk().choosePlace(places_[static_cast<std::size_t>(i)]); });
  list_ = new QListWidget(this);
  list_->setObjectName("effects");
  list_->setAccessibleName(tr("Effects, in the order in which sound goes through them"));
  list_->setDragDropMode(QAbstractItemView::InternalMove);
  list_->setFixedHeight(190);
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  list_->setTextElideMode(Qt::ElideRight);
  list_->installEventFilter(this);
  column->addWidget(list_);
  connect(list_, &QListWidget::currentRowChanged, this, [this](int row) {
    if (!filling_ && row >= 0) doc_.effectDesk().choose(current());
  });
  connect(list_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
    if (filling_) return;
    doc_.effectDesk().setOn(InsertId{item->data(Qt::UserRole).toULongLong()}, item->checkState() == Qt::Checked);
  });
  connect(list_->model(), &QAbstractItemModel::rowsMoved, this,
          [this](const QModelIndex&, int from, int, const QModelIndex&, int to) {
            const auto& here = insertsIn(doc_.song(), doc_.effectDesk().place());
            if (filling_ || from >= std::ssize(here)) return;
            const auto id = here[static_cast<std::size_t>(from)].id;
            const int by = to > from ? to - from - 1 : to - from;
            // The list is still in the middle of its own move.
            QTimer::singleShot(0, this, [this, id, by] { doc_.effectDesk().move(id, by); });
          });
  auto* row = new QHBoxLayout;
  row->setSpacing(6);
  auto* more = new QPushButton(tr("Add\u2026"), this);
  more->setObjectName("effect add");
  more->setProperty("primary", true);
  more->setProperty(kCommand, "print.addeffect");
  connect(more, &QPushButton::clicked, this, &EffectPanel::add);
  row->addWidget(more, 1);
  const auto tool = [&](const QString& sign, const char* name, const QString& tip, const char* command) {
    auto* b = new QToolButton(this);
    b->setText(sign);
    b->setObjectName(name);
    b->setAccessibleName(tip);
    b->setToolTip(tip);
    b->setProperty("plain", true);
    b->setFixedSize(26, 26);
    Actions::bind(b, command);
    row->addWidget(b);
    return b;
  };
  up_ = tool(QStringLiteral("\u2191"), "effect up", tr("Earlier (Ctrl+Up)"), "print.earlier");
  down_ = tool(QStringLiteral("\u2193"), "effect down", tr("Later (Ctrl+Down)"), "print.later");
  out_ = tool(QStringLiteral("\u00d7"), "effect remove", tr("Take it out (Delete)"), "print.takeout");
  column->addLayout(row);
  note_ = noteLabel({}, this);
  column->addWidget(note_);
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->on(&doc_, &Document::songChanged)
      .on(&doc_.effectDesk(), &EffectDesk::changed)
      .on(doc_.selection(), Selection::kSet);
  refresh();
}

void EffectPanel::showEvent(QShowEvent*) { doc_.effectDesk().look(); }

InsertId EffectPanel::current() const {
  const auto* item = list_->currentItem();
  return item ? InsertId{item->data(Qt::UserRole).toULongLong()} : InsertId{};
}

void EffectPanel::listPlaces() {
  const auto& song = doc_.song();
  places_.clear();
  QStringList names;
  const auto put = [&](const InsertPlace& place, const QString& name) {
    const auto count = insertsIn(song, place).size();
    places_.push_back(place);
    names << (count == 0 ? name : QStringLiteral("%1 (%2)").arg(name).arg(count));
  };
  put({}, tr("The mix"));
  for (const auto& s : song.sets) {
    if (s.tracks.size() > 1) put({{}, s.id}, tr("All of %1").arg(QString::fromStdString(s.name)));
    for (const auto t : s.tracks) put({t, {}}, QString::fromStdString(song.find(t)->name));
  }
  where_->clear();
  where_->addItems(names);
  const auto at = std::find(places_.begin(), places_.end(), doc_.effectDesk().place());
  if (at == places_.end()) return doc_.effectDesk().choosePlace({});
  where_->setCurrentIndex(static_cast<int>(at - places_.begin()));
}

void EffectPanel::refresh() {
  filling_ = true;
  listPlaces();
  const auto& desk = doc_.effectDesk();
  const auto& here = insertsIn(doc_.song(), desk.place());
  const auto* chosen = desk.chosen();
  list_->clear();
  QString note = here.empty() ? tr("Nothing yet: sound goes to the mix as it is.") : QString();
  for (const auto& i : here) {
    const auto told = desk.told(i.id);
    const auto state = stateText(told.state);
    const auto name = QString::fromStdString(i.name);
    // A space, so that name and box do not touch.
    const auto text = QChar(0x2002) + (state.isEmpty() ? name : QStringLiteral("%1 \u00b7 %2").arg(name, state));
    auto* item = new QListWidgetItem(text, list_);
    item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable | Qt::ItemIsDragEnabled);
    item->setSizeHint({0, kRowHeight});
    item->setCheckState(i.on ? Qt::Checked : Qt::Unchecked);
    item->setData(Qt::UserRole, static_cast<qulonglong>(i.id.value));
    item->setToolTip(told.trouble.empty() ? QString::fromStdString(i.effect) : QString::fromStdString(told.trouble));
    if (chosen && chosen->id == i.id) list_->setCurrentItem(item);
    if (told.state == LiveRacks::State::missing && !desk.known().empty())
      note = tr("%1 is not on this machine. It stays in the song with its values; sound goes past it.").arg(name);
  }
  const auto& racks = desk.racks();
  if (note.isEmpty() && racks && racks->latency.value > 0)
    note = tr("Everything is heard %1 ms later, so that all tracks stay in time.")
               .arg(1000.0 * static_cast<double>(racks->latency.value) / doc_.song().rate, 0, 'f', 1);
  note_->setText(note);
  const int row = list_->currentRow();
  up_->setEnabled(row > 0);
  down_->setEnabled(row >= 0 && row + 1 < list_->count());
  out_->setEnabled(row >= 0);
  filling_ = false;
}

void EffectPanel::add() {
  doc_.effectDesk().look(true);
  EffectPicker picker(doc_.effectDesk(), this);
  if (picker.exec() == QDialog::Accepted && picker.taken()) doc_.effectDesk().add(*picker.taken());
}

bool EffectPanel::eventFilter(QObject*, QEvent* event) {
  if (event->type() != QEvent::KeyPress && event->type() != QEvent::ShortcutOverride) return false;
  const auto* key = static_cast<QKeyEvent*>(event);
  const bool ctrl = key->modifiers() == Qt::ControlModifier;
  const auto mine = key->key() == Qt::Key_Delete || (ctrl && (key->key() == Qt::Key_Up || key->key() == Qt::Key_Down));
  if (!mine) return false;
  if (event->type() == QEvent::ShortcutOverride) return event->accept(), true;
  if (key->key() == Qt::Key_Delete)
    doc_.effectDesk().remove(current());
  else
    doc_.effectDesk().move(current(), key->key() == Qt::Key_Up ? -1 : 1);
  return true;
}

}  // namespace ochron
