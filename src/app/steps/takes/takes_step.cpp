#include "steps/takes/takes_step.h"

#include <QFileDialog>
#include <QGridLayout>
#include <QLineEdit>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <set>

#include "actions/actions.h"
#include "document/fresh.h"
#include "document/selection.h"
#include "document/takes_desk.h"
#include "document/tempo_desk.h"
#include "document/wording.h"
#include "edits/anchor_edits.h"
#include "edits/rate_edits.h"
#include "edits/tempo_edits.h"
#include "edits/track_edits.h"
#include "panel/choice.h"
#include "panel/controls.h"
#include "steps/takes/takes_bench.h"
#include "theme/theme.h"

namespace ochron {

TakesStep::TakesStep(Document& document, QWidget* parent) : StepPage(document, parent) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 0, 16, 14);
  column->setSpacing(8);
  auto* import = new QPushButton(tr("Import recordings\u2026"), this);
  import->setProperty("primary", true);
  import->setObjectName("import");
  Actions::bind(import, "song.import");
  column->addWidget(import);
  relink_ = new QPushButton(tr("Recordings to look at\u2026"), this);
  relink_->setObjectName("relink");
  Actions::bind(relink_, "song.recordings");
  column->addWidget(relink_);

  auto* grid = new QGridLayout;
  grid->setVerticalSpacing(6);
  grid->setHorizontalSpacing(8);
  const auto row = [&](QGridLayout* to, const QString& text, QWidget* field) {
    auto* label = new QLabel(text, this);
    label->setBuddy(field);
    const int at = to->rowCount();
    to->addWidget(label, at, 0);
    to->addWidget(field, at, 1);
  };
  tempo_ = numberField(kBpmRange, tr("Song tempo"), this);
  row(grid, tr("Tempo"), tempo_);
  meter_ = new QLineEdit(this);
  meter_->setObjectName("Meter");
  meter_->setAlignment(Qt::AlignRight);
  row(grid, tr("Meter"), meter_);
  start_ = numberField({"bar 1 at", "s", -3600, 36'000, 0.001, 0}, tr("Bar 1 at"), this);
  start_->setDecimals(3);
  start_->setToolTip(tr("Where bar 1 begins on the song's clock"));
  row(grid, tr("Bar 1 at"), start_);
  rate_ = new QComboBox(this);
  rate_->setObjectName("Song rate");
  rate_->setToolTip(
      tr("Samples a second that the song runs at. Recordings of this rate are used as they are, to the "
         "bit; others are converted"));
  row(grid, tr("Rate"), rate_);
  connect(rate_, &QComboBox::activated, this, [this](int i) { doc_.takesDesk().setRate(rate_->itemData(i).toInt()); });
  column->addLayout(grid);
  connect(tempo_, &QDoubleSpinBox::valueChanged, this, &TakesStep::setTempo);
  connect(meter_, &QLineEdit::editingFinished, this, [this] { setMeter(meter_->text()); });
  connect(start_, &QDoubleSpinBox::valueChanged, this, [this](double s) {
    doc_.edit(tr("Move bar 1"), shiftBars(doc_.song(), Ticks{}, Frames{std::llround(s * doc_.song().rate)}), "bar 1");
  });

  trackBox_ = new QWidget(this);
  auto* box = new QGridLayout(trackBox_);
  box->setContentsMargins(0, 8, 0, 0);
  box->setVerticalSpacing(6);
  box->setHorizontalSpacing(8);
  auto* heading = new QLabel(tr("Selected track"), trackBox_);
  heading->setFont(Theme::get().font(12, 600));
  box->addWidget(heading, 0, 0, 1, 2);
  name_ = new QLineEdit(trackBox_);
  name_->setObjectName("Track name");
  row(box, tr("Name"), name_);
  role_ = new QComboBox(trackBox_);
  role_->setObjectName("Mic role");
  role_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  role_->setMinimumContentsLength(8);
  addChoices<MicRole>(*role_, kMicRoleNames);
  row(box, tr("Mic"), role_);
  gain_ = numberField(kGainRange, tr("Track gain"), trackBox_);
  row(box, tr("Gain"), gain_);
  pan_ = numberField(kPanRange, tr("Track pan"), trackBox_);
  row(box, tr("Pan"), pan_);
  column->addWidget(trackBox_);
  connect(name_, &QLineEdit::editingFinished, this,
          [this] { changeTrack(tr("Rename track"), [&](Track& t) { t.name = name_->text().toStdString(); }); });
  connect(role_, &QComboBox::activated, this,
          [this] { changeTrack(tr("Change mic role"), [&](Track& t) { t.role = choiceIn<MicRole>(*role_); }); });
  connect(gain_, &QDoubleSpinBox::valueChanged, this,
          [this](double v) { changeTrack(tr("Change gain"), [&](Track& t) { t.gainDb = v; }); });
  connect(pan_, &QDoubleSpinBox::valueChanged, this,
          [this](double v) { changeTrack(tr("Change pan"), [&](Track& t) { t.pan = v; }); });

  group_ = new QPushButton(this);
  group_->setObjectName("mic set");
  Actions::bind(group_, "take.micset");
  column->addWidget(group_);
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->on(&doc_, &Document::songChanged).on(doc_.selection(), Selection::kWhere).on(&doc_, &Document::mediaChanged);
  refresh();
}

void TakesStep::refresh() {
  const auto& song = doc_.song();
  const QSignalBlocker a(tempo_), b(start_), c(gain_), d(pan_), e(role_), f(rate_);
  tempo_->setValue(song.tempo.bpmAt(Ticks{0}));
  const auto meter = song.tempo.meterOfBar(0);
  if (!meter_->hasFocus()) meter_->setText(QString::fromStdString(toText(meter)));
  start_->setValue(static_cast<double>(song.tempo.origin().value) / song.rate);
  rate_->clear();
  std::set<int> rates(kUsualRates.begin(), kUsualRates.end());
  rates.insert(song.rate);
  for (const int r : rates) rate_->addItem(rateText(r), r);
  rate_->setCurrentIndex(rate_->findData(song.rate));
  relink_->setVisible(!doc_.recordings().troubles().empty());
  const auto* track = song.find(doc_.selection().track());
  trackBox_->setVisible(track != nullptr);
  const auto* set = track ? song.setOf(track->id) : song.find(doc_.selection().set());
  group_->setVisible(song.tracks.size() > 1);
  group_->setText(set && set->tracks.size() > 1
                      ? tr("Mic set: %1\u2026").arg(counted(set->tracks.size(), "mic", "mics"))
                      : tr("Make a mic set\u2026"));
  if (!track) return;
  if (!name_->hasFocus()) name_->setText(QString::fromStdString(track->name));
  setChoice(*role_, track->role);
  gain_->setValue(track->gainDb);
  pan_->setValue(track->pan);
}

void TakesStep::changeTrack(const QString& name, const std::function<void(Track&)>& change) {
  const auto* t = doc_.song().find(doc_.selection().track());
  if (!t) return;
  Track next = *t;
  change(next);
  if (next.name.empty()) next.name = t->name;
  doc_.edit(name, ochron::setTrack(doc_.song(), next));
}

void TakesStep::setTempo(double bpm) {
  if (const auto anchors = doc_.song().anchors->size(); anchors > 0) {
    doc_.tell(
        tr("The tempo follows %1. Move or remove them in the Tempo step.").arg(counted(anchors, "anchor", "anchors")));
    return refresh();
  }
  const auto& t = doc_.song().tempo;
  auto events = t.tempos();
  if (events.size() == 1)
    events.front().bpm = bpm;
  else
    for (auto& e : events) e.bpm *= bpm / t.bpmAt(Ticks{0});
  auto map = TempoMap::make(t.rate(), t.origin(), events, t.meters());
  doc_.tempoDesk().setMap(tr("Change tempo"), map, "tempo");
}

void TakesStep::setMeter(const QString& text) {
  auto meter = parseMeter(text.toStdString());
  if (!meter) {
    doc_.refuse(meter.error());
    return refresh();
  }
  doc_.edit(tr("Change meter"), ochron::setMeter(doc_.song(), 0, *meter, false));
}

QWidget* TakesStep::makeBench(ViewState&, QWidget* parent) { return new TakesBench(doc_, parent); }

StepState TakesStep::state() const {
  const auto& song = doc_.song();
  if (song.takes.empty()) return {tr("empty"), tr("Nothing recorded yet"), 0};
  const auto* set = song.find(doc_.selection().set());
  return {counted(song.tracks.size(), "track", "tracks"),
          counted(song.takes.size(), "take", "takes") + " \u00b7 " +
              counted(set ? set->tracks.size() : 0, "mic", "mics") + ", " +
              counted(song.tracks.size(), "track", "tracks"),
          static_cast<int>(doc_.recordings().troubles().size())};
}

}  // namespace ochron
