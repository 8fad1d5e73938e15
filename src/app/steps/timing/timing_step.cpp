#include "steps/timing/timing_step.h"

#include <QGridLayout>
#include <QMenu>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>
#include <array>
#include <cmath>

#include "actions/actions.h"
#include "document/fresh.h"
#include "document/round_desk.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "document/wording.h"
#include "edits/plan_edits.h"
#include "edits/stretch_edits.h"
#include "steps/timing/grid_rules_box.h"
#include "steps/timing/groove_box.h"
#include "steps/timing/pins_box.h"
#include "steps/timing/timing_graph.h"
#include "theme/theme.h"

namespace ochron {
namespace {

/// Starting points in plain words; they only set the same controls.
struct StartingPoint {
  const char* name;
  double strength, drift, pocket, scatter, tolerance;
};
constexpr std::array kStartingPoints{
    StartingPoint{QT_TR_NOOP("On the grid, nothing kept"), 100, 0, 0, 0, 0},
    StartingPoint{QT_TR_NOOP("Steady, pocket kept"), 100, 0, 100, 50, 0},
    StartingPoint{QT_TR_NOOP("Steady, all feel kept"), 100, 0, 100, 100, 0},
    StartingPoint{QT_TR_NOOP("Tighter, still loose"), 60, 30, 80, 60, 3},
    StartingPoint{QT_TR_NOOP("Only the worst hits"), 100, 0, 100, 0, 14},
};
constexpr int kFirstMethod = 2;  // in the list, after slices and what the program would take

double deviation(const std::vector<PlannedHit>& hits, double PlannedHit::*part) {
  double sum = 0;
  int n = 0;
  for (std::size_t i = 0; i < hits.size(); ++i)
    if (hits[i].line && hits[i].leader == i) {
      sum += hits[i].*part * (hits[i].*part);
      ++n;
    }
  return n ? std::sqrt(sum / n) : 0;
}

}  // namespace

TimingStep::TimingStep(Document& document, QWidget* parent) : StepPage(document, parent) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 0, 16, 14);
  column->setSpacing(5);
  on_ = new QCheckBox(tr("Lock to the grid"), this);
  on_->setObjectName("plan on");
  connect(on_, &QCheckBox::clicked, this, [this](bool on) { doc_.timingDesk().turn(on); });
  column->addWidget(on_);
  column->addWidget(noteLabel(tr("Start from"), this));
  start_ = new QComboBox(this);
  start_->setObjectName("start from");
  start_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  start_->setMinimumContentsLength(8);
  for (const auto& s : kStartingPoints) start_->addItem(tr(s.name));
  start_->addItem(tr("Own settings"));
  connect(start_, &QComboBox::activated, this, [this](int i) {
    if (i >= std::ssize(kStartingPoints)) return refresh();
    const auto& p = kStartingPoints[static_cast<std::size_t>(i)];
    change(tr("Start from \"%1\"").arg(tr(p.name)), [&](TimingSettings& s) {
      s.on = true;
      s.strength = p.strength, s.keepDrift = p.drift, s.keepPocket = p.pocket, s.keepScatter = p.scatter,
      s.toleranceMs = p.tolerance;
    });
  });
  column->addWidget(start_);
  auto* pair = new QGridLayout;
  pair->setVerticalSpacing(2);
  pair->addWidget(noteLabel(tr("Grid"), this), 0, 0);
  pair->addWidget(noteLabel(tr("Swing"), this), 0, 1);
  grid_ = new QComboBox(this);
  grid_->setObjectName("grid");
  grid_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  grid_->setMinimumContentsLength(4);
  for (const char* g : kGridTexts) grid_->addItem(g);
  connect(grid_, &QComboBox::activated, this, [this] {
    auto g = parseGrid(grid_->currentText().toStdString());
    if (g) change(tr("Change the grid"), [&](TimingSettings& s) { g->swing = s.grid.swing, s.grid = *g; });
  });
  pair->addWidget(grid_, 1, 0);
  swing_ = numberField(kSwingRange, tr("Swing"), this);
  connect(swing_, &QDoubleSpinBox::valueChanged, this,
          [this](double v) { change(tr("Change swing"), [&](TimingSettings& s) { s.grid.swing = v; }); });
  pair->addWidget(swing_, 1, 1);
  column->addLayout(pair);
  column->addSpacing(2);
  strength_ = control(&TimingSettings::strength);
  drift_ = control(&TimingSettings::keepDrift, tr("keep "));
  pocket_ = control(&TimingSettings::keepPocket, tr("keep "));
  scatter_ = control(&TimingSettings::keepScatter, tr("keep "));
  for (auto* c : {strength_, drift_, pocket_, scatter_}) column->addWidget(c);
  auto* grid = new QGridLayout;
  grid->setVerticalSpacing(4);
  grid->setColumnStretch(0, 1);
  method_ = new QComboBox(this);
  method_->setObjectName("method");
  method_->addItem(tr("Slices: nothing stretched"));
  method_->setItemData(0, tr("Cut before every hit and moved. For drums and anything short"), Qt::ToolTipRole);
  method_->addItem(tr("Stretch as heard"));
  for (std::size_t i = 0; i < kStretchMethodNames.size(); ++i) {
    const auto method = static_cast<StretchMethod>(i);
    method_->addItem(tr("Stretch: %1").arg(methodName(method)));
    method_->setItemData(static_cast<int>(i) + kFirstMethod, methodHelp(method), Qt::ToolTipRole);
  }
  method_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  method_->setMinimumContentsLength(8);
  connect(method_, &QComboBox::activated, this, &TimingStep::setMethod);
  column->addWidget(method_);
  auto* round = new QHBoxLayout;
  round->setSpacing(6);
  round_ = new QPushButton(tr("Go round"), this);
  round_->setObjectName("go round");
  round_->setToolTip(tr("The range is heard stretched by each way in turn, equally loud (Alt+G)"));
  keepRound_ = new QPushButton(tr("Keep"), this);
  keepRound_->setObjectName("keep round");
  keepRound_->setToolTip(tr("The chosen clips, else the set, are stretched by what is heard (Alt+Shift+G)"));
  for (auto* b : {round_, keepRound_}) b->setProperty("small", true);
  round->addWidget(round_, 1);
  round->addWidget(keepRound_);
  column->addLayout(round);
  Actions::bind(round_, "stretch.round");
  Actions::bind(keepRound_, "stretch.keep");
  connect(&doc_.roundDesk(), &RoundDesk::changed, this, &TimingStep::showRound);
  column->addWidget(new GrooveBox(doc_, this));
  column->addWidget(new GridRulesBox(doc_, this));
  column->addWidget(buildClasses());
  tolerance_ = field(&TimingSettings::toleranceMs);
  most_ = field(&TimingSettings::largestMoveMs);
  most_->setSpecialValueText(tr("any"));
  gesture_ = field(&TimingSettings::gestureMs);
  gesture_->setToolTip(tr("Strokes at most so far apart may be one gesture, a flam or a drag: they are moved as one"));
  for (auto* f : {tolerance_, most_, gesture_}) { addLabelled(*grid, f, 70, this); }
  column->addLayout(grid);
  column->addWidget(new PinsBox(doc_, this));
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->onSong(doc_).on(doc_.selection(), Selection::kWhere);
  refresh();
}

/// Which drums the plan moves: a button with a tick for each class.
QToolButton* TimingStep::buildClasses() {
  classes_ = new QToolButton(this);
  classes_->setObjectName("classes");
  classes_->setProperty("plain", true);
  classes_->setPopupMode(QToolButton::InstantPopup);
  classes_->setToolTip(tr("Only these drums are moved; the others go with what they stand by"));
  classes_->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  auto* menu = new QMenu(classes_);
  classes_->setMenu(menu);
  for (std::size_t i = 0; i < kDrumClassNames.size(); ++i) {
    auto* tick = menu->addAction(drumName(static_cast<DrumClass>(i)));
    tick->setCheckable(true);
    connect(tick, &QAction::triggered, this, [this, menu] {
      std::vector<DrumClass> meant;
      const auto ticks = menu->actions();
      for (int k = 0; k < ticks.size(); ++k)
        if (ticks[k]->isChecked()) meant.push_back(static_cast<DrumClass>(k));
      if (meant.size() == kDrumClassNames.size()) meant.clear();
      change(tr("Change which drums are moved"), [&](TimingSettings& s) { s.classes = meant; });
    });
  }
  return classes_;
}

void TimingStep::showClasses(const std::vector<DrumClass>& meant) {
  QStringList names;
  const auto ticks = classes_->menu()->actions();
  for (int k = 0; k < ticks.size(); ++k) {
    const bool on = meant.empty() || std::find(meant.begin(), meant.end(), static_cast<DrumClass>(k)) != meant.end();
    ticks[k]->setChecked(on);
    if (on) names << ticks[k]->text();
  }
  classes_->setText(meant.empty() ? tr("Moves every drum") : tr("Moves %1").arg(names.join(", ")));
}

SettingControl* TimingStep::control(double TimingSettings::*value, const QString& prefix) {
  const auto& setting = settingOf(kTimingNumbers, value);
  const auto title = titleOf(setting.range);
  auto* c = new SettingControl(title, setting.range, prefix, this);
  c->setToolTip(tr(std::string(setting.help).c_str()));
  connect(c, &SettingControl::changed, this, [this, title, value](double v) {
    change(
        tr("Change %1").arg(title.toLower()), [&](TimingSettings& s) { s.*value = v, s.on = true; }, title);
  });
  connect(c, &SettingControl::held, &doc_, holdingWhile(doc_));
  return c;
}

QDoubleSpinBox* TimingStep::field(double TimingSettings::*value) {
  const auto& setting = settingOf(kTimingNumbers, value);
  const auto title = titleOf(setting.range);
  auto* f = numberField(setting.range, title, this);
  f->setToolTip(tr(std::string(setting.help).c_str()));
  connect(f, &QDoubleSpinBox::valueChanged, this, [this, title, value](double v) {
    change(tr("Change \"%1\"").arg(title.toLower()), [&](TimingSettings& s) { s.*value = v; });
  });
  return f;
}

/// Slices, or stretched by a method, as one step.
void TimingStep::setMethod(int item) {
  const auto* set = doc_.song().find(doc_.selection().set());
  if (!set) return;
  auto plan = *set->plan;
  plan.settings.method = item == 0 ? TimingMethod::slices : TimingMethod::stretch;
  auto next = setTimingPlan(doc_.song(), set->id, plan);
  if (next && item > 0)
    next = setStretchMethod(
        *next, set->id,
        item < kFirstMethod ? std::nullopt : std::optional(static_cast<StretchMethod>(item - kFirstMethod)));
  doc_.edit(tr("Change the method"), next);
}

/// The method in force, with when to use it.
void TimingStep::showMethod() {
  const auto* set = doc_.song().find(doc_.selection().set());
  const bool stretch = set && set->plan->settings.method == TimingMethod::stretch;
  const auto own = set ? set->method : std::nullopt;
  if (set && !set->clips->empty()) {
    const auto guessed = doc_.song().materialOf(*set, set->clips->front().take);
    method_->setItemText(kFirstMethod - 1, tr("As heard: %1").arg(methodName(guessed)));
    method_->setItemData(kFirstMethod - 1, methodHelp(guessed), Qt::ToolTipRole);
  }
  method_->setCurrentIndex(!stretch ? 0 : own ? kFirstMethod + static_cast<int>(*own) : kFirstMethod - 1);
  method_->setToolTip(method_->currentData(Qt::ToolTipRole).toString());
}

void TimingStep::showRound() {
  const auto& desk = doc_.roundDesk();
  const bool any =
      doc_.song().find(doc_.selection().set()) && std::any_of(doc_.song().find(doc_.selection().set())->clips->begin(),
                                                              doc_.song().find(doc_.selection().set())->clips->end(),
                                                              [](const Clip& c) { return !c.map.identity(); });
  round_->setVisible(any || desk.going());
  keepRound_->setVisible(desk.going());
  keepRound_->setEnabled(desk.going() && !desk.waits());
  round_->setText(!desk.going()  ? tr("Go round")
                  : desk.waits() ? tr("%1\u2026").arg(methodName(desk.method()))
                                 : methodName(desk.method()));
}

void TimingStep::change(const QString& name, const std::function<void(TimingSettings&)>& edit, const QString& gesture) {
  auto s = doc_.timingDesk().settings();
  edit(s);
  doc_.timingDesk().setSettings(name, s, gesture);
}

void TimingStep::refresh() {
  const auto& s = doc_.timingDesk().settings();
  const QSignalBlocker a(on_), b(start_), c(grid_), d(swing_), e(tolerance_), f(most_), g(gesture_);
  setEnabled(static_cast<bool>(doc_.selection().set()));
  on_->setChecked(s.on);
  int start = static_cast<int>(kStartingPoints.size());
  for (std::size_t i = 0; i < kStartingPoints.size(); ++i) {
    const auto& p = kStartingPoints[i];
    if (s.strength == p.strength && s.keepDrift == p.drift && s.keepPocket == p.pocket && s.keepScatter == p.scatter &&
        s.toleranceMs == p.tolerance)
      start = static_cast<int>(i);
  }
  start_->setCurrentIndex(start);
  grid_->setCurrentText(QString::fromStdString(toText(s.grid)));
  showMethod();
  showRound();
  swing_->setValue(s.grid.swing);
  strength_->show(s.strength);
  drift_->show(s.keepDrift);
  pocket_->show(s.keepPocket);
  scatter_->show(s.keepScatter);
  showClasses(s.classes);
  tolerance_->setValue(s.toleranceMs);
  gesture_->setValue(s.gestureMs);
  most_->setValue(s.largestMoveMs);
  const auto& hits = doc_.timingDesk().planned().hits;
  drift_->setHint(tr("slow wandering, \u00b1%1 ms").arg(deviation(hits, &PlannedHit::driftMs), 0, 'f', 1));
  pocket_->setHint(tr("same place of the bar, \u00b1%1 ms").arg(deviation(hits, &PlannedHit::pocketMs), 0, 'f', 1));
  scatter_->setHint(tr("hit by hit, \u00b1%1 ms").arg(deviation(hits, &PlannedHit::scatterMs), 0, 'f', 1));
}

QWidget* TimingStep::makeBench(ViewState& view, QWidget* parent) { return new TimingGraph(doc_, view, parent); }

StepState TimingStep::state() const {
  const auto& sets = doc_.song().sets;
  const auto on = std::count_if(sets.begin(), sets.end(), [](const MicSet& s) { return s.plan->settings.on; });
  const int look = checksOf(CheckGroup::timing);
  if (!doc_.timingDesk().settings().on)
    return {on > 0 ? counted(static_cast<std::size_t>(on), "plan on", "plans on") : tr("as played"),
            on > 0 ? tr("As played here, planned elsewhere") : tr("As played"), look};
  const auto grid = QString::fromStdString(toText(doc_.timingDesk().settings().grid));
  return {tr("on %1").arg(grid),
          tr("On %1, spread %2 ms").arg(grid).arg(doc_.timingDesk().planned().stats().spreadAfterMs, 0, 'f', 1), look};
}

}  // namespace ochron
