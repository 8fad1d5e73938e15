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
#include "steps/print/commit_panel.h"
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
  exporting_ = new ExportPanel(doc_, this);
  connect(exporting_, &ExportPanel::changed, this, &PrintStep::refresh);
  outer->addWidget(exporting_);

  committing_ = new CommitPanel(doc_, this);
  connect(committing_, &CommitPanel::changed, this, &PrintStep::refresh);
  outer->addWidget(committing_);

  handing_ = new QWidget(this);
  auto* folder = new QVBoxLayout(handing_);
  folder->setContentsMargins(0, 4, 0, 0);
  folder->setSpacing(8);
  outer->addWidget(handing_);
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
  committing_->refresh();
  exporting_->refresh();
}

QWidget* PrintStep::makeBench(ViewState&, QWidget* parent) {
  bench_ = new PrintBench(
      doc_, [this] { return exporting_->settings(); },
      [this] { return doing() == Doing::committing ? std::optional(committing_->ask()) : std::nullopt; },
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
