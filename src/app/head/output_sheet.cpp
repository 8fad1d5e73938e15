#include "head/output_sheet.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QSignalBlocker>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>

#include "document/document.h"
#include "document/note_out_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "panel/choice.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr int kLookMs = 250;  // at how the device does

double inMs(int frames, int rate) { return 1'000.0 * frames / rate; }

}  // namespace

OutputSheet::OutputSheet(Document& document, QWidget* parent) : QDialog(parent), doc_(document) {
  setObjectName("output sheet");
  setWindowTitle(tr("Sound device"));
  resize(520, 420);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(22, 20, 22, 18);
  column->setSpacing(12);
  auto* title = new QLabel(tr("Where the song is heard"), this);
  title->setFont(Theme::get().font(16, 600));
  column->addWidget(title);
  list_ = new QListWidget(this);
  list_->setObjectName("outputs");
  list_->setAccessibleName(tr("Sound devices"));
  column->addWidget(list_, 1);

  auto* line = new QHBoxLayout;
  auto* label = new QLabel(tr("&Blocks of"), this);
  line->addWidget(label);
  block_ = new QComboBox(this);
  block_->setObjectName("block frames");
  for (const int frames : kBlockSizes) addChoice(*block_, frames, tr("%1 frames").arg(frames));
  block_->setToolTip(tr("Short blocks answer keys and controls sooner, long ones survive a busy machine"));
  setChoice(*block_, doc_.transport().sound().choice().blockFrames);
  label->setBuddy(block_);
  line->addWidget(block_);
  line->addStretch(1);
  auto* notes = new QLabel(tr("Layers as &MIDI to"), this);
  line->addWidget(notes);
  midi_ = new QComboBox(this);
  midi_->setObjectName("midi out");
  midi_->setToolTip(tr("Layers that are sent as MIDI play what is connected there, in time with what is heard here"));
  midi_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  midi_->setMinimumContentsLength(12);
  notes->setBuddy(midi_);
  line->addWidget(midi_);
  column->addLayout(line);
  connect(midi_, &QComboBox::activated, this,
          [this](int i) { doc_.noteOutDesk().usePort(midi_->itemData(i).toString()); });
  connect(&doc_.noteOutDesk(), &NoteOutDesk::changed, this, &OutputSheet::fillPorts);
  fillPorts();
  run_ = new QLabel(this);
  run_->setObjectName("device run");
  run_->setProperty("note", true);
  run_->setWordWrap(true);
  column->addWidget(run_);

  auto* buttons = new QHBoxLayout;
  auto* again = new QPushButton(tr("Look again"), this);
  again->setObjectName("look again");
  again->setToolTip(tr("For what was connected since"));
  buttons->addWidget(again);
  buttons->addStretch(1);
  auto* close = new QPushButton(tr("Close"), this);
  buttons->addWidget(close);
  use_ = new QPushButton(tr("Hear by this"), this);
  use_->setObjectName("use output");
  use_->setProperty("primary", true);
  use_->setDefault(true);
  buttons->addWidget(use_);
  column->addLayout(buttons);

  auto& sound = doc_.transport().sound();
  connect(again, &QPushButton::clicked, this, [&sound] { sound.list(); });
  connect(close, &QPushButton::clicked, this, &QDialog::accept);
  connect(use_, &QPushButton::clicked, this, &OutputSheet::use);
  connect(list_, &QListWidget::itemActivated, this, &OutputSheet::use);
  connect(list_, &QListWidget::currentRowChanged, this, [this](int row) { use_->setEnabled(row >= 0); });
  connect(&sound, &SoundDesk::changed, this, &OutputSheet::fill);
  auto* timer = new QTimer(this);
  connect(timer, &QTimer::timeout, this, &OutputSheet::tellRun);
  timer->start(kLookMs);
  fill();
  sound.list();
}

void OutputSheet::fillPorts() {
  const QSignalBlocker quiet(midi_);
  midi_->clear();
  midi_->addItem(tr("none"), QString());
  for (const auto& port : NoteOutDesk::ports()) midi_->addItem(port, port);
  const auto now = doc_.noteOutDesk().port();
  if (midi_->findData(now) < 0) midi_->addItem(now, now);
  midi_->setCurrentIndex(midi_->findData(now));
}

void OutputSheet::fill() {
  const auto& sound = doc_.transport().sound();
  tellRun();
  if (listed_ == sound.outputs() && list_->count() > 0) return;
  listed_ = sound.outputs();
  list_->clear();
  if (listed_.empty()) {
    auto* waiting = new QListWidgetItem(tr("Asking for devices \u2026"), list_);
    waiting->setFlags(Qt::NoItemFlags);
    return use_->setEnabled(false);
  }
  list_->addItem(tr("The system's own choice"));
  for (const auto& o : listed_)
    list_->addItem(o.api == SimulatedDevice::kApi ? tr("Simulated: the play line moves, nothing is heard")
                                                  : QString::fromStdString(o.label));
  const auto& choice = sound.choice();
  const auto at = std::ranges::find_if(listed_, [&](const SoundOutput& o) { return choice.fits(o); });
  if (choice.api.empty() && choice.name.empty()) {
    list_->setCurrentRow(0);
  } else if (at != listed_.end()) {
    list_->setCurrentRow(1 + static_cast<int>(at - listed_.begin()));
  } else {
    // The row behind all that are there: it stays chosen until another one is.
    list_->addItem(tr("%1: not there, waited for").arg(QString::fromStdString(choice.name)));
    list_->setCurrentRow(list_->count() - 1);
  }
  list_->setFocus();
}

SoundChoice OutputSheet::chosen() const {
  SoundChoice choice;
  choice.blockFrames = choiceIn<int>(*block_);
  const int row = list_->currentRow();
  if (row > std::ssize(listed_)) {
    choice.api = doc_.transport().sound().choice().api;
    choice.name = doc_.transport().sound().choice().name;
  } else if (row > 0) {
    const auto& output = listed_[static_cast<std::size_t>(row - 1)];
    choice.api = output.api, choice.name = output.name;
  }
  return choice;
}

void OutputSheet::use() {
  if (!listed_.empty()) doc_.transport().sound().choose(chosen());
}

void OutputSheet::tellRun() {
  const auto& sound = doc_.transport().sound();
  const auto run = sound.runs();
  if (run.rate == 0) return run_->setText(tr("Nothing is heard: %1 does not run.").arg(sound.name()));
  auto text = tr("%1 at %2 kHz, blocks of %3 frames (%4 ms)")
                  .arg(sound.name())
                  .arg(run.rate / 1'000.0)
                  .arg(run.blockFrames)
                  .arg(inMs(run.blockFrames, run.rate), 0, 'f', 1);
  if (run.latencyFrames > 0)
    text += tr(", heard %1 ms after it is computed").arg(inMs(run.latencyFrames, run.rate), 0, 'f', 1);
  if (run.rate != doc_.song().rate) text += tr(", converted from the song's %1 kHz").arg(doc_.song().rate / 1'000.0);
  const auto drops = sound.dropOuts();
  text += drops == 0 ? tr(". No drop-outs.")
                     : tr(". %1.").arg(counted(static_cast<std::size_t>(drops), "drop-out", "drop-outs"));
  run_->setText(text);
}

}  // namespace ochron
