#include "steps/clips/clips_step.h"

#include <QGridLayout>
#include <QInputDialog>
#include <QLineEdit>
#include <QSignalBlocker>
#include <cmath>

#include "actions/actions.h"
#include "document/clip_desk.h"
#include "document/fade_library.h"
#include "document/fresh.h"
#include "document/selection.h"
#include "document/wording.h"
#include "edits/clip_edits.h"
#include "edits/fade_edits.h"
#include "edits/mark_edits.h"
#include "panel/choice.h"
#include "steps/clips/inspector.h"
#include "theme/theme.h"

namespace ochron {

ClipsStep::ClipsStep(Document& document, QWidget* parent) : StepPage(document, parent) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 0, 16, 14);
  column->setSpacing(4);
  const auto fold = [&](const QString& key, const QString& title, bool open) {
    auto* f = new Fold(key, title, open, this);
    column->addWidget(f);
    return f;
  };
  buildCut(fold("cut", tr("Cut and place"), true));
  buildFades(fold("fades", tr("Fades"), false));
  silence_ = fold("silence", tr("Silence"), false);
  buildSilence(silence_);
  buildEnvelopes(fold("envelopes", tr("Envelopes"), false));
  buildSnap(fold("snap", tr("Snap"), false));
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->on(&doc_, &Document::songChanged)
      .on(doc_.selection(), Selection::kWhere | Selection::kClips | Selection::kMark)
      .on(&doc_.clipDesk(), &ClipDesk::changed);
  refresh();
}

void ClipsStep::change(const std::function<void(HandSettings&)>& change) {
  auto s = doc_.clipDesk().settings();
  change(s);
  doc_.clipDesk().setSettings(s);
}

QPushButton* ClipsStep::button(QVBoxLayout* to, const QString& text, const char* action, const QString& tip) {
  auto* b = new QPushButton(text, this);
  b->setObjectName(action);
  b->setProperty("small", true);
  b->setFocusPolicy(Qt::TabFocus);
  b->setToolTip(tip);
  b->setMinimumWidth(40);
  Actions::bind(b, action);
  if (to) to->addWidget(b);
  return b;
}

void ClipsStep::pair(QVBoxLayout* to, const QString& a, const char* actionA, const QString& b, const char* actionB) {
  auto* line = new QHBoxLayout;
  line->setSpacing(6);
  line->addWidget(button(nullptr, a, actionA));
  line->addWidget(button(nullptr, b, actionB));
  to->addLayout(line);
}

QDoubleSpinBox* ClipsStep::number(QVBoxLayout* to, const QString& title, const SettingRange& range,
                                  double HandSettings::*value) {
  auto* line = new QHBoxLayout;
  line->setSpacing(8);
  auto* label = new QLabel(title, this);
  auto* box = numberField(range, title, this);
  fixWidth(*box, 76);
  label->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  line->addWidget(label, 1);
  line->addWidget(box);
  to->addLayout(line);
  connect(box, &QDoubleSpinBox::valueChanged, this,
          [this, value](double v) { change([&](HandSettings& s) { s.*value = v; }); });
  readers_.push_back([this, box, value] {
    const QSignalBlocker quiet(box);
    if (!box->hasFocus()) box->setValue(doc_.clipDesk().settings().*value);
  });
  return box;
}

QCheckBox* ClipsStep::tick(QVBoxLayout* to, const QString& title, const QString& tip,
                           const std::function<bool&(HandSettings&)>& of) {
  auto* box = new QCheckBox(title, this);
  box->setObjectName(title);
  box->setToolTip(tip);
  to->addWidget(box);
  connect(box, &QCheckBox::clicked, this, [this, of](bool on) { change([&](HandSettings& s) { of(s) = on; }); });
  readers_.push_back([this, box, of] {
    auto s = doc_.clipDesk().settings();
    box->setChecked(of(s));
  });
  return box;
}

void ClipsStep::buildCut(Fold* fold) {
  auto* to = fold->inside();
  pair(to, tr("Play line"), "clips.split", tr("Range ends"), "clips.splitrange");
  pair(to, tr("Grid lines"), "clips.splitgrid", tr("Every hit"), "clips.splithits");
  number(to, tr("At cuts"), kCutFadeRange, &HandSettings::cutFadeMs);
  auto* overlap = new QComboBox(this);
  overlap->setObjectName("overlap");
  overlap->setAccessibleName(tr("Where clips overlap"));
  addChoice(*overlap, Overlap::crossfade, tr("Overlaps crossfade"));
  addChoice(*overlap, Overlap::cover, tr("Overlaps cover"));
  overlap->setToolTip(tr("Crossfade: both are heard along the overlap. Cover: the moved clip trims the other"));
  connect(overlap, &QComboBox::activated, this,
          [this, overlap] { change([&](HandSettings& s) { s.overlap = choiceIn<Overlap>(*overlap); }); });
  readers_.push_back([this, overlap] { setChoice(*overlap, doc_.clipDesk().settings().overlap); });
  to->addWidget(overlap);
  tick(to, tr("Close gaps"), tr("What follows moves along when clips are deleted or trimmed (V)"),
       [](HandSettings& s) -> bool& { return s.closeGaps; });
  number(to, tr("Nudge"), kNudgeMsRange, &HandSettings::nudgeMs);
  number(to, tr("Nudge finely"), kNudgeSamplesRange, &HandSettings::nudgeSamples);
}

void ClipsStep::buildFades(Fold* fold) {
  auto* to = fold->inside();
  pair(to, tr("Fade in"), "clips.fadein", tr("Fade out"), "clips.fadeout");
  pair(to, tr("Crossfade"), "clips.crossfade", tr("Remove"), "clips.nofades");
  pair(to, tr("Tape start"), "clips.tapestart", tr("Tape stop"), "clips.tapestop");
  fades_ = new QComboBox(this);
  fades_->setObjectName("fade library");
  fades_->setAccessibleName(tr("Fades from my library"));
  fades_->setToolTip(tr("Puts a kept fade on both ends of all chosen clips"));
  connect(fades_, &QComboBox::activated, this, [this](int i) {
    const auto kept = FadeLibrary::fades();
    const auto count = static_cast<int>(kept.size());
    const auto* first = !doc_.selection().hasClips() ? nullptr : doc_.song().find(doc_.selection().clips().front());
    if (i > 0 && i <= count) {
      const auto fade = kept[static_cast<std::size_t>(i - 1)].inSong(doc_.song().rate);
      const auto put = [&](const Song& s, FadeEnd end) {
        return changeFades(s, doc_.selection().clips(), end, [&](const Clip&, Fade) { return fade; });
      };
      auto next = put(doc_.song(), FadeEnd::in);
      if (next) next = put(*next, FadeEnd::out);
      doc_.edit(tr("Fades from the library"), next);
    } else if (i == count + 1) {
      if (!first || (first->fadeIn.length.value == 0 && first->fadeOut.length.value == 0)) {
        doc_.tell(tr("Choose a clip that has a fade first."));
        return refresh();
      }
      bool ok = false;
      const int rate = doc_.song().rate;
      const auto fade = first->fadeIn.length.value > 0 ? first->fadeIn : first->fadeOut;
      const auto name = QInputDialog::getText(this, tr("Keep a fade"), tr("Its name:"), QLineEdit::Normal,
                                              tr("Fade %1").arg(count + 1), &ok);
      if (ok && !name.isEmpty())
        if (auto done = FadeLibrary::keep(FadeLibrary::Kept::ofSong(name, fade, rate)); !done)
          doc_.warn(QString::fromStdString(done.error().message));
    }
    refresh();
  });
  to->addWidget(fades_);
  number(to, tr("Song's fades"), kSongFadeRange, &HandSettings::songFadeSeconds);
  pair(to, tr("Song in"), "song.fadein", tr("Song out"), "song.fadeout");
}

void ClipsStep::buildSilence(Fold* fold) {
  auto* to = fold->inside();
  button(to, tr("Silence the range"), "spans.add",
         tr("A span in which the tracks of the range are silent, whatever lies there"));
  const auto control = [&](const QString& title, double SilenceSettings::*value) {
    const auto& setting = settingOf(kSilenceNumbers, value);
    auto* c = new SettingControl(title, setting.range, {}, this);
    c->setToolTip(tr(std::string(setting.help).c_str()));
    connect(c, &SettingControl::changed, this,
            [this, value](double v) { change([&](HandSettings& s) { s.silence.*value = v; }); });
    to->addWidget(c);
    return c;
  };
  level_ = control(tr("Silent below"), &SilenceSettings::levelDb);
  length_ = control(tr("For at least"), &SilenceSettings::lengthMs);
  pad_ = control(tr("Leave around"), &SilenceSettings::padMs);
  found_ = new QLabel(this);
  found_->setObjectName("silence found");
  found_->setProperty("note", true);
  to->addWidget(found_);
  pair(to, tr("Split there"), "clips.splitsilence", tr("Remove"), "clips.removesilence");
  connect(fold->findChild<QToolButton*>(), &QToolButton::toggled, this, &ClipsStep::refresh);
}

void ClipsStep::buildEnvelopes(Fold* fold) {
  auto* to = fold->inside();
  envelope_ = new QComboBox(this);
  envelope_->setObjectName("envelope");
  envelope_->setAccessibleName(tr("Envelope shown"));
  envelope_->addItem(tr("none shown"));
  addChoices<EnvelopeKind>(*envelope_, kEnvelopeKindNames);
  connect(envelope_, &QComboBox::activated, this, [this] {
    doc_.clipDesk().showEnvelope(hasChoice(*envelope_) ? std::optional(choiceIn<EnvelopeKind>(*envelope_))
                                                       : std::nullopt);
  });
  to->addWidget(envelope_);
  envelopeHint_ = new QLabel(tr("Double-click puts a point or removes it; drag points, or the line to bend it."), this);
  envelopeHint_->setProperty("note", true);
  envelopeHint_->setWordWrap(true);
  to->addWidget(envelopeHint_);
  pair(to, tr("Copy piece"), "envelope.copy", tr("Paste"), "envelope.paste");
}

void ClipsStep::buildSnap(Fold* fold) {
  auto* to = fold->inside();
  tick(to, tr("Snap (U)"), tr("Drags are drawn to the places below; Shift suspends it"),
       [](HandSettings& s) -> bool& { return s.snap.on; });
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(6);
  const std::vector<std::pair<QString, bool SnapSettings::*>> kinds{{tr("grid"), &SnapSettings::grid},
                                                                    {tr("hits"), &SnapSettings::hits},
                                                                    {tr("edges"), &SnapSettings::edges},
                                                                    {tr("markers"), &SnapSettings::markers},
                                                                    {tr("play line"), &SnapSettings::playLine}};
  for (std::size_t i = 0; i < kinds.size(); ++i) {
    auto* cell = new QVBoxLayout;
    const auto flag = kinds[i].second;
    tick(cell, kinds[i].first, {}, [flag](HandSettings& s) -> bool& { return s.snap.*flag; });
    grid->addLayout(cell, static_cast<int>(i / 2), static_cast<int>(i % 2));
  }
  to->addLayout(grid);
  tick(to, tr("By whole steps"), tr("Moves by whole grid steps and keeps the distance from the grid"),
       [](HandSettings& s) -> bool& { return s.snap.relative; });
  auto* reach = new SettingControl(tr("Pull"), kSnapReachRange, {}, this);
  reach->setHint(tr("from how near a place draws the drag"));
  connect(reach, &SettingControl::changed, this,
          [this](double v) { change([&](HandSettings& s) { s.snap.reachPixels = v; }); });
  readers_.push_back([this, reach] { reach->show(doc_.clipDesk().settings().snap.reachPixels); });
  to->addWidget(reach);
}

void ClipsStep::refresh() {
  if (doc_.step() != Step::clips) return doc_.clipDesk().showSilence(false);
  for (const auto& read : readers_) read();
  if (const auto* actions = Actions::of(this))
    for (auto* b : findChildren<QPushButton*>())
      if (const auto* a = actions->action(b->objectName())) {
        b->setEnabled(a->isEnabled());
        const auto key = a->shortcut().toString(QKeySequence::NativeText);
        if (b->toolTip().isEmpty())
          b->setToolTip(key.isEmpty() ? a->text() : QStringLiteral("%1 (%2)").arg(a->text(), key));
      }
  const auto& s = doc_.clipDesk().settings();
  level_->show(s.silence.levelDb);
  length_->show(s.silence.lengthMs);
  pad_->show(s.silence.padMs);
  const bool silence = silence_->body()->isVisibleTo(silence_);
  doc_.clipDesk().showSilence(silence);
  if (silence)
    found_->setText(tr("%1 here").arg(counted(doc_.clipDesk().silence().size(), "silent gap", "silent gaps")));
  const QSignalBlocker a(fades_), b(envelope_);
  fades_->clear();
  fades_->addItem(tr("From my library\u2026"));
  QString problem;
  for (const auto& f : FadeLibrary::fades(&problem)) fades_->addItem(f.name);
  if (!problem.isEmpty()) doc_.warn(problem);
  fades_->addItem(tr("Keep this fade\u2026"));
  const auto shown = doc_.clipDesk().shownEnvelope();
  if (shown)
    setChoice(*envelope_, *shown);
  else
    envelope_->setCurrentIndex(0);
}

QWidget* ClipsStep::makeBench(ViewState&, QWidget* parent) { return new Inspector(doc_, parent); }

StepState ClipsStep::state() const {
  std::size_t clips = 0;
  for (const auto& s : doc_.song().sets) clips += s.clips->size();
  auto text = counted(clips, "clip", "clips");
  const auto chosen = doc_.selection().clips().size();
  if (chosen > 0) text = tr("%1 of %2 chosen").arg(chosen).arg(clips);
  const auto spans = doc_.song().spans.size();
  if (spans > 0) text += " \u00b7 " + counted(spans, "silent span", "silent spans");
  return {QString::number(clips), text, 0};
}

}  // namespace ochron
