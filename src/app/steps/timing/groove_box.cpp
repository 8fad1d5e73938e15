#include "steps/timing/groove_box.h"

#include <QHBoxLayout>
#include <QMenu>
#include <QSignalBlocker>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>

#include "actions/actions.h"
#include "document/fresh.h"
#include "document/groove_library.h"
#include "document/timing_desk.h"
#include "panel/controls.h"

namespace ochron {

GrooveBox::GrooveBox(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(3);
  column->addWidget(noteLabel(tr("Groove"), this));
  auto* line = new QHBoxLayout;
  line->setSpacing(4);
  which_ = new QComboBox(this);
  which_->setObjectName("groove");
  which_->setAccessibleName(tr("Groove"));
  which_->setToolTip(tr("Hits go where this groove has them instead of on the bare lines"));
  which_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  which_->setMinimumContentsLength(8);
  line->addWidget(which_, 1);
  auto* more = new QToolButton(this);
  more->setText(QStringLiteral("\u2026"));
  more->setObjectName("groove more");
  more->setProperty("plain", true);
  more->setToolTip(tr("Take, bring in, write or keep a groove"));
  more->setPopupMode(QToolButton::InstantPopup);
  auto* menu = new QMenu(more);
  more->setMenu(menu);
  connect(menu, &QMenu::aboutToShow, this, [this, menu] {
    menu->clear();
    for (const char* id :
         {"groove.take", "groove.read", "groove.write", "groove.library", "groove.redraw", "groove.drop"})
      menu->addAction(Actions::of(this)->action(id));
  });
  line->addWidget(more);
  column->addLayout(line);
  const auto control = [&](double TimingSettings::*value, const QString& change) {
    const auto& setting = settingOf(kTimingNumbers, value);
    auto* c = new SettingControl(titleOf(setting.range), setting.range, {}, this);
    connect(c, &SettingControl::changed, this, [this, value, change, key = setting.key](double v) {
      auto s = doc_.timingDesk().settings();
      s.*value = v;
      doc_.timingDesk().setSettings(change, s, QString::fromUtf8(key.data()));
    });
    connect(c, &SettingControl::held, &doc_, holdingWhile(doc_));
    column->addWidget(c);
    return c;
  };
  amount_ = control(&TimingSettings::grooveAmount, tr("Change the groove's amount"));
  scatter_ = control(&TimingSettings::givenScatter, tr("Change the scatter given"));
  scatter_->setHint(tr("as this player scatters"));
  connect(which_, &QComboBox::activated, this, [this](int i) {
    if (i <= 0)
      doc_.timingDesk().useGroove({});
    else
      doc_.timingDesk().useGroove(offered_[static_cast<std::size_t>(i - 1)]);
  });
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->onSong(doc_).on(doc_.selection(), Selection::kWhere);
  refresh();
}

void GrooveBox::rebuild() {
  std::vector<Groove> offered = doc_.song().grooves;
  const auto& used = doc_.timingDesk().settings().groove;
  if (used && std::find(offered.begin(), offered.end(), *used) == offered.end()) offered.push_back(*used);
  const auto own = offered.size();
  QStringList problems;
  const auto library = GrooveLibrary::grooves(&problems);
  for (const auto& p : problems)
    if (!toldProblems_.contains(p)) {
      toldProblems_ << p;
      doc_.warn(p);
    }
  for (auto& g : library)
    if (std::none_of(offered.begin(), offered.end(), [&](auto& o) { return o.name == g.name; })) offered.push_back(g);
  if (offered == offered_ && which_->count() > 0) return;
  offered_ = std::move(offered);
  which_->clear();
  which_->addItem(tr("None: the bare lines"));
  for (std::size_t i = 0; i < offered_.size(); ++i)
    which_->addItem(QString::fromStdString(offered_[i].name) + (i >= own ? tr(" (library)") : QString()));
}

void GrooveBox::refresh() {
  if (!isVisible() && which_->count() > 0 && !doc_.timingDesk().settings().groove) return;
  const QSignalBlocker quiet(which_);
  rebuild();
  const auto& used = doc_.timingDesk().settings().groove;
  int index = 0;
  for (std::size_t i = 0; used && i < offered_.size(); ++i)
    if (offered_[i] == *used) index = static_cast<int>(i) + 1;
  which_->setCurrentIndex(index);
  amount_->setVisible(used.has_value());
  amount_->show(doc_.timingDesk().settings().grooveAmount);
  scatter_->setVisible(used.has_value());
  scatter_->setEnabled(used &&
                       std::any_of(used->scatterMs.begin(), used->scatterMs.end(), [](auto& s) { return !s.empty(); }));
  scatter_->show(doc_.timingDesk().settings().givenScatter);
}

}  // namespace ochron
