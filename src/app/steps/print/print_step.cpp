#include "steps/print/print_step.h"

#include <QFileDialog>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <utility>

#include "actions/actions.h"
#include "document/fresh.h"
#include "document/print_desk.h"
#include "document/print_trial.h"
#include "document/selection.h"
#include "document/wording.h"
#include "entry/save_name.h"
#include "panel/choice.h"
#include "panel/controls.h"
#include "steps/print/effect_panel.h"
#include "steps/print/export_panel.h"
#include "steps/print/print_bench.h"

namespace ochron {
PrintStep::PrintStep(Document& document, QWidget* parent) : StepPage(document, parent) {
  auto* outer = new QVBoxLayout(this);
  outer->setContentsMargins(16, 0, 16, 14);
  outer->setSpacing(8);
  doing_ = new QComboBox(this);
  doing_->setObjectName("print mode");
  doing_->setAccessibleName(tr("What to do"));
  addChoice(*doing_, Doing::exporting, tr("Export files"));
  addChoice(*doing_, Doing::committing, tr("Commit to audio"));
  addChoice(*doing_, Doing::handingOver, tr("Hand over"));
  addChoice(*doing_, Doing::effects, tr("Effects"));
  connect(doing_, &QComboBox::currentIndexChanged, this, &PrintStep::refresh);
  outer->addWidget(doing_);
  const auto group = [&] {
    auto* w = new QWidget(this);
    auto* inside = new QVBoxLayout(w);
    inside->setContentsMargins(0, 4, 0, 0);
    inside->setSpacing(8);
    outer->addWidget(w);
    return std::pair(w, inside);
  };
  exporting_ = new ExportPanel(doc_, this);
  connect(exporting_, &ExportPanel::changed, this, &PrintStep::refresh);
  outer->addWidget(exporting_);

  auto [committing, prints] = group();
  committing_ = committing;
  const auto choice = [&, to = prints](const QString& label, const char* name, const QStringList& items, int current) {
    to->addWidget(noteLabel(label, committing_));
    auto* box = new QComboBox(committing_);
    box->setObjectName(name);
    box->setAccessibleName(label);
    box->addItems(items);
    box->setCurrentIndex(current);
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    box->setMinimumContentsLength(8);
    connect(box, &QComboBox::currentIndexChanged, this, &PrintStep::refresh);
    to->addWidget(box);
    return box;
  };
  printWhat_ = choice(tr("What"), "print what", {tr("The active set"), tr("The chosen clips"), tr("Everything")}, 0);
  printDepth_ = choice(tr("How deep"), "print depth", {}, -1);
  const QSignalBlocker quiet(printDepth_);
  addChoice(*printDepth_, PrintDepth::trim, tr("Trim recordings"));
  addChoice(*printDepth_, PrintDepth::clip, tr("Print clips"));
  addChoice(*printDepth_, PrintDepth::track, tr("Print tracks"));
  setChoice(*printDepth_, PrintDepth::clip);
  printed_ = noteLabel({}, committing_);
  prints->addWidget(printed_);
  auto* print = new QPushButton(tr("Print"), committing_);
  print->setProperty("primary", true);
  print->setObjectName("print now");
  print->setToolTip(tr("What the table says. It can be taken back at any later time"));
  print->setProperty(kCommand, "print.commitnow");
  connect(print, &QPushButton::clicked, this, &PrintStep::commit);
  prints->addWidget(print);
  back_ = new QPushButton(tr("Take the print back"), committing_);
  back_->setObjectName("take print back");
  back_->setToolTip(tr("The active set's latest print is what it was made of again"));
  Actions::bind(back_, "print.back");
  prints->addWidget(back_);
  alive_ = new QPushButton(tr("Hear what it was made of"), committing_);
  alive_->setObjectName("hear unprinted");
  alive_->setCheckable(true);
  alive_->setToolTip(tr("In the place of the print, with what was done to it since; pressed again the print is heard"));
  Actions::bind(alive_, "print.hear");
  prints->addWidget(alive_);

  auto [handing, folder] = group();
  handing_ = handing;
  folder->addWidget(noteLabel(
      tr("A folder that opens anywhere: every track as one file from bar one on, tempo, markers, hits and notes "
         "as MIDI, layers with their sounds, the session as a text and as JSON, and checksums of all."),
      handing_));
  withRecordings_ = new QCheckBox(tr("With the recordings"), handing_);
  withRecordings_->setObjectName("hand over recordings");
  folder->addWidget(withRecordings_);
  auto* hand = new QPushButton(tr("Hand over\u2026"), handing_);
  hand->setProperty("primary", true);
  hand->setObjectName("hand over");
  hand->setProperty(kCommand, "print.handovernow");
  connect(hand, &QPushButton::clicked, this, &PrintStep::handOver);
  folder->addWidget(hand);
  effects_ = new EffectPanel(doc_, this);
  outer->addWidget(effects_);
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->on(&doc_.printTrial(), &PrintTrial::changed);
  fresh->on(&doc_, &Document::songChanged).on(doc_.selection(), Selection::kWhere | Selection::kClips);
  refresh();
}

PrintStep::Doing PrintStep::doing() const { return choiceIn<Doing>(*doing_); }

PrintAsk PrintStep::ask() const {
  PrintAsk ask;
  ask.depth = choiceIn<PrintDepth>(*printDepth_);
  if (printWhat_->currentIndex() == 0 && doc_.selection().set()) ask.sets = {doc_.selection().set()};
  if (printWhat_->currentIndex() == 1) ask.clips = doc_.selection().clips();
  if (printWhat_->currentIndex() == 2)
    for (const auto& s : doc_.song().sets)
      if (!s.clips->empty()) ask.sets.push_back(s.id);
  // Clips are printed as clips; anything deeper is of their sets.
  if (ask.depth != PrintDepth::clip && !ask.clips.empty()) {
    for (const auto id : std::exchange(ask.clips, {}))
      if (const auto* set = doc_.song().setOf(id);
          set && std::find(ask.sets.begin(), ask.sets.end(), set->id) == ask.sets.end())
        ask.sets.push_back(set->id);
  }
  return ask;
}

void PrintStep::commit() { doc_.printDesk().commit(ask()); }

void PrintStep::handOver() {
  const auto name = QString::fromStdString(doc_.song().name) + tr(" hand-over");
  const auto folder = askWhereToSave(this, tr("Hand over as a new folder"), name, tr("Folders (*)"));
  if (!folder.isEmpty()) doc_.printDesk().handOver(folder.toStdString(), withRecordings_->isChecked());
}

void PrintStep::refresh() {
  if (bench_) bench_->refresh();
  exporting_->setVisible(doing() == Doing::exporting);
  committing_->setVisible(doing() == Doing::committing);
  handing_->setVisible(doing() == Doing::handingOver);
  effects_->setVisible(doing() == Doing::effects);
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
  exporting_->refresh();
}

QWidget* PrintStep::makeBench(ViewState&, QWidget* parent) {
  bench_ = new PrintBench(
      doc_, [this] { return exporting_->settings(); },
      [this] { return doing() == Doing::committing ? std::optional(ask()) : std::nullopt; },
      [this] { return doing() == Doing::effects; }, parent);
  return bench_;
}

StepState PrintStep::state() const {
  const auto prints = doc_.song().prints.size();
  if (prints == 0) return {tr("export"), tr("Export, commit to audio, hand over"), 0};
  return {counted(prints, "print", "prints"), tr("%1 that can be taken back").arg(counted(prints, "print", "prints")),
          0};
}

}  // namespace ochron
