#include "steps/print/export_panel.h"

#include <QFileDialog>
#include <QInputDialog>
#include <QMenu>
#include <QVBoxLayout>
#include <algorithm>
#include <array>

#include "actions/actions.h"
#include "document/export_choices.h"
#include "document/print_desk.h"
#include "document/selection.h"
#include "document/wording.h"
#include "entry/save_name.h"
#include "panel/choice.h"
#include "panel/controls.h"
#include "render/export.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr std::array kRates{0, 44'100, 48'000, 88'200, 96'000, 176'400, 192'000};
constexpr int kFieldWidth = 114;

QString titleOf(FileFormat format) {
  switch (format) {
    case FileFormat::wav: return QStringLiteral("WAV");
    case FileFormat::flac: return QStringLiteral("FLAC");
    case FileFormat::aiff: return QStringLiteral("AIFF");
    case FileFormat::ogg: return QStringLiteral("Ogg Vorbis");
    case FileFormat::opus: return QStringLiteral("Opus");
    case FileFormat::mp3: return QStringLiteral("MP3");
    case FileFormat::other: break;
  }
  return {};
}

/// Those that can be written, in the order of their names.
std::vector<FileFormat> writtenFormats() {
  std::vector<FileFormat> out;
  for (std::size_t i = 0; i < kFileFormatNames.size(); ++i) out.push_back(static_cast<FileFormat>(i));
  return out;
}

}  // namespace

ExportPanel::ExportPanel(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 4, 0, 0);
  column->setSpacing(8);
  grid_ = new QGridLayout;
  grid_->setVerticalSpacing(6);
  grid_->setColumnStretch(0, 1);
  column->addLayout(grid_);
  buildKept();
  what_ = combo(tr("What"), "export what", {}, -1);
  addChoice(*what_, ExportWhat::mix, tr("The mix"));
  addChoice(*what_, ExportWhat::tracks, tr("Each track"));
  addChoice(*what_, ExportWhat::sets, tr("Each mic set"), tr("All mics of a set side by side in one file"));
  addChoice(*what_, ExportWhat::sections, tr("Each section"),
            tr("The mix of each section; without sections, from marker to marker"));
  addChoice(*what_, ExportWhat::clips, tr("Each clip"),
            tr("The chosen clips, else all in the range, from beginning to end; the tracks of a set side by side"));
  buildFormats();
  rate_ = combo(tr("Rate"), "export rate", {}, -1);
  for (const int rate : kRates) rate_->addItem(rate == 0 ? tr("as the song") : rateText(rate), rate);
  channels_ = combo(tr("Channels"), "export channels", {tr("Stereo"), tr("Mono")}, 0);
  range_ = combo(tr("Range"), "export range", {tr("Whole song"), tr("Selected range")}, 0);
  names_ = new QLineEdit(this);
  names_->setObjectName("export names");
  names_->setToolTip(
      tr("What files are called: text, and in braces {song}, {track}, {set}, {section}, {clip}, {number}, "
         "{tempo} or {rate}. The table shows what it comes to"));
  connect(names_, &QLineEdit::textChanged, this, &ExportPanel::changed);
  addField(tr("Names"), names_);
  loudness_ = numberField(kLoudnessRange, tr("Loudness"), this);
  loudness_->setObjectName("export loudness");
  loudness_->setEnabled(false);
  loudness_->setToolTip(
      tr("What the mix is brought to (EBU R 128). The same gain for every file, and none that would "
         "bring the true peak above -1 dB"));
  connect(loudness_, &QDoubleSpinBox::valueChanged, this, &ExportPanel::changed);
  loud_ = new QCheckBox(tr("Level"), this);
  loud_->setObjectName("export to loudness");
  loud_->setAccessibleName(tr("Bring the mix to a loudness"));
  loud_->setToolTip(loudness_->toolTip());
  connect(loud_, &QCheckBox::toggled, this, [this](bool on) {
    loudness_->setEnabled(on);
    emit changed();
  });
  fixWidth(*loudness_, kFieldWidth);
  const int row = grid_->rowCount();
  grid_->addWidget(loud_, row, 0);
  grid_->addWidget(loudness_, row, 1);
  tail_ = numberField(kTailRange, tr("Tail"), this);
  tail_->setObjectName("export tail");
  tail_->setToolTip(tr("How long effects ring on after the end of each file's sound"));
  connect(tail_, &QDoubleSpinBox::valueChanged, this, &ExportPanel::changed);
  addField(tr("Tail"), tail_);
  dither_ =
      check(tr("Dither"), "export dither",
            tr("Noise of a step under what is rounded, so that the softest sounds are not distorted. What needs no "
               "rounding stays as it is"));
  dither_->setChecked(true);
  click_ = check(tr("With the click"), "export click", tr("A sound file beside it, the song's click alone"));
  midi_ = check(tr("With a MIDI file"), "export midi",
                tr("Beside it: tempo map, meters, markers, and the hits and notes of every set"));
  for (auto* box : {dither_, click_, midi_}) column->addWidget(box);
  length_ = noteLabel({}, this);
  column->addWidget(length_);
  auto* go = new QPushButton(tr("Export\u2026"), this);
  go->setProperty("primary", true);
  go->setObjectName("export");
  go->setProperty(kCommand, "print.export");
  connect(go, &QPushButton::clicked, this, &ExportPanel::run);
  column->addWidget(go);
}

void ExportPanel::addField(const QString& label, QWidget* field) {
  field->setAccessibleName(label);
  addLabelled(*grid_, field, kFieldWidth, this);
}

QComboBox* ExportPanel::combo(const QString& label, const QString& name, const QStringList& items, int current) {
  auto* box = choiceBox(label, name, this);
  box->addItems(items);
  box->setCurrentIndex(current);
  addField(label, box);
  connect(box, &QComboBox::currentIndexChanged, this, &ExportPanel::changed);
  return box;
}

QCheckBox* ExportPanel::check(const QString& text, const char* name, const QString& tip) {
  auto* box = new QCheckBox(text, this);
  box->setObjectName(name);
  box->setToolTip(tip);
  connect(box, &QCheckBox::toggled, this, &ExportPanel::changed);
  return box;
}

void ExportPanel::buildKept() {
  kept_ = choiceBox(tr("Choices"), "export kept", this);
  kept_->setToolTip(tr("Sets of choices kept by name, for all songs"));
  addField(tr("Choices"), kept_);
  connect(kept_, &QComboBox::activated, this, &ExportPanel::pickKept);
  listKept();
}

void ExportPanel::listKept() {
  const QSignalBlocker quiet(kept_);
  kept_->clear();
  kept_->addItem(tr("As below"));
  QString problem;
  for (const auto& k : ExportChoices::all(&problem)) kept_->addItem(k.name);
  kept_->insertSeparator(kept_->count());
  kept_->addItem(tr("Keep these\u2026"), "keep");
  if (kept_->count() > 3) kept_->addItem(tr("Forget one\u2026"), "forget");
  if (!problem.isEmpty()) doc_.warn(problem);
}

void ExportPanel::pickKept(int index) {
  const auto what = kept_->itemData(index).toString();
  const auto all = ExportChoices::all();
  QStringList names;
  for (const auto& k : all) names << k.name;
  bool ok = false;
  Result<void> done;
  if (what == "keep") {
    const auto name = QInputDialog::getText(this, tr("Keep these choices"), tr("Their name:"), QLineEdit::Normal,
                                            format_->currentText(), &ok);
    if (ok && !name.isEmpty()) done = ExportChoices::keep({name, settings()});
    listKept();
    kept_->setCurrentIndex(std::max(0, kept_->findText(name)));
  } else if (what == "forget") {
    const auto name = QInputDialog::getItem(this, tr("Forget choices"), tr("Which:"), names, 0, false, &ok);
    if (ok) done = ExportChoices::drop(name);
    listKept();
  } else if (index > 0 && index <= names.size()) {
    show(all[static_cast<std::size_t>(index - 1)].settings);
    emit changed();
  }
  if (!done) doc_.warn(QString::fromStdString(done.error().message));
}

void ExportPanel::buildFormats() {
  format_ = combo(tr("Format"), "export format", {}, -1);
  for (const auto f : writtenFormats()) addChoice(*format_, f, titleOf(f));
  also_ = new QPushButton(this);
  also_->setObjectName("export also");
  also_->setProperty("field", true);
  also_->setToolTip(tr("The same sound in further formats, in one go"));
  auto* menu = new QMenu(also_);
  for (const auto f : writtenFormats()) {
    auto* action = menu->addAction(titleOf(f));
    action->setData(static_cast<int>(f));
    action->setCheckable(true);
    connect(action, &QAction::toggled, this, &ExportPanel::changed);
  }
  also_->setMenu(menu);
  addField(tr("Also as"), also_);
  depth_ = combo(tr("Depth"), "export depth", {}, -1);
  addChoice(*depth_, SampleFormat::pcm16, tr("16 bit"));
  addChoice(*depth_, SampleFormat::pcm24, tr("24 bit"));
  addChoice(*depth_, SampleFormat::pcm32, tr("32 bit"));
  addChoice(*depth_, SampleFormat::float32, tr("32 bit float"));
  setChoice(*depth_, SampleFormat::pcm24);
  quality_ = numberField(kQualityRange, tr("Quality"), this);
  quality_->setObjectName("export quality");
  quality_->setToolTip(tr("Of packed formats: how much is kept"));
  connect(quality_, &QDoubleSpinBox::valueChanged, this, &ExportPanel::changed);
  addField(tr("Quality"), quality_);
}

std::vector<FileFormat> ExportPanel::also() const {
  std::vector<FileFormat> out;
  const auto actions = also_->menu()->actions();
  for (int i = 0; i < actions.size(); ++i)
    if (const auto format = static_cast<FileFormat>(actions[i]->data().toInt());
        actions[i]->isChecked() && format != choiceIn<FileFormat>(*format_))
      out.push_back(format);
  return out;
}

ExportSettings ExportPanel::settings() const {
  ExportSettings s;
  s.what = choiceIn<ExportWhat>(*what_);
  s.format = choiceIn<FileFormat>(*format_);
  s.also = also();
  s.samples = choiceIn<SampleFormat>(*depth_);
  s.dither = dither_->isChecked();
  s.quality = quality_->value();
  s.rate = rate_->currentData().toInt();
  s.mono = channels_->currentIndex() == 1;
  s.names = names_->text().trimmed().toStdString();
  if (loud_->isChecked()) s.loudness = loudness_->value();
  s.tailSeconds = tail_->value();
  s.midi = midi_->isChecked();
  s.click = click_->isChecked();
  s.range = range_->currentIndex() == 1 ? doc_.selection().range() : FrameRange{Frames{0}, doc_.song().end()};
  if (s.what == ExportWhat::clips) s.clips = doc_.selection().clips();
  return s;
}

void ExportPanel::show(const ExportSettings& s) {
  const QSignalBlocker quiet(this);
  setChoice(*what_, s.what);
  setChoice(*format_, s.format);
  const auto actions = also_->menu()->actions();
  for (int i = 0; i < actions.size(); ++i)
    actions[i]->setChecked(
        std::find(s.also.begin(), s.also.end(), static_cast<FileFormat>(actions[i]->data().toInt())) != s.also.end());
  setChoice(*depth_, s.samples);
  dither_->setChecked(s.dither);
  quality_->setValue(s.quality);
  rate_->setCurrentIndex(std::max(0, rate_->findData(s.rate)));
  channels_->setCurrentIndex(s.mono ? 1 : 0);
  names_->setText(QString::fromStdString(s.names));
  loud_->setChecked(s.loudness.has_value());
  if (s.loudness) loudness_->setValue(*s.loudness);
  tail_->setValue(s.tailSeconds);
  midi_->setChecked(s.midi);
  click_->setChecked(s.click);
}

void ExportPanel::refresh() {
  const auto s = settings();
  auto formats = s.also;
  formats.push_back(s.format);
  const auto packed = std::count_if(formats.begin(), formats.end(), isPacked);
  depth_->setEnabled(packed < std::ssize(formats));
  quality_->setEnabled(packed > 0);
  dither_->setEnabled(depth_->isEnabled() && depth_->currentIndex() < 2);
  channels_->setEnabled(!keepsMics(s.what));
  names_->setEnabled(s.what != ExportWhat::mix);
  constexpr std::array kUsual{"", "{track}", "{set}", "{number} {section}", "{clip} {number}"};
  names_->setPlaceholderText(s.what == ExportWhat::mix ? tr("asked for")
                                                       : QString(kUsual[static_cast<std::size_t>(s.what)]));
  QStringList more;
  for (const auto f : s.also) more << titleOf(f);
  also_->setText(QChar(0x2002) + (more.isEmpty() ? tr("none") : more.join(", ")));
  if (s.range.empty())
    return length_->setText(range_->currentIndex() == 1 ? tr("No range is chosen.") : tr("Nothing to export yet."));
  const auto stems = exportStems(doc_.song(), s, "x");
  if (!stems) return length_->setText(QString::fromStdString(stems.error().message));
  const double seconds =
      static_cast<double>(playedLength(doc_.song(), stems->front().whole()).value) / doc_.song().rate;
  const auto files = counted(stems->size() * (1 + s.also.size()), "file", "files");
  switch (s.what) {
    case ExportWhat::mix:
      length_->setText(tr("%1 of %2 s, with gains, pans, mutes and solos.").arg(files).arg(seconds, 0, 'f', 1));
      break;
    case ExportWhat::tracks:
    case ExportWhat::sets:
      length_->setText(tr("%1 of %2 s, as edited, without gain and pan.").arg(files).arg(seconds, 0, 'f', 1));
      break;
    case ExportWhat::sections: length_->setText(tr("%1, with gains, pans, mutes and solos.").arg(files)); break;
    case ExportWhat::clips:
      length_->setText(s.clips.empty() ? tr("%1, as edited, without the tracks' gain and pan.").arg(files)
                                       : tr("%1 of the chosen clips, as edited, without gain and pan.").arg(files));
      break;
  }
}

void ExportPanel::run() {
  const auto s = settings();
  const auto ending = QString(extensionOf(s.format));
  const auto name = QString::fromStdString(doc_.song().name);
  const auto target = s.what == ExportWhat::mix
                          ? askWhereToSave(this, tr("Export the mix"), name + ending,
                                           QString("%1 (*%2)").arg(format_->currentText(), ending))
                          : QFileDialog::getExistingDirectory(this, tr("Export into this folder"));
  if (!target.isEmpty()) doc_.printDesk().exportTo(s, target.toStdString());
}

}  // namespace ochron
