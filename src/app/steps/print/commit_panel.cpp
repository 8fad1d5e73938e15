#include "steps/print/commit_panel.h"

#include <QVBoxLayout>
#include <algorithm>
#include <utility>

#include "actions/actions.h"
#include "document/print_desk.h"
#include "document/print_trial.h"
#include "document/selection.h"
#include "document/wording.h"
#include "panel/choice.h"
#include "panel/controls.h"
#include "theme/theme.h"

namespace ochron {
namespace {
constexpr int kCommitWidth = 118;
}

CommitPanel::CommitPanel(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 4, 0, 0);
  column->setSpacing(8);
  grid_ = new QGridLayout;
  grid_->setVerticalSpacing(6);
  grid_->setColumnStretch(0, 1);
  column->addLayout(grid_);
  what_ = combo(tr("What"), "print what", {});
  addChoice(*what_, What::set, tr("The active set"));
  addChoice(*what_, What::clips, tr("The chosen clips"));
  addChoice(*what_, What::range, tr("The range"), tr("Of the active set what lies in the selected range, as clips"));
  addChoice(*what_, What::everything, tr("Everything"));
  depth_ = combo(tr("How deep"), "print depth", {});
  addChoice(*depth_, PrintDepth::trim, tr("Trim recordings"));
  addChoice(*depth_, PrintDepth::clip, tr("Print clips"));
  addChoice(*depth_, PrintDepth::track, tr("Print tracks"));
  samples_ = combo(tr("Kept as"), "print samples",
                   tr("16 and 24 bit are dithered. What would be over full scale there is kept as float"));
  addChoice(*samples_, PrintSamples::float32, tr("32 bit float"));
  addChoice(*samples_, PrintSamples::pcm24, tr("24 bit"));
  addChoice(*samples_, PrintSamples::pcm16, tr("16 bit"));
  setChoice(*depth_, PrintDepth::clip);
  level_ = new QCheckBox(tr("Peak"), this);
  level_->setObjectName("print to peak");
  level_->setAccessibleName(tr("Bring the level to a peak"));
  level_->setToolTip(
      tr("The loudest mic comes to this, the others by the same gain. The gain of the printed clip makes up for it, so "
         "that it sounds as before"));
  peak_ = numberField(kPrintPeakRange, tr("Peak"), this);
  peak_->setObjectName("print peak");
  peak_->setToolTip(level_->toolTip());
  fixWidth(*peak_, kCommitWidth);
  const int row = grid_->rowCount();
  grid_->addWidget(level_, row, 0);
  grid_->addWidget(peak_, row, 1);
  tail_ = numberField(kTailRange, tr("Tail"), this);
  tail_->setObjectName("print tail");
  tail_->setToolTip(tr("How long effects ring on after the last clip"));
  addLabelled(*grid_, tail_, kCommitWidth, this);
  connect(level_, &QCheckBox::toggled, this, &CommitPanel::changed);
  for (auto* field : {peak_, tail_}) connect(field, &QDoubleSpinBox::valueChanged, this, &CommitPanel::changed);
  printed_ = noteLabel({}, this);
  column->addWidget(printed_);
  buildButtons();
}

QComboBox* CommitPanel::combo(const QString& label, const char* name, const QString& tip) {
  auto* box = choiceBox(label, name, this);
  box->setToolTip(tip);
  addLabelled(*grid_, box, kCommitWidth, this);
  connect(box, &QComboBox::currentIndexChanged, this, &CommitPanel::changed);
  return box;
}

void CommitPanel::buildButtons() {
  auto* column = static_cast<QVBoxLayout*>(layout());
  auto* print = new QPushButton(tr("Print"), this);
  print->setProperty("primary", true);
  print->setObjectName("print now");
  print->setToolTip(tr("What the table says. It can be taken back at any later time"));
  print->setProperty(kCommand, "print.commitnow");
  connect(print, &QPushButton::clicked, this, [this] { doc_.printDesk().commit(ask()); });
  column->addWidget(print);
  back_ = new QPushButton(tr("Take the print back"), this);
  back_->setObjectName("take print back");
  back_->setToolTip(tr("The active set's latest print is what it was made of again"));
  Actions::bind(back_, "print.back");
  column->addWidget(back_);
  alive_ = new QPushButton(tr("Hear what it was made of"), this);
  alive_->setObjectName("hear unprinted");
  alive_->setCheckable(true);
  alive_->setToolTip(tr("In the place of the print, with what was done to it since; pressed again the print is heard"));
  Actions::bind(alive_, "print.hear");
  column->addWidget(alive_);
}

PrintAsk CommitPanel::ask() const {
  PrintAsk ask;
  const auto what = choiceIn<What>(*what_);
  const auto& selection = doc_.selection();
  ask.depth = what == What::range ? PrintDepth::clip : choiceIn<PrintDepth>(*depth_);
  const auto add = [&](SetId id) {
    if (id && std::find(ask.sets.begin(), ask.sets.end(), id) == ask.sets.end()) ask.sets.push_back(id);
  };
  switch (what) {
    case What::range: ask.ranges = {selection.range()}; [[fallthrough]];
    case What::set: add(selection.set()); break;
    case What::clips:
      ask.clips = selection.clips();
      // Clips are printed as clips; anything deeper is of their sets.
      if (ask.depth != PrintDepth::clip)
        for (const auto id : std::exchange(ask.clips, {}))
          if (const auto* set = doc_.song().setOf(id)) add(set->id);
      break;
    case What::everything:
      for (const auto& s : doc_.song().sets)
        if (!s.clips->empty()) add(s.id);
      break;
  }
  ask.manner.samples = choiceIn<PrintSamples>(*samples_);
  if (level_->isChecked() && ask.depth != PrintDepth::trim) ask.manner.peakDb = peak_->value();
  if (ask.depth == PrintDepth::track) ask.manner.tailSeconds = tail_->value();
  return ask;
}

void CommitPanel::refresh() {
  const auto asked = ask();
  depth_->setEnabled(choiceIn<What>(*what_) != What::range);
  level_->setEnabled(asked.depth != PrintDepth::trim);
  peak_->setEnabled(asked.manner.peakDb.has_value());
  tail_->setEnabled(asked.depth == PrintDepth::track);
  const auto prints = printsOf(doc_.song(), doc_.selection().set());
  back_->setEnabled(!prints.empty());
  alive_->setEnabled(doc_.printDesk().latestOf(doc_.selection().set()) != nullptr);
  alive_->setChecked(doc_.printTrial().on());
  const auto* set = doc_.song().find(doc_.selection().set());
  printed_->setText(!set ? tr("Nothing to print yet.")
                    : prints.empty()
                        ? tr("\"%1\" is not printed.").arg(QString::fromStdString(set->name))
                        : tr("\"%1\": %2 that can be taken back.")
                              .arg(QString::fromStdString(set->name), counted(prints.size(), "print", "prints")));
}

}  // namespace ochron
