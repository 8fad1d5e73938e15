#include "import_dialog.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileInfo>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>
#include <algorithm>
#include <set>

#include "document/song_files.h"
#include "document/takes_desk.h"
#include "document/wording.h"
#include "edits/rate_edits.h"
#include "media/audio_file.h"
#include "panel/choice.h"
#include "takes/mic_names.h"
#include "theme/theme.h"

namespace ochron {

namespace {

/// The usual rates and those of the files, in order.
std::set<int> offeredRates(const std::map<int, int>& ofFiles) {
  std::set<int> out(kUsualRates.begin(), kUsualRates.end());
  for (const auto& [rate, count] : ofFiles)
    if (kSongRateRange.accepts(rate)) out.insert(rate);
  return out;
}

}  // namespace

ImportDialog::ImportDialog(const QStringList& files, const QString& takeName, std::optional<int> songRate,
                           QWidget* parent)
    : QDialog(parent), songRate_(songRate) {
  setWindowTitle(tr("Import recordings"));
  resize(560, std::min(640, 320 + 34 * static_cast<int>(files.size())));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(22, 20, 22, 18);
  column->setSpacing(12);
  auto* title = new QLabel(
      files.size() == 1 ? tr("This file becomes a take") : tr("%1 files become one take").arg(files.size()), this);
  title->setFont(Theme::get().font(16, 600));
  column->addWidget(title);
  auto* top = new QHBoxLayout;
  top->addWidget(new QLabel(tr("Take"), this));
  takeName_ = new QLineEdit(takeName, this);
  takeName_->setObjectName("take name");
  top->addWidget(takeName_, 1);
  column->addLayout(top);

  auto* scroll = new QScrollArea(this);
  scroll->setWidgetResizable(true);
  auto* inside = new QWidget;
  auto* grid = new QGridLayout(inside);
  grid->setHorizontalSpacing(10);
  grid->setVerticalSpacing(6);
  grid->setColumnStretch(0, 1);
  int at = 0;
  for (const auto& text : {tr("Track"), tr("Mic"), tr("One set")}) {
    auto* l = new QLabel(text, inside);
    l->setProperty("note", true);
    grid->addWidget(l, 0, at++);
  }
  std::vector<std::string> names;
  for (const auto& f : files) names.push_back(QFileInfo(f).completeBaseName().toStdString());
  const auto kit = guessDrumKit(names);
  for (int i = 0; i < files.size(); ++i) {
    Line line{files[i], new QLineEdit(QString::fromStdString(names[static_cast<std::size_t>(i)]), inside),
              new QComboBox(inside), new QCheckBox(inside)};
    addChoices<MicRole>(*line.role, kMicRoleNames);
    setChoice(*line.role, guessRole(names[static_cast<std::size_t>(i)]));
    line.inSet->setChecked(std::find(kit.begin(), kit.end(), i) != kit.end());
    line.inSet->setAccessibleName(tr("%1 belongs to the mic set").arg(line.name->text()));
    grid->addWidget(line.name, i + 1, 0);
    grid->addWidget(line.role, i + 1, 1);
    grid->addWidget(line.inSet, i + 1, 2, Qt::AlignCenter);
    lines_.push_back(line);
  }
  grid->setRowStretch(static_cast<int>(files.size()) + 1, 1);
  scroll->setWidget(inside);
  column->addWidget(scroll, 1);
  auto* hint = new QLabel(kit.empty() ? tr("Tick the mics of one kit: they are then always cut and moved as one.")
                                      : tr("These names look like one drum kit: ticked mics are always cut and moved "
                                           "as one, and their hits are found at once."),
                          this);
  hint->setProperty("note", true);
  hint->setWordWrap(true);
  column->addWidget(hint);
  addRate(files, *column);
  auto* buttons = new QHBoxLayout;
  buttons->addStretch(1);
  auto* cancel = new QPushButton(tr("Cancel"), this);
  auto* ok = new QPushButton(tr("Import"), this);
  ok->setObjectName("import now");
  ok->setProperty("primary", true);
  ok->setDefault(true);
  buttons->addWidget(cancel);
  buttons->addWidget(ok);
  column->addLayout(buttons);
  connect(cancel, &QPushButton::clicked, this, &QDialog::reject);
  connect(ok, &QPushButton::clicked, this, &QDialog::accept);
}

/// Which rate the song takes, and which of the files are converted to it.
void ImportDialog::addRate(const QStringList& files, QBoxLayout& column) {
  for (const auto& f : files)
    if (const auto reader = AudioFileReader::open(f.toStdString(), Damaged::accept)) ++rates_[reader->info().rate];
  rateNote_ = new QLabel(this);
  rateNote_->setObjectName("rates");
  rateNote_->setProperty("note", true);
  rateNote_->setWordWrap(true);
  if (!songRate_) {
    auto* row = new QHBoxLayout;
    auto* label = new QLabel(tr("The song runs at"), this);
    rate_ = new QComboBox(this);
    rate_->setObjectName("song rate");
    label->setBuddy(rate_);
    int most = 0;
    for (const auto& [rate, count] : rates_) most = std::max(most, count);
    for (const int rate : offeredRates(rates_)) {
      rate_->addItem(rateText(rate), rate);
      if (rates_.contains(rate) && rates_.at(rate) == most) rate_->setCurrentIndex(rate_->count() - 1);
    }
    if (rates_.empty()) rate_->setCurrentIndex(rate_->findData(kSongRateRange.fallback));
    row->addWidget(label);
    row->addWidget(rate_);
    row->addStretch(1);
    column.addLayout(row);
    connect(rate_, &QComboBox::currentIndexChanged, this, &ImportDialog::sayRates);
  }
  column.addWidget(rateNote_);
  sayRates();
}

void ImportDialog::sayRates() {
  QStringList others;
  for (const auto& [rate, count] : rates_)
    if (rate != this->rate())
      others << tr("%1 of %2").arg(counted(static_cast<std::size_t>(count), "file", "files"), rateText(rate));
  rateNote_->setVisible(!others.isEmpty());
  rateNote_->setText(tr("Converted to %1: %2. The others are used as they were recorded, to the bit.")
                         .arg(rateText(rate()), others.join(tr(", "))));
}

int ImportDialog::rate() const {
  if (rate_) return rate_->currentData().toInt();
  return songRate_.value_or(static_cast<int>(kSongRateRange.fallback));
}

std::vector<TakesDesk::ImportFile> ImportDialog::files() const {
  std::vector<TakesDesk::ImportFile> out;
  for (const auto& l : lines_)
    out.push_back({l.path.toStdString(),
                   l.name->text().isEmpty() ? QFileInfo(l.path).completeBaseName() : l.name->text(),
                   choiceIn<MicRole>(*l.role), l.inSet->isChecked()});
  return out;
}

QString ImportDialog::takeName() const { return takeName_->text().isEmpty() ? tr("Take") : takeName_->text(); }

}  // namespace ochron
