#include "steps/kit/kit_step.h"

#include <QSignalBlocker>
#include <algorithm>

#include "actions/actions.h"
#include "document/fresh.h"
#include "document/kit_desk.h"
#include "document/selection.h"
#include "document/wording.h"
#include "panel/choice.h"
#include "panel/fold.h"
#include "steps/kit/kit_bench.h"
#include "steps/kit/layer_card.h"
#include "steps/kit/pattern_box.h"
#include "theme/theme.h"

namespace ochron {
namespace {

QString drumTitle(DrumClass drum) {
  auto name = drumName(drum);
  name[0] = name[0].toUpper();
  return name;
}

/// How many strokes of each drum a set's takes have.
std::array<std::size_t, kDrumClassNames.size()> strokesIn(const Song& song, SetId id) {
  std::array<std::size_t, kDrumClassNames.size()> out{};
  const auto* set = song.find(id);
  if (!set) return out;
  for (const auto& take : song.takes)
    for (const auto& h : activeHits(*song.hitsOf(take.id, id), set->hits, song.rate))
      for (const auto& s : strokesOf(h)) ++out[static_cast<std::size_t>(s.drum)];
  return out;
}

}  // namespace

KitStep::KitStep(Document& document, QWidget* parent) : StepPage(document, parent) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 0, 16, 14);
  column->setSpacing(8);
  column->addWidget(noteLabel(tr("Layers on the strokes of"), this));
  drum_ = new QComboBox(this);
  drum_->setObjectName("layer drum");
  drum_->setAccessibleName(tr("Drum that new layers lie on"));
  drum_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  drum_->setMinimumContentsLength(8);
  for (std::size_t d = 0; d < kDrumClassNames.size(); ++d)
    addChoice(*drum_, static_cast<DrumClass>(d), drumTitle(static_cast<DrumClass>(d)));
  connect(drum_, &QComboBox::activated, this, [this] { doc_.kitDesk().setDrum(choiceIn<DrumClass>(*drum_)); });
  column->addWidget(drum_);
  cards_.emplace(*column);
  empty_ = noteLabel(tr("No layer yet. A sound, or a set of sounds by strength, is laid on every stroke of the drum, "
                        "lined up to the sample."),
                     this);
  column->addWidget(empty_);
  auto* add = new QPushButton(tr("Add a sound\u2026"), this);
  add->setObjectName("add layer");
  add->setToolTip(tr("A sound file, or an SFZ instrument with levels and alternates"));
  Actions::bind(add, "kit.add");
  column->addWidget(add);
  auto* own = new QPushButton(tr("Add its own strokes"), this);
  own->setObjectName("add own layer");
  own->setToolTip(tr("A set of sounds made of this take's own clean strokes of the drum, graded by strength"));
  Actions::bind(own, "kit.own");
  column->addWidget(own);

  auto* patterns = new Fold("kit patterns", tr("Patterns"), true, this);
  patterns->inside()->addWidget(new PatternBox(document, patterns));
  column->addWidget(patterns);

  settings_ = new QWidget(this);
  auto* inside = new QVBoxLayout(settings_);
  inside->setContentsMargins(0, 6, 0, 0);
  inside->setSpacing(8);
  title_ = new QLabel(settings_);
  title_->setFont(Theme::get().font(13, 600));
  inside->addWidget(title_);
  control(*inside, &LayerSettings::blend);
  control(*inside, &LayerSettings::follow);
  control(*inside, &LayerSettings::threshold);
  control(*inside, &LayerSettings::gainDb);
  const auto combo = [&](const QString& label, const char* name, const QStringList& items) {
    inside->addWidget(noteLabel(label, settings_));
    auto* box = new QComboBox(settings_);
    box->setObjectName(name);
    box->setAccessibleName(label);
    box->addItems(items);
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    box->setMinimumContentsLength(8);
    inside->addWidget(box);
    return box;
  };
  lineUp_ = combo(tr("Lines up"), "line up", {});
  addChoice(*lineUp_, LineUp::each, tr("each stroke, to the sample"));
  addChoice(*lineUp_, LineUp::whole, tr("as the hits stand"));
  connect(lineUp_, &QComboBox::activated, this, [this] {
    doc_.kitDesk().change(tr("Change how the layer lines up"),
                          [this](Layer& l) { l.lineUp = choiceIn<LineUp>(*lineUp_); });
  });
  polarity_ = combo(tr("Polarity"), "polarity", {tr("as it fits the drum"), tr("plain"), tr("turned")});
  connect(polarity_, &QComboBox::activated, this, [this](int i) {
    doc_.kitDesk().change(tr("Change the layer's polarity"),
                          [i](Layer& l) { l.turned = i == 0 ? std::optional<bool>() : i == 2; });
  });
  polarityNote_ = noteLabel({}, settings_);
  inside->addWidget(polarityNote_);
  auto* sound = new Fold("kit sound", tr("The sound"), false, settings_);
  for (const auto field :
       {&LayerSettings::cents, &LayerSettings::lengthMs, &LayerSettings::fadeMs, &LayerSettings::lowCut,
        &LayerSettings::highCut, &LayerSettings::pan, &LayerSettings::offsetMs})
    control(*sound->inside(), field);
  inside->addWidget(sound);
  auto* print = new QPushButton(tr("Print as a track"), settings_);
  print->setObjectName("print layer");
  print->setProperty("primary", true);
  print->setToolTip(tr("The layer as a recording of its own; the layer is switched off and can be switched on again"));
  Actions::bind(print, "kit.print");
  inside->addWidget(print);
  sent_ = new QCheckBox(tr("Also sent as MIDI"), settings_);
  sent_->setObjectName("layer sent");
  sent_->setToolTip(
      tr("While the song plays its strokes go to the MIDI port that is chosen under Sound device, as notes with "
         "their strengths"));
  connect(sent_, &QCheckBox::clicked, this, [this](bool on) {
    doc_.kitDesk().change(on ? tr("Send the layer as MIDI") : tr("Send the layer no more"),
                          [on](Layer& l) { l.midi = on; });
  });
  inside->addWidget(sent_);
  auto* midi = new QPushButton(tr("Write notes as MIDI\u2026"), settings_);
  midi->setObjectName("layer midi");
  Actions::bind(midi, "kit.midi");
  inside->addWidget(midi);
  column->addWidget(settings_);
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->onSong(doc_)
      .on(doc_.selection(), Selection::kSet)
      .on(&doc_, &Document::mediaChanged)
      .on(&doc_.kitDesk(), &KitDesk::changed);
  refresh();
}

SettingControl* KitStep::control(QVBoxLayout& to, double LayerSettings::*field) {
  const auto& setting = settingOf(kLayerNumbers, field);
  const auto title = titleOf(setting.range);
  auto* c = new SettingControl(title, setting.range, {}, settings_);
  c->setHint(tr(std::string(setting.help).c_str()));
  connect(c, &SettingControl::changed, this, [this, title, field](double v) {
    doc_.kitDesk().change(
        tr("Change %1 of a layer").arg(title.toLower()), [=](Layer& l) { l.settings.*field = v; }, title);
  });
  connect(c, &SettingControl::held, &doc_, holdingWhile(doc_));
  to.addWidget(c);
  controls_.emplace_back(field, c);
  return c;
}

void KitStep::refreshCards() {
  const auto layers = doc_.kitDesk().layers();
  cards_->show(doc_, layers, this);
  empty_->setVisible(layers.empty());
}

void KitStep::refresh() {
  refreshCards();
  const QSignalBlocker a(drum_), b(lineUp_), c(polarity_);
  const auto counts = strokesIn(doc_.song(), doc_.kitDesk().set());
  for (std::size_t d = 0; d < counts.size(); ++d)
    drum_->setItemText(static_cast<int>(d), counts[d] == 0 ? drumTitle(static_cast<DrumClass>(d))
                                                           : tr("%1: %2").arg(drumTitle(static_cast<DrumClass>(d)),
                                                                              counted(counts[d], "stroke", "strokes")));
  setChoice(*drum_, doc_.kitDesk().drum());
  const auto* l = doc_.kitDesk().layer();
  settings_->setVisible(l != nullptr);
  if (!l) return;
  title_->setText(QString::fromStdString(l->name));
  for (const auto& [field, control] : controls_) control->show(l->settings.*field);
  setChoice(*lineUp_, l->lineUp);
  sent_->setChecked(l->midi);
  polarity_->setCurrentIndex(!l->turned ? 0 : *l->turned ? 2 : 1);
  const auto& sounds = l->sounds->sounds;
  const auto turned = std::count_if(sounds.begin(), sounds.end(), [](const KitSound& s) { return s.turned; });
  polarityNote_->setText(sounds.empty() || !sounds.front().listened ? tr("not listened to yet")
                         : turned == 0                              ? tr("agrees with the drum as it is")
                         : turned == std::ssize(sounds)             ? tr("turned, or it would weaken the drum")
                                                        : tr("%1 of %2 turned").arg(turned).arg(sounds.size()));
}

QWidget* KitStep::makeBench(ViewState& view, QWidget* parent) { return new KitBench(doc_, view, parent); }

StepState KitStep::state() const {
  const auto count = doc_.song().layers.size();
  if (count == 0) return {tr("no layer"), tr("No sound is laid on strokes"), checksOf(CheckGroup::kit)};
  return {counted(count, "layer", "layers"), counted(count, "layer", "layers"), checksOf(CheckGroup::kit)};
}

}  // namespace ochron
