#include "steps/tempo/tempo_step.h"

#include <QButtonGroup>
#include <QGridLayout>
#include <QPainter>
#include <QSignalBlocker>
#include <algorithm>
#include <cmath>

#include "actions/actions.h"
#include "document/fresh.h"
#include "document/selection.h"
#include "document/tempo_desk.h"
#include "document/wording.h"
#include "panel/choice.h"
#include "panel/controls.h"
#include "panel/fold.h"
#include "steps/tempo/meter_box.h"
#include "steps/tempo/speed_box.h"
#include "steps/tempo/tempo_bench.h"
#include "takes/hear_tempo.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr SettingRange kDownbeatRange{"first downbeat", "s", 0, 36'000, 0.01, 0};
constexpr SettingRange kBeatsRange{"beats", "", 0, 4096, 1, 0};

/// A reading of the tempo: its figure, and how much speaks for it as a line.
class Candidate : public QPushButton {
 public:
  Candidate(const QString& text, double score, bool used, QWidget* parent)
      : QPushButton(text, parent), score_(score), used_(used) {
    setProperty("candidate", true);
    setMinimumHeight(34);
    setCursor(Qt::PointingHandCursor);
    setAccessibleName(tr("%1, %2 % sure").arg(text).arg(std::lround(100 * score)));
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    const auto& theme = Theme::get();
    const auto& sheet = theme.sheet();
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(used_ || hasFocus() || underMouse() ? sheet.selection : sheet.rule, used_ ? 1.4 : 1));
    p.setBrush(used_ ? sheet.selectionSoft : sheet.field);
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 5, 5);
    p.setFont(theme.font(12, 500));
    p.setPen(sheet.ink);
    p.drawText(rect().adjusted(10, 4, -8, -12), Qt::AlignLeft | Qt::AlignVCenter, text());
    p.setFont(theme.font(10.5));
    p.setPen(sheet.note);
    p.drawText(rect().adjusted(10, 4, -10, -12), Qt::AlignRight | Qt::AlignVCenter,
               tr("%1 %").arg(std::lround(100 * score_)));
    const QRectF line(10, height() - 9.0, width() - 20.0, 3);
    p.setPen(Qt::NoPen);
    p.setBrush(sheet.hairline);
    p.drawRoundedRect(line, 1.5, 1.5);
    p.setBrush(sheet.selection);
    p.drawRoundedRect(QRectF(line.topLeft(), QSizeF(std::max(3.0, line.width() * std::min(1.0, score_)), 3)), 1.5, 1.5);
  }

 private:
  double score_;
  bool used_;
};

}  // namespace

TempoStep::TempoStep(Document& document, QWidget* parent) : StepPage(document, parent), desk_(document.tempoDesk()) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 0, 16, 14);
  column->setSpacing(7);
  column->addWidget(noteLabel(tr("Which follows which?"), this));
  auto* which = new QHBoxLayout;
  which->setSpacing(0);
  songFollows_ = new QPushButton(tr("Song follows\nrecording"), this);
  recordingFollows_ = new QPushButton(tr("Recording\nfollows song"), this);
  auto* group = new QButtonGroup(this);
  for (auto* b : {songFollows_, recordingFollows_}) {
    b->setProperty(kCommand, "tempo.follows");
    b->setCheckable(true);
    b->setProperty("half", true);
    b->setMinimumSize(80, 42);
    group->addButton(b);
    which->addWidget(b, 1);
  }
  songFollows_->setObjectName("song follows");
  recordingFollows_->setObjectName("recording follows");
  songFollows_->setChecked(true);
  column->addLayout(which);
  addSearch(column);
  pages_ = new QStackedWidget(this);
  pages_->addWidget(buildSongFollows());
  pages_->addWidget(buildRecordingFollows());
  column->addWidget(pages_);
  auto* meter = new Fold("meter", tr("Meter"), false, this);
  meter->inside()->addWidget(new MeterBox(doc_, meter));
  column->addWidget(meter);
  auto* speed = new Fold("song speed", tr("Song speed"), false, this);
  speed->inside()->addWidget(new SpeedBox(doc_, speed));
  column->addWidget(speed);
  connect(group, &QButtonGroup::buttonClicked, this,
          [this](QAbstractButton* b) { desk_.setRecordingFollows(b == recordingFollows_); });
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->onSong(doc_).on(doc_.selection(), Selection::kWhere);
  auto* heard = new Fresh(this, [this] {
    showCandidates();
    refresh();
  });
  heard->on(&desk_, &TempoDesk::changed).on(doc_.selection(), Selection::kSet);
  showCandidates();
  refresh();
}

void TempoStep::addSearch(QVBoxLayout* column) {
  listen_ = new QPushButton(tr("Listen"), this);
  listen_->setObjectName("listen for tempo");
  listen_->setProperty("primary", true);
  listen_->setToolTip(
      tr("Hears tempo, beats and bars of all that plays together, drums leading. Nothing is changed by it. The "
         "chosen track alone: in the Tempo menu"));
  Actions::bind(listen_, "take.heartempo");
  slowest_ = numberField(kSlowestRange, tr("Slowest tempo"), this);
  fastest_ = numberField(kFastestRange, tr("Fastest tempo"), this);
  auto* line = new QHBoxLayout;
  line->setSpacing(6);
  for (auto* f : {slowest_, fastest_}) fixWidth(*f, 78);
  line->addWidget(slowest_, 1);
  line->addWidget(noteLabel(QStringLiteral("\u2013"), this));
  line->addWidget(fastest_, 1);
  for (auto* f : {slowest_, fastest_})
    connect(f, &QDoubleSpinBox::valueChanged, this, [this] {
      auto s = desk_.search();
      s.slowest = slowest_->value();
      s.fastest = fastest_->value();
      desk_.setSearch(s);
    });
  column->addWidget(noteLabel(tr("Look between"), this));
  column->addLayout(line);
  column->addWidget(listen_);
  listenAll_ = new QPushButton(tr("Listen to all takes"), this);
  listenAll_->setObjectName("listen to all");
  listenAll_->setToolTip(tr("Hears each track's own tempo, for loops that are to be fitted together"));
  Actions::bind(listenAll_, "tempo.hearall");
  column->addWidget(listenAll_);
  candidates_ = new QVBoxLayout;
  candidates_->setSpacing(5);
  column->addLayout(candidates_);
  bars_ = noteLabel({}, this);
  bars_->setObjectName("bars heard");
  bars_->hide();
  column->addWidget(bars_);
}

QWidget* TempoStep::buildSongFollows() {
  auto* page = new QWidget(this);
  auto* column = new QVBoxLayout(page);
  column->setContentsMargins(0, 4, 0, 0);
  column->setSpacing(7);
  map_ = new QLabel(page);
  map_->setFont(Theme::get().font(12, 600));
  map_->setObjectName("tempo map summary");
  column->addWidget(map_);
  const auto control = [&](double AnchorSettings::*field, const QString& title) {
    const auto& n = settingOf(kAnchorNumbers, field);
    auto* c = new SettingControl(title, n.range, {}, page);
    c->setToolTip(tr(std::string(n.help).c_str()));
    connect(c, &SettingControl::changed, this, [this, field, title](double v) {
      auto s = doc_.song().anchorSettings;
      s.*field = v;
      desk_.setSettings(s, title);
    });
    connect(c, &SettingControl::held, &doc_, holdingWhile(doc_));
    column->addWidget(c);
    return c;
  };
  within_ = control(&AnchorSettings::withinMs, tr("Held within"));
  smooth_ = control(&AnchorSettings::smooth, tr("Smooth"));
  ramps_ = new QCheckBox(tr("Glide instead of jumping"), page);
  ramps_->setObjectName("ramps");
  connect(ramps_, &QCheckBox::clicked, this, [this](bool on) {
    auto s = doc_.song().anchorSettings;
    s.ramps = on;
    desk_.setSettings(s);
  });
  column->addWidget(ramps_);
  anchor_ = new QPushButton(tr("Anchor the downbeats"), page);
  anchor_->setObjectName("anchor downbeats");
  anchor_->setProperty("primary", true);
  Actions::bind(anchor_, "tempo.anchor");
  column->addWidget(anchor_);
  forget_ = new QPushButton(tr("Remove all anchors"), page);
  forget_->setObjectName("remove anchors");
  Actions::bind(forget_, "tempo.removeall");
  column->addWidget(forget_);
  steady_ = new SettingControl(tr("Steadier by"), kSteadyRange, {}, page);
  steady_->setHint(tr("recordings follow, stretched between hits"));
  steady_->show(kSteadyRange.fallback);
  column->addWidget(steady_);
  makeSteady_ = new QPushButton(tr("Make it steady"), page);
  makeSteady_->setObjectName("make steady");
  makeSteady_->setProperty(kCommand, "tempo.steady");
  connect(makeSteady_, &QPushButton::clicked, this, [this] { desk_.steady(steady_->value()); });
  column->addWidget(makeSteady_);
  column->addWidget(noteLabel(tr("Drag a bar line onto its downbeat: it becomes an anchor."), page));
  column->addStretch(1);
  return page;
}

QWidget* TempoStep::buildRecordingFollows() {
  auto* page = new QWidget(this);
  auto* column = new QVBoxLayout(page);
  column->setContentsMargins(0, 4, 0, 0);
  column->setSpacing(7);
  auto* grid = new QGridLayout;
  grid->setVerticalSpacing(5);
  grid->setColumnStretch(0, 1);
  sourceBpm_ = numberField(kBpmRange, tr("Its tempo"), page);
  downbeat_ = numberField(kDownbeatRange, tr("First downbeat"), page);
  downbeat_->setDecimals(3);
  beats_ = numberField(kBeatsRange, tr("Beats in it"), page);
  beats_->setSpecialValueText(tr("\u2013"));
  for (auto* f : {sourceBpm_, downbeat_, beats_}) { addLabelled(*grid, f, 84, page); }
  column->addLayout(grid);
  connect(beats_, &QDoubleSpinBox::valueChanged, this, [this](double beats) {
    const auto clip = desk_.clipToFit();
    if (!clip || beats <= 0) return;
    const auto played = doc_.song().find(*clip)->played();
    const QSignalBlocker quiet(downbeat_);
    downbeat_->setValue(static_cast<double>(played.start.value) / doc_.song().rate);
    sourceBpm_->setValue(kBpmRange.clamp(60 * beats * doc_.song().rate / static_cast<double>(played.length().value)));
  });
  auto* factors = new QHBoxLayout;
  factors->setSpacing(6);
  const auto factor = [&](const QString& text, const char* name, double by) {
    auto* b = new QPushButton(text, page);
    b->setObjectName(name);
    b->setProperty("small", true);
    b->setMinimumWidth(36);
    connect(b, &QPushButton::clicked, this, [this, by] { sourceBpm_->setValue(sourceBpm_->value() * by); });
    factors->addWidget(b, 1);
  };
  factor(tr("half"), "source half", 0.5);
  factor(tr("twice"), "source twice", 2);
  factor(tr("3 for 2"), "source 3 for 2", 1.5);
  column->addLayout(factors);
  for (auto* f : {sourceBpm_, downbeat_})
    connect(f, &QDoubleSpinBox::valueChanged, this, [this] {
      typed_ = true;
      settle();
      refresh();
    });
  fits_ = noteLabel({}, page);
  column->addWidget(fits_);
  fit_ = new QPushButton(tr("Fit to the song"), page);
  fit_->setObjectName("fit take");
  fit_->setProperty("primary", true);
  fit_->setProperty(kCommand, "tempo.fit");
  connect(fit_, &QPushButton::clicked, this, [this] { desk_.fit(source(), choiceIn<FitManner>(*manner_)); });
  manner_ = new QComboBox(page);
  manner_->setObjectName("fit manner");
  manner_->setAccessibleName(tr("How it is fitted"));
  addChoice(*manner_, FitManner::stretched, tr("by stretching, pitch stays"));
  addChoice(*manner_, FitManner::tape, tr("as a tape, pitch goes along"));
  addChoice(*manner_, FitManner::slices, tr("by slices at hits"));
  manner_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  manner_->setMinimumContentsLength(8);
  column->addWidget(manner_);
  column->addWidget(fit_);
  fitRange_ = new QPushButton(tr("Fit to the range"), page);
  fitRange_->setObjectName("fit to range");
  fitRange_->setToolTip(tr("The clip begins and ends where the range does"));
  Actions::bind(fitRange_, "tempo.fitrange");
  column->addWidget(fitRange_);
  fitAll_ = new QPushButton(tr("Fit all takes"), page);
  fitAll_->setObjectName("fit all");
  fitAll_->setToolTip(tr("Every take whose tempo is known, as one step"));
  Actions::bind(fitAll_, "tempo.fitall");
  column->addWidget(fitAll_);
  column->addWidget(noteLabel(tr("Or drag a clip's end onto a bar line, or a hit onto its beat. Attacks stay as they "
                                 "were recorded."),
                              page));
  column->addStretch(1);
  return page;
}

/// What the fields say; where they show what is known it is that, with all its digits.
SourceTempo TempoStep::source() const {
  const auto own = desk_.sourceOf(doc_.selection().set());
  const auto shows = [](const QDoubleSpinBox* field, double value) {
    return std::abs(field->value() - value) <= 0.5001 * std::pow(10, -field->decimals());
  };
  if (own && shows(sourceBpm_, own->bpm) &&
      shows(downbeat_, static_cast<double>(own->firstDownbeat.value) / doc_.song().rate))
    return *own;
  return {sourceBpm_->value(), Frames{std::llround(downbeat_->value() * doc_.song().rate)}};
}

/// The active take's tempo is what the fields say, from now on.
void TempoStep::settle() {
  if (doc_.selection().set() && desk_.sourceOf(doc_.selection().set()) != source())
    desk_.setSource(doc_.selection().set(), source());
}

void TempoStep::showCandidates() {
  shownSet_ = doc_.selection().set();
  while (auto* item = candidates_->takeAt(0)) {
    item->widget()->deleteLater();
    delete item;
  }
  const auto& heard = desk_.heard();
  bars_->setVisible(heard && heard->tempo.downbeats.size() > 1);
  if (!heard) return;
  bars_->setText(tr("Bars of %1, %2 % sure; %3")
                     .arg(QString::fromStdString(metersText(heard->tempo)))
                     .arg(100 * heard->tempo.barConfidence, 0, 'f', 0)
                     .arg(QString::fromStdString(steadyText(heard->tempo))));
  const auto now = doc_.song().tempo.bpmAt(Ticks{});
  const auto add = [&](const QString& text, double score, bool used, auto&& chosen) {
    auto* c = new Candidate(text, score, used, this);
    c->setObjectName(QStringLiteral("candidate %1").arg(candidates_->count()));
    connect(c, &QPushButton::clicked, this, chosen);
    candidates_->addWidget(c);
  };
  const auto& tempo = heard->tempo;
  const auto text =
      tempo.steady ? tr("%1 BPM").arg(tempo.bpm, 0, 'f', 2) : tr("%1 BPM, wandering").arg(tempo.bpm, 0, 'f', 1);
  const double quarters = tempo.quartersABeat();
  add(text, tempo.confidence, std::abs(now - tempo.bpm * quarters) < 0.02, [this, bpm = tempo.bpm * quarters] {
    if (desk_.recordingFollows())
      sourceBpm_->setValue(bpm);
    else
      desk_.use();
  });
  for (std::size_t i = 1; i < std::min<std::size_t>(3, tempo.candidates.size()); ++i) {
    const double bpm = tempo.candidates[i].bpm * quarters;
    add(tr("%1 BPM").arg(bpm / quarters, 0, 'f', 1), tempo.candidates[i].score, std::abs(now - bpm) < 0.02,
        [this, bpm] {
          if (desk_.recordingFollows())
            sourceBpm_->setValue(bpm);
          else
            desk_.useOne(bpm);
        });
  }
  if (desk_.sourceOf(shownSet_)) return;
  const QSignalBlocker a(sourceBpm_), b(downbeat_);
  sourceBpm_->setValue(tempo.bpm * quarters);
  if (!tempo.downbeats.empty()) downbeat_->setValue(tempo.downbeats.front());
}

void TempoStep::refresh() {
  const auto& song = doc_.song();
  const QSignalBlocker a(slowest_), b(fastest_);
  slowest_->setValue(desk_.search().slowest);
  fastest_->setValue(desk_.search().fastest);
  const auto anchors = song.anchors->size();
  const int bars = song.tempo.barAt(song.end()) + 1;
  map_->setText(tr("Map: %1 \u00b7 %2")
                    .arg(counted(static_cast<std::size_t>(std::max(0, bars)), "bar", "bars"),
                         counted(anchors, "anchor", "anchors")));
  within_->show(song.anchorSettings.withinMs);
  smooth_->show(song.anchorSettings.smooth);
  ramps_->setChecked(song.anchorSettings.ramps);
  for (QWidget* w : {static_cast<QWidget*>(within_), static_cast<QWidget*>(smooth_), static_cast<QWidget*>(ramps_),
                     static_cast<QWidget*>(forget_)})
    w->setEnabled(anchors > 0);
  const bool recordings = desk_.recordingFollows();
  (recordings ? recordingFollows_ : songFollows_)->setChecked(true);
  pages_->setCurrentIndex(recordings ? 1 : 0);
  listenAll_->setVisible(recordings);
  listenAll_->setEnabled(!song.tracks.empty());
  fitAll_->setEnabled(
      std::any_of(song.sets.begin(), song.sets.end(), [&](const MicSet& s) { return desk_.isSure(s.id); }));
  listen_->setEnabled(!song.tracks.empty());
  anchor_->setEnabled(desk_.heard() && desk_.heard()->tempo.downbeats.size() > 1);
  for (QWidget* w : {static_cast<QWidget*>(steady_), static_cast<QWidget*>(makeSteady_)})
    w->setEnabled(song.tempo.tempos().size() > 1 && !song.tracks.empty());
  if (!desk_.heard() && !typed_) {  // until a tempo is known nothing would be stretched
    const QSignalBlocker quiet(sourceBpm_);
    sourceBpm_->setValue(song.tempo.bpmAt(Ticks{}));
  }
  if (const auto own = desk_.sourceOf(doc_.selection().set())) {
    const QSignalBlocker c(sourceBpm_), d(downbeat_);
    sourceBpm_->setValue(own->bpm);
    downbeat_->setValue(static_cast<double>(own->firstDownbeat.value) / song.rate);
  }
  const auto clip = desk_.clipToFit();
  const auto* c = clip ? song.find(*clip) : nullptr;
  fit_->setEnabled(c != nullptr);
  fitRange_->setEnabled(c && !doc_.selection().range().empty());
  fits_->setText(c ? tr("becomes %1 % as long")
                         .arg(100 * sourceBpm_->value() / song.tempo.bpmAt(song.tempo.toTicks(c->start)), 0, 'f', 1)
                   : tr("no clip at the play line"));
}

QWidget* TempoStep::makeBench(ViewState& view, QWidget* parent) { return new TempoBench(doc_, view, parent); }

StepState TempoStep::state() const {
  const auto& map = doc_.song().tempo;
  const auto bpm = QString::number(map.bpmAt(Ticks{}), 'f', 1);
  if (const auto anchors = doc_.song().anchors->size(); anchors > 0)
    return {tr("%1 map").arg(bpm), tr("%1 tied to the recording").arg(counted(anchors, "bar", "bars")),
            checksOf(CheckGroup::tempo)};
  if (map.tempos().size() > 1) return {tr("%1 map").arg(bpm), counted(map.tempos().size(), "tempo", "tempos"), 0};
  return {tr("%1 BPM").arg(bpm), tr("One tempo, %1 BPM").arg(map.bpmAt(Ticks{}), 0, 'f', 2), 0};
}

}  // namespace ochron
