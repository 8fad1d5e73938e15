#include "steps/print/print_step.h"

#include <QFileDialog>
#include <QGridLayout>
#include <QPushButton>
#include <QVBoxLayout>
#include <array>

#include "document/fresh.h"
#include "document/print_desk.h"
#include "document/selection.h"
#include "document/wording.h"
#include "entry/save_name.h"
#include "steps/print/print_bench.h"

namespace ochron {
namespace {
constexpr std::array kFormats{FileFormat::wav, FileFormat::flac, FileFormat::aiff, FileFormat::ogg};
constexpr std::array kDepths{SampleFormat::pcm16, SampleFormat::pcm24, SampleFormat::pcm32, SampleFormat::float32};
}  // namespace

PrintStep::PrintStep(Document& document, QWidget* parent) : StepPage(document, parent) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 0, 16, 14);
  column->setSpacing(8);
  auto* grid = new QGridLayout;
  grid->setVerticalSpacing(6);
  const auto combo = [&](const QString& label, const QString& name, const QStringList& items, int current) {
    auto* box = new QComboBox(this);
    box->setObjectName(name);
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    box->setMinimumContentsLength(8);
    box->setAccessibleName(label);
    box->addItems(items);
    box->setCurrentIndex(current);
    const int at = grid->rowCount();
    grid->addWidget(new QLabel(label, this), at, 0);
    grid->addWidget(box, at, 1);
    connect(box, &QComboBox::currentIndexChanged, this, &PrintStep::refresh);
    return box;
  };
  what_ = combo(tr("What"), "export what", {tr("The mix"), tr("Each track")}, 0);
  format_ = combo(tr("Format"), "export format", {"WAV", "FLAC", "AIFF", "Ogg"}, 0);
  depth_ = combo(tr("Depth"), "export depth", {tr("16 bit"), tr("24 bit"), tr("32 bit"), tr("32 bit float")}, 1);
  range_ = combo(tr("Range"), "export range", {tr("Whole song"), tr("Selected range")}, 0);
  column->addLayout(grid);
  const auto beside = [&](const QString& text, const char* name, const QString& tip) {
    auto* box = new QCheckBox(text, this);
    box->setObjectName(name);
    box->setToolTip(tip);
    connect(box, &QCheckBox::toggled, this, &PrintStep::refresh);
    column->addWidget(box);
    return box;
  };
  click_ = beside(tr("With the click"), "export click", tr("A sound file beside it, the song's click alone"));
  midi_ = beside(tr("With a MIDI file"), "export midi",
                 tr("Beside it: tempo map, meters, markers, and the hits and notes of every set"));
  length_ = new QLabel(this);
  length_->setProperty("note", true);
  length_->setWordWrap(true);
  column->addWidget(length_);
  auto* go = new QPushButton(tr("Export\u2026"), this);
  go->setProperty("primary", true);
  go->setObjectName("export");
  connect(go, &QPushButton::clicked, this, &PrintStep::run);
  column->addWidget(go);
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->on(&doc_, &Document::songChanged).on(doc_.selection(), Selection::kWhere);
  refresh();
}

ExportSettings PrintStep::settings() const {
  ExportSettings s;
  s.what = what_->currentIndex() == 0 ? ExportWhat::mix : ExportWhat::tracks;
  s.format = kFormats[static_cast<std::size_t>(format_->currentIndex())];
  s.samples = kDepths[static_cast<std::size_t>(depth_->currentIndex())];
  s.midi = midi_->isChecked();
  s.click = click_->isChecked();
  s.range = range_->currentIndex() == 1 ? doc_.selection().range() : FrameRange{Frames{0}, doc_.song().end()};
  return s;
}

void PrintStep::refresh() {
  if (bench_) bench_->refresh();
  depth_->setEnabled(format_->currentIndex() != 3);
  const auto s = settings();
  if (s.range.empty())
    return length_->setText(range_->currentIndex() == 1 ? tr("No range is chosen.") : tr("Nothing to export yet."));
  const double seconds = static_cast<double>(playedLength(doc_.song(), s.range).value) / doc_.song().rate;
  length_->setText(what_->currentIndex() == 0
                       ? tr("One stereo file of %1 s, with gains, pans, mutes and solos.").arg(seconds, 0, 'f', 1)
                       : tr("%1 of %2 s, as edited, without gain and pan.")
                             .arg(counted(doc_.song().tracks.size(), "file", "files"))
                             .arg(seconds, 0, 'f', 1));
}

void PrintStep::run() {
  const auto s = settings();
  const auto name = QString::fromStdString(doc_.song().name);
  const auto target = s.what == ExportWhat::mix
                          ? askWhereToSave(this, tr("Export the mix"), name + extensionOf(s.format),
                                           QString("%1 (*%2)").arg(format_->currentText(), extensionOf(s.format)))
                          : QFileDialog::getExistingDirectory(this, tr("Export each track into this folder"));
  if (!target.isEmpty()) doc_.printDesk().exportTo(s, target.toStdString());
}

QWidget* PrintStep::makeBench(ViewState&, QWidget* parent) {
  bench_ = new PrintBench(
      doc_, [this] { return settings(); }, parent);
  return bench_;
}

StepState PrintStep::state() const { return {tr("export"), tr("Export the mix or the tracks"), 0}; }

}  // namespace ochron
