#include "steps/pitch/pitch_step.h"

#include <QFileDialog>
#include <QGridLayout>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>
#include <array>
#include <cmath>

#include "actions/actions.h"
#include "document/fresh.h"
#include "document/pitch_desk.h"
#include "document/selection.h"
#include "document/wording.h"
#include "panel/fold.h"
#include "steps/pitch/key_row.h"
#include "steps/pitch/pitch_lens.h"
#include "store/scala_file.h"
#include "theme/theme.h"

namespace ochron {
namespace {

struct TuneStart {
  const char* name;
  double centre;
  double wander;
  double vibrato;
  double tolerance;
};
/// Where a setting stands among those that a note can have of its own.
std::size_t numberOf(double TuneSettings::*value) {
  return static_cast<std::size_t>(&settingOf(kTuneNumbers, value) - kTuneNumbers.data());
}

constexpr std::array kTuneStarts{TuneStart{"Only what disturbs", 25, 100, 100, 20},
                                 TuneStart{"Close, still sung", 10, 60, 100, 5}, TuneStart{"Hard", 0, 0, 0, 0}};

}  // namespace

PitchStep::PitchStep(Document& document, QWidget* parent) : StepPage(document, parent), desk_(document.pitchDesk()) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 0, 16, 8);
  column->setSpacing(5);
  const auto combo = [&](const QString& name) {
    auto* box = new QComboBox(this);
    box->setObjectName(name);
    box->setAccessibleName(name);
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    box->setMinimumContentsLength(2);
    return box;
  };
  line_ = combo("line");
  line_->setPlaceholderText(tr("No line yet"));
  line_->setMinimumWidth(60);  // its words are cut before the panel grows
  line_->setToolTip(tr("The line that is worked on: a voice, a bass, a bowed string"));
  connect(line_, &QComboBox::activated, this,
          [this](int i) { doc_.selection().chooseSet(line_->itemData(i).value<SetId>()); });
  listen_ = new QPushButton(tr("Listen"), this);
  listen_->setObjectName("listen for pitch");
  listen_->setProperty("primary", true);
  listen_->setToolTip(tr("Hears the pitch and the notes of the active set. Nothing is changed by it"));
  Actions::bind(listen_, "pitch.hear");
  auto* first = new QHBoxLayout;
  first->setSpacing(6);
  first->addWidget(line_, 1);
  first->addWidget(listen_);
  column->addLayout(first);
  on_ = new QCheckBox(tr("Tune to the scale"), this);
  on_->setObjectName("tune on");
  connect(on_, &QCheckBox::clicked, this, [this](bool on) {
    change(on ? tr("Tune to the scale") : tr("Leave the pitch as sung"), [&](TuneSettings& s) { s.on = on; });
  });
  column->addWidget(on_);
  auto* grid = new QGridLayout;
  grid->setVerticalSpacing(4);
  grid->setHorizontalSpacing(6);
  tonic_ = combo("tonic");
  for (const auto& t : tonicNames()) tonic_->addItem(asInScores(QString::fromStdString(t)), QString::fromStdString(t));
  kind_ = combo("scale");
  kind_->setMinimumContentsLength(4);
  kind_->addItem("chromatic");
  for (const auto& k : scaleKinds()) kind_->addItem(QString::fromStdString(k));
  kind_->addItem(tr("from a file\u2026"));
  connect(tonic_, &QComboBox::activated, this, &PitchStep::chooseScale);
  connect(kind_, &QComboBox::activated, this, &PitchStep::chooseScale);
  grid->addWidget(tonic_, 0, 0);
  grid->addWidget(kind_, 0, 1);
  grid->setColumnStretch(1, 1);
  column->addLayout(grid);
  start_ = combo("tune from");
  start_->setMinimumContentsLength(8);
  start_->setToolTip(tr("Start from: how much of the singer stays"));
  for (const auto& s : kTuneStarts) start_->addItem(tr(s.name));
  start_->addItem(tr("Own settings"));
  connect(start_, &QComboBox::activated, this, [this](int i) {
    if (i >= std::ssize(kTuneStarts)) return refresh();
    const auto& p = kTuneStarts[static_cast<std::size_t>(i)];
    change(tr("Start from \"%1\"").arg(tr(p.name)), [&](TuneSettings& s) {
      s.on = true;
      s.keepCentre = p.centre, s.keepWander = p.wander, s.keepVibrato = p.vibrato, s.tolerance = p.tolerance;
    });
  });
  column->addWidget(start_);
  own_ = new QCheckBox(tr("Only the chosen notes"), this);
  own_->setObjectName("own values");
  own_->setToolTip(
      tr("What is kept, the glide and the formants are the chosen notes' own; the others keep to the plan"));
  connect(own_, &QCheckBox::clicked, this, &PitchStep::refresh);
  column->addWidget(own_);
  centre_ = control(&TuneSettings::keepCentre, tr("keep "));
  wander_ = control(&TuneSettings::keepWander, tr("keep "));
  vibrato_ = control(&TuneSettings::keepVibrato, tr("keep "));
  auto* more = new Fold("tune limits", tr("Glide, formants, limits"), false, this);
  glide_ = control(&TuneSettings::keepGlide, tr("keep "));
  formants_ = control(&TuneSettings::formants, {});
  for (auto* c : {glide_, formants_}) {
    column->removeWidget(c);
    more->inside()->addWidget(c);
  }
  auto* a4 = new QHBoxLayout;
  reference_ = numberField(kReferencePitchRange, tr("A4"), this);
  fixWidth(*reference_, 84);
  a4->addWidget(new QLabel(tr("A4"), this), 1);
  measured_ = new QPushButton(tr("as sung"), this);
  measured_->setObjectName("measure reference");
  measured_->setProperty("small", true);
  measured_->setToolTip(tr("Finds the A4 that these notes were sung to"));
  Actions::bind(measured_, "pitch.reference");
  a4->addWidget(measured_);
  a4->addWidget(reference_);
  connect(reference_, &QDoubleSpinBox::valueChanged, this, [this](double v) {
    change(tr("Change the reference pitch"), [&](TuneSettings& s) { s.scale.reference = v; });
  });
  more->inside()->addLayout(a4);
  auto* limits = new QGridLayout;
  limits->setVerticalSpacing(4);
  limits->setColumnStretch(0, 1);
  tolerance_ = field(&TuneSettings::tolerance);
  most_ = field(&TuneSettings::largestMove);
  most_->setSpecialValueText(tr("any"));
  transpose_ = field(&TuneSettings::transpose);
  for (auto* f : {tolerance_, most_, transpose_}) { addLabelled(*limits, f, 60, this); }
  more->inside()->addLayout(limits);
  column->addWidget(more);
  chosen_ = new QLabel(this);
  chosen_->setObjectName("chosen notes");
  chosen_->setFont(Theme::get().font(11.5, 600));
  chosen_->setSizePolicy(QSizePolicy::Ignored,
                         QSizePolicy::Preferred);  // however long it is, the panel keeps its width
  column->addSpacing(2);
  auto* named = new QHBoxLayout;
  named->setSpacing(6);
  named->addWidget(chosen_, 1);
  target_ = new QLineEdit(this);
  target_->setObjectName("note target");
  target_->setAccessibleName(tr("Pitch of the chosen notes"));
  target_->setPlaceholderText(tr("E4, +30"));
  target_->setToolTip(
      tr("The chosen notes' pitch: a note, perhaps with cents (E4, F#3 -20), or cents from where they are (+30)"));
  fixWidth(*target_, 76);
  connect(target_, &QLineEdit::returnPressed, this, &PitchStep::typePitch);
  named->addWidget(target_);
  column->addLayout(named);
  auto* buttons = new QHBoxLayout;
  buttons->setSpacing(6);
  asSung_ = new QPushButton(tr("As sung"), this);
  asSung_->setObjectName("as sung");
  giveBack_ = new QPushButton(tr("Give back"), this);
  giveBack_->setObjectName("give notes back");
  giveBack_->setToolTip(tr("To the plan: what was decided by hand is forgotten"));
  for (auto* b : {asSung_, giveBack_}) b->setProperty("small", true);
  buttons->setSpacing(4);
  buttons->addWidget(asSung_, 5);
  buttons->addWidget(giveBack_, 6);
  Actions::bind(asSung_, "pitch.assung");
  Actions::bind(giveBack_, "pitch.giveback");
  toHits_ = new QPushButton(tr("Hits"), this);
  toHits_->setObjectName("notes to hits");
  toHits_->setToolTip(tr("Where notes begin becomes hits of the timing plan: for soft onsets"));
  Actions::bind(toHits_, "pitch.tohits");
  toHits_->setProperty("small", true);
  buttons->addWidget(toHits_, 4);
  column->addLayout(buttons);
  auto* keys = new Fold("try keys", tr("Try keys"), true, this);
  keys->inside()->addWidget(new KeyBox(doc_, keys));
  column->addWidget(keys);
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->onSong(doc_).on(doc_.selection(), Selection::kWhere | Selection::kNotes).on(&desk_, &PitchDesk::changed);
  refresh();
}

SettingControl* PitchStep::control(double TuneSettings::*value, const QString& prefix) {
  const auto& setting = settingOf(kTuneNumbers, value);
  const auto title = titleOf(setting.range);
  auto* c = new SettingControl(title, setting.range, prefix, this);
  c->setHint(tr(std::string(setting.help).c_str()));
  connect(c, &SettingControl::changed, this, [this, title, value](double v) {
    if (forChosen()) return desk_.setOwn(numberOf(value), v, title);
    change(
        tr("Change %1").arg(title.toLower()), [&](TuneSettings& s) { s.*value = v; }, title);
  });
  connect(c, &SettingControl::held, &doc_, holdingWhile(doc_));
  static_cast<QVBoxLayout*>(layout())->addWidget(c);
  return c;
}

bool PitchStep::forChosen() const { return own_->isChecked() && !desk_.chosen().empty(); }

QDoubleSpinBox* PitchStep::field(double TuneSettings::*value) {
  const auto& setting = settingOf(kTuneNumbers, value);
  auto* f = numberField(setting.range, titleOf(setting.range), this);
  connect(f, &QDoubleSpinBox::valueChanged, this,
          [this, value](double v) { change(tr("Change what is moved"), [&](TuneSettings& s) { s.*value = v; }); });
  return f;
}

void PitchStep::change(const QString& name, const std::function<void(TuneSettings&)>& edit, const QString& gesture) {
  auto s = desk_.settings();
  edit(s);
  desk_.setSettings(name, s, gesture);
}

void PitchStep::chooseScale() {
  if (kind_->currentIndex() == kind_->count() - 1) return readScale();
  const auto kind = kind_->currentText();
  const auto text = kind == "chromatic" ? kind : tonic_->currentData().toString() + " " + kind;
  auto scale = parseScale(text.toStdString());
  if (!scale) return doc_.warn(QString::fromStdString(scale.error().message));
  scale->reference = reference_->value();
  change(tr("Tune to %1").arg(text), [&](TuneSettings& s) { s.scale = *scale; });
}

void PitchStep::readScale() {
  const auto file = QFileDialog::getOpenFileName(this, tr("Read a scale"), {}, tr("Scales (*.scl);;All files (*)"));
  if (!file.isEmpty()) {
    auto scale = loadScala(file.toStdString(), tonic_->currentIndex());
    if (!scale) {
      doc_.warn(QString::fromStdString(scale.error().message));
    } else {
      scale->reference = reference_->value();
      change(tr("Tune to %1").arg(QString::fromStdString(scale->name)), [&](TuneSettings& s) { s.scale = *scale; });
    }
  }
  refresh();
}

void PitchStep::fillLines() {
  const QSignalBlocker quiet(line_);
  const auto& sets = doc_.song().sets;
  // A list that is open stays so while what it shows holds.
  while (line_->count() > std::ssize(sets)) line_->removeItem(line_->count() - 1);
  for (int i = 0; i < std::ssize(sets); ++i) {
    const auto& set = sets[static_cast<std::size_t>(i)];
    if (i == line_->count()) line_->addItem({});
    if (const auto name = QString::fromStdString(set.name); line_->itemText(i) != name) line_->setItemText(i, name);
    line_->setItemData(i, QVariant::fromValue(set.id));
  }
  const auto chosen =
      std::find_if(sets.begin(), sets.end(), [&](const MicSet& s) { return s.id == doc_.selection().set(); });
  line_->setCurrentIndex(chosen == sets.end() ? -1 : static_cast<int>(chosen - sets.begin()));
  line_->setEnabled(!sets.empty());
}

void PitchStep::refresh() {
  fillLines();
  const QSignalBlocker a(tonic_), b(kind_), c(reference_), d(start_), e(tolerance_), f(most_), g(on_), h(transpose_);
  const auto& s = desk_.settings();
  const bool has = doc_.song().find(doc_.selection().set()) != nullptr;
  listen_->setEnabled(has);
  listen_->setText(desk_.heard() ? tr("Listen again") : tr("Listen"));
  const bool notes = !desk_.notes().empty();
  for (QWidget* w : {static_cast<QWidget*>(on_), static_cast<QWidget*>(tonic_), static_cast<QWidget*>(kind_),
                     static_cast<QWidget*>(reference_), static_cast<QWidget*>(start_), static_cast<QWidget*>(centre_),
                     static_cast<QWidget*>(wander_), static_cast<QWidget*>(vibrato_), static_cast<QWidget*>(glide_),
                     static_cast<QWidget*>(formants_), static_cast<QWidget*>(measured_),
                     static_cast<QWidget*>(tolerance_), static_cast<QWidget*>(most_)})
    w->setEnabled(notes);
  on_->setChecked(s.on);
  tonic_->setCurrentIndex(s.scale.tonic);
  const auto name = QString::fromStdString(s.scale.name);
  int kind = kind_->count() - 1;
  for (int i = 0; i + 1 < kind_->count(); ++i)
    if (name == kind_->itemText(i) || name.endsWith(" " + kind_->itemText(i)))
      if (kind == kind_->count() - 1 || kind_->itemText(i).size() > kind_->itemText(kind).size()) kind = i;
  kind_->setItemText(kind_->count() - 1, kind == kind_->count() - 1 ? name + "\u2026" : tr("from a file\u2026"));
  kind_->setCurrentIndex(kind);
  reference_->setValue(s.scale.reference);
  int start = static_cast<int>(kTuneStarts.size());
  for (std::size_t i = 0; i < kTuneStarts.size(); ++i) {
    const auto& p = kTuneStarts[i];
    if (s.keepCentre == p.centre && s.keepWander == p.wander && s.keepVibrato == p.vibrato &&
        s.tolerance == p.tolerance)
      start = static_cast<int>(i);
  }
  start_->setCurrentIndex(start);
  const auto chosen = desk_.chosen();
  own_->setEnabled(!chosen.empty());
  if (chosen.empty()) own_->setChecked(false);
  const auto held = forChosen() ? chosen.front().tuned.settings : s;
  centre_->show(held.keepCentre);
  wander_->show(held.keepWander);
  vibrato_->show(held.keepVibrato);
  glide_->show(held.keepGlide);
  formants_->show(held.formants);
  tolerance_->setValue(s.tolerance);
  most_->setValue(s.largestMove);
  transpose_->setValue(s.transpose);
  if (chosen.empty())
    chosen_->setText(notes ? tr("No note chosen") : tr("No notes yet"));
  else if (chosen.size() == 1)
    chosen_->setText(
        tr("%1 \u2192 %2")
            .arg(pitchName(chosen[0].tuned.parts.centre, s.scale), desk_.heardName(chosen[0].tuned.after)));
  else
    chosen_->setText(tr("%1 of %2 chosen").arg(chosen.size()).arg(desk_.notes().size()));
  chosen_->setToolTip(chosen_->text());
  target_->setEnabled(!chosen.empty());
  asSung_->setEnabled(!chosen.empty());
  giveBack_->setEnabled(!chosen.empty());
  toHits_->setEnabled(notes);
}

/// Typed for every chosen note.
void PitchStep::typePitch() {
  const auto text = target_->text().toStdString();
  std::vector<std::pair<NoteName, double>> targets;
  for (const auto& n : desk_.chosen()) {
    const auto to = parsePitch(text, n.tuned.after, desk_.settings().scale.reference);
    if (!to) return doc_.refuse(to.error());
    targets.emplace_back(n.name, *to - desk_.settings().transpose);
  }
  desk_.moveTo(targets);
  target_->clear();
  target_->clearFocus();
}

QWidget* PitchStep::makeBench(ViewState& view, QWidget* parent) { return new PitchLens(doc_, view, parent); }

StepState PitchStep::state() const {
  std::size_t notes = 0;
  std::size_t tuned = 0;
  for (const auto& take : doc_.song().takes)
    for (const auto& f : take.facts) notes += f.line->notes.size();
  for (const auto& s : doc_.song().sets) tuned += s.pitch->active() ? 1 : 0;
  if (notes == 0) return {tr("as sung"), tr("Not listened for yet"), 0};
  const int look = checksOf(CheckGroup::pitch);
  const auto count = counted(notes, "note", "notes");
  return {count,
          tuned > 0 ? tr("%1, tuned on %2").arg(count, counted(tuned, "set", "sets")) : tr("%1, as sung").arg(count),
          look};
}

}  // namespace ochron
