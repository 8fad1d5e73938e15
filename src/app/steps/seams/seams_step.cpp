#include "steps/seams/seams_step.h"

#include <QGridLayout>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <array>
#include <cmath>

#include "actions/actions.h"
#include "document/fresh.h"
#include "document/seam_desk.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "panel/choice.h"
#include "seams/seam_edits.h"
#include "steps/seams/seam_bench.h"
#include "theme/theme.h"

namespace ochron {
namespace {}  // namespace

SeamsStep::SeamsStep(Document& document, QWidget* parent) : StepPage(document, parent) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 0, 16, 14);
  column->setSpacing(6);
  column->addWidget(noteLabel(tr("For"), this));
  scope_ = combo("seam scope", {tr("All seams"), tr("The chosen seam")},
                 tr("A click on a seam chooses it; a range chooses all in it"));
  column->addWidget(scope_);
  connect(scope_, &QComboBox::activated, this, &SeamsStep::refresh);
  const auto frames = [this](double ms) { return framesFromMs(ms, doc_.song().rate); };
  const auto control = [&](double TimingSettings::*all, std::function<void(SeamOverride&, double)> one) {
    const auto& setting = settingOf(kTimingNumbers, all);
    const auto title = titleOf(setting.range);
    auto* c = new SettingControl(title, setting.range, {}, this);
    c->setHint(tr(std::string(setting.help).c_str()));
    connect(c, &SettingControl::changed, this, [this, title, all, one = std::move(one)](double v) {
      change(
          tr("Change %1").arg(title.toLower()), [&](TimingSettings& s) { s.*all = v; },
          [&](SeamOverride& s) { one(s, v); }, title);
    });
    connect(c, &SettingControl::held, &doc_, holdingWhile(doc_));
    column->addWidget(c);
    return c;
  };
  leadIn_ = control(&TimingSettings::leadInMs, [frames](SeamOverride& s, double v) { s.leadIn = frames(v); });
  length_ = control(&TimingSettings::crossfadeMs, [frames](SeamOverride& s, double v) { s.length = frames(v); });
  bias_ = control(&TimingSettings::bias, [](SeamOverride& s, double v) { s.bias = v; });
  law_ = combo("law", {}, tr("Matched measures how alike both sides are, and suits nearly everything"));
  addChoice(*law_, CrossfadeLaw::matched, tr("Matched: level stays level"));
  addChoice(*law_, CrossfadeLaw::equalGain, tr("Equal gain: same sound"));
  addChoice(*law_, CrossfadeLaw::equalPower, tr("Equal power: unlike sounds"));
  connect(law_, &QComboBox::activated, this, [this] {
    const auto law = choiceIn<CrossfadeLaw>(*law_);
    change(
        tr("Change the crossfade law"), [&](TimingSettings& s) { s.law = law; }, [&](SeamOverride& s) { s.law = law; });
  });
  column->addWidget(law_);
  shape_ = combo("shape", {}, tr("How the gains run through the crossfade"));
  addChoice(*shape_, FadeShape::line, tr("Straight"));
  addChoice(*shape_, FadeShape::sCurve, tr("Smooth at both ends"));
  connect(shape_, &QComboBox::activated, this, [this] {
    const auto shape = choiceIn<FadeShape>(*shape_);
    change(
        tr("Change the crossfade shape"), [&](TimingSettings& s) { s.shape = shape; },
        [&](SeamOverride& s) { s.shape = shape; });
  });
  column->addWidget(shape_);
  fill_ = combo("fill", {},
                tr("What is heard where pieces move apart. Own sound is best while it lasts; stretching suits "
                   "tones and rooms; a fade leaves a short silence"));
  addChoice(*fill_, SeamFill::continuation, tr("Gap: own sound goes on"));
  addChoice(*fill_, SeamFill::stretched, tr("Gap: stretch the sustain"));
  addChoice(*fill_, SeamFill::faded, tr("Gap: fade out and in"));
  connect(fill_, &QComboBox::activated, this, [this] {
    change(
        tr("Change how the gap is filled"), [](TimingSettings&) {},
        [&](SeamOverride& s) { s.fill = choiceIn<SeamFill>(*fill_); });
  });
  column->addWidget(fill_);
  release_ = new QPushButton(tr("Give back to the plan"), this);
  release_->setObjectName("release seam");
  Actions::bind(release_, "seams.release");
  column->addWidget(release_);
  column->addSpacing(4);
  auto* hear = new QPushButton(tr("Hear the seam"), this);
  hear->setProperty("primary", true);
  hear->setObjectName("hear seam");
  hear->setToolTip(tr("Plays it over and over with what comes before (H)"));
  Actions::bind(hear, "hits.hear");
  column->addWidget(hear);
  lift_ = new QCheckBox(tr("Raise quiet sound by 20 dB"), this);
  lift_->setObjectName("lift");
  lift_->setToolTip(tr("So that a click cannot hide under the rest"));
  click_ = new QCheckBox(tr("With the click"), this);
  const auto hearing = [this] {
    auto h = doc_.transport().hearing();
    h.lift = lift_->isChecked();
    h.click = click_->isChecked();
    doc_.transport().setHearing(h);
    if (doc_.transport().player().engine().playing()) doc_.transport().hear();
  };
  for (auto* box : {lift_, click_}) {
    connect(box, &QCheckBox::clicked, this, hearing);
    column->addWidget(box);
  }
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->onSong(doc_).on(doc_.selection(), Selection::kWhere).on(&doc_, &Document::transportChanged);
  doc_.selection().watch(Selection::kWhere, this, [this] {
    if (!doc_.seamDesk().chosen().empty() && doc_.step() == Step::seams) {
      scope_->setCurrentIndex(1);
      refresh();
    }
  });
  refresh();
}

QComboBox* SeamsStep::combo(const QString& name, const QStringList& items, const QString& tip) {
  auto* box = new QComboBox(this);
  box->setObjectName(name);
  box->setAccessibleName(name);
  box->addItems(items);
  box->setToolTip(tip);
  box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  box->setMinimumContentsLength(8);
  return box;
}

void SeamsStep::change(const QString& name, const std::function<void(TimingSettings&)>& all,
                       const std::function<void(SeamOverride&)>& chosen, const QString& gesture) {
  if (forAll()) {
    auto s = doc_.timingDesk().settings();
    all(s);
    doc_.timingDesk().setSettings(name, s, gesture);
  } else {
    SeamOverride s;
    chosen(s);
    doc_.seamDesk().change(name, s, gesture);
  }
}

void SeamsStep::refresh() {
  const QSignalBlocker a(law_), b(shape_), c(fill_), d(scope_);
  const auto seams = doc_.seamDesk().chosen();
  if (seams.empty()) scope_->setCurrentIndex(0);
  scope_->setItemText(1, seams.size() > 1 ? tr("The %1 seams of the range").arg(seams.size()) : tr("The chosen seam"));
  const auto& s = doc_.timingDesk().settings();
  const auto* set = doc_.song().find(doc_.selection().set());
  setEnabled(set != nullptr);
  CrossfadeLaw law = s.law;
  FadeShape shape = s.shape;
  leadIn_->show(s.leadInMs);
  length_->show(s.crossfadeMs);
  bias_->show(s.bias);
  fill_->setEnabled(!forAll());
  release_->setEnabled(!forAll());
  if (!forAll() && set) {
    const auto& clips = *set->clips;
    const auto first = std::find_if(clips.begin(), clips.end(), [&](const Clip& x) { return x.id == seams.front(); });
    const double perMs = doc_.song().rate / 1000.0;
    law = first->seam.law;
    shape = first->seam.shape;
    length_->show(static_cast<double>((first->seam.before + first->seam.after).value) / perMs);
    bias_->show(first->seam.bias * 100);
    if (first->piece && first->piece->hit)
      for (const auto& h : *doc_.song().hitsOf(first->take, set->id))
        if (h.id == first->piece->hit) leadIn_->show(static_cast<double>((h.at - first->source).value) / perMs);
    const bool own = first->seam.fill != SeamFill::stretched && first->seam.fill != SeamFill::faded;
    setChoice(*fill_, own ? SeamFill::continuation : first->seam.fill);
  }
  setChoice(*law_, law);
  setChoice(*shape_, shape);
  lift_->setChecked(doc_.transport().hearing().lift);
  click_->setChecked(doc_.transport().hearing().click);
}

QWidget* SeamsStep::makeBench(ViewState&, QWidget* parent) { return new SeamBench(doc_, parent); }

StepState SeamsStep::state() const {
  std::size_t seams = 0;
  for (const auto& set : doc_.song().sets)
    for (std::size_t i = 1; i < set.clips->size(); ++i) seams += isSeam(*set.clips, i) ? 1 : 0;
  if (seams == 0) return {tr("none"), tr("Nothing cut"), 0};
  return {QString::number(seams), counted(seams, "seam", "seams"), checksOf(CheckGroup::seams)};
}

}  // namespace ochron
