#include "steps/kit/layer_card.h"

#include <QContextMenuEvent>
#include <QMenu>
#include <QPainter>
#include <QTimer>

#include "actions/actions.h"
#include "canvas/wave.h"
#include "document/kit_desk.h"
#include "document/wording.h"
#include "steps/kit/dropped_sound.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr double kWaveSeconds = 0.25;  // of a sound, that is drawn

/// How many levels of strength a set has.
std::size_t levelsOf(const SoundSet& set) {
  std::vector<double> lows;
  for (const auto& s : set.sounds)
    if (std::find(lows.begin(), lows.end(), s.low) == lows.end()) lows.push_back(s.low);
  return lows.size();
}

QString wordsFor(const Layer& layer) {
  const auto& set = *layer.sounds;
  const auto levels = levelsOf(set);
  auto text = set.sounds.empty() ? LayerCard::tr("no sound")
              : levels < 2       ? counted(set.sounds.size(), "sound", "sounds")
              : levels == set.sounds.size()
                  ? LayerCard::tr("%1 strengths").arg(levels)
                  : LayerCard::tr("%1 strengths, %2 sounds").arg(levels).arg(set.sounds.size());
  if (layer.settings.gainDb != 0) text += LayerCard::tr(" \u00b7 %1 dB").arg(layer.settings.gainDb, 0, 'f', 1);
  return text;
}

/// Why it cannot be heard; empty where it can or is not known yet.
QString troubleOf(Document& doc, const KitSound& sound) {
  const auto trouble = doc.recordings().troubles().find(sound.media);
  const auto* media = doc.song().find(sound.media);
  if (trouble == doc.recordings().troubles().end() || !media) return {};
  return trouble->second.brief(QString::fromStdString(media->path));
}

}  // namespace

LayerCard::LayerCard(Document& document, LayerId layer, QWidget* parent)
    : KitCard(72, parent), doc_(document), layer_(layer) {
  setAcceptDrops(true);
  const auto button = [&](const QString& text, const QString& name, const QString& tip) {
    auto* b = new QToolButton(this);
    b->setText(text);
    b->setObjectName(name);
    b->setAccessibleName(name);
    b->setToolTip(tip);
    b->setProperty("plain", true);
    b->setFixedSize(22, 22);
    b->setFocusPolicy(Qt::TabFocus);
    return b;
  };
  previous_ = button(QStringLiteral("\u2039"), tr("sound before"), tr("The sound before in its folder"));
  next_ = button(QStringLiteral("\u203a"), tr("next sound"), tr("The next sound of its folder"));
  on_ = button({}, tr("layer on"), tr("Heard or not"));
  on_->setCheckable(true);
  on_->setIcon(Theme::get().icon("mute"));
  on_->setIconSize({13, 13});
  const auto swap = [this](int by) {
    doc_.kitDesk().choose(layer_);
    doc_.kitDesk().swapBy(by);
  };
  connect(previous_, &QToolButton::clicked, this, [swap] { swap(-1); });
  connect(next_, &QToolButton::clicked, this, [swap] { swap(1); });
  connect(on_, &QToolButton::clicked, this, [this](bool off) {
    doc_.kitDesk().choose(layer_);
    doc_.kitDesk().change(off ? tr("Switch the layer off") : tr("Switch the layer on"),
                          [off](Layer& l) { l.on = !off; });
  });
  refresh();
}

void LayerCard::refresh() {
  const auto* l = doc_.song().find(layer_);
  if (!l) return;
  const auto name = QString::fromStdString(l->name);
  setObjectName("layer " + name);
  setAccessibleName(tr("Layer %1").arg(name));
  const auto trouble = l->sounds->sounds.empty() ? QString() : troubleOf(doc_, l->sounds->sounds.back());
  setAccessibleDescription(trouble.isEmpty() ? wordsFor(*l) : wordsFor(*l) + QStringLiteral(" \u00b7 ") + trouble);
  const bool files = !l->sounds->origin.empty();
  previous_->setEnabled(files);
  next_->setEnabled(files);
  on_->setChecked(!l->on);
  on_->setIcon(Theme::get().icon("mute"));
  const auto origin = files ? QString::fromStdString(l->sounds->origin) : tr("The take's own strokes.");
  setToolTip((trouble.isEmpty() ? origin : trouble) + tr("\nDrop another file on it to swap the sound"));
  update();
}

void LayerCard::resizeEvent(QResizeEvent*) {
  previous_->move(width() - 54, height() - 28);
  next_->move(width() - 32, height() - 28);
  on_->move(width() - 32, 6);
}

void LayerCard::paintEvent(QPaintEvent*) {
  const auto* l = doc_.song().find(layer_);
  if (!l) return;
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  const auto* current = doc_.kitDesk().layer();
  const bool chosen = current && current->id == layer_;
  QPainter p(this);
  paintFrame(p, chosen);
  p.setFont(theme.font(12, 600));
  p.setPen(l->on ? sheet.ink : sheet.note);
  const QRectF title(10, 7, width() - 46, 16);
  p.drawText(
      title, Qt::AlignVCenter,
      p.fontMetrics().elidedText(QString::fromStdString(l->name), Qt::ElideRight, static_cast<int>(title.width())));
  p.setFont(theme.font(10.5));
  p.setPen(sheet.note);
  p.drawText(QRectF(10, 24, width() - 46, 14), Qt::AlignVCenter,
             p.fontMetrics().elidedText(l->on ? wordsFor(*l) : tr("off \u00b7 %1").arg(wordsFor(*l)), Qt::ElideRight,
                                        width() - 46));
  if (l->sounds->sounds.empty()) return;
  const auto& sound = l->sounds->sounds.back();  // the loudest
  const auto media = doc_.pool().find(sound.media);
  const QRectF wave(10, 40, width() - 74, 26);
  if (media == doc_.pool().end()) {
    const auto trouble = troubleOf(doc_, sound);
    if (!trouble.isEmpty()) p.setPen(sheet.alarm);
    p.drawText(wave, Qt::AlignVCenter,
               trouble.isEmpty()
                   ? tr("being read\u2026")
                   : p.fontMetrics().elidedText(trouble, Qt::ElideMiddle, static_cast<int>(wave.width())));
    return;
  }
  WaveCanvas canvas(wave.size().toSize(), devicePixelRatioF());
  const auto& m = *media->second;
  float peak = 1e-6F;
  const auto from = sound.range.start.value;
  const auto frames =
      std::min<std::int64_t>(sound.range.length().value, static_cast<std::int64_t>(kWaveSeconds * doc_.song().rate));
  for (auto i = from; i < std::min<std::int64_t>(from + frames, m.length().value); ++i)
    peak = std::max(peak, std::abs(m.channel(0)[static_cast<std::size_t>(i)]));
  const auto ink = chosen ? sheet.selection : sheet.ink;
  auto soft = ink;
  soft.setAlphaF(0.45F);
  canvas.draw(m, 0, static_cast<double>(from), static_cast<double>(frames) / wave.width(), 0, wave.width(), 0,
              wave.height(), 0.95 / static_cast<double>(peak), {soft, ink});
  p.drawImage(wave.topLeft(), canvas.image());
}

void LayerCard::choose() { doc_.kitDesk().choose(layer_); }

void LayerCard::contextMenuEvent(QContextMenuEvent* event) {
  doc_.kitDesk().choose(layer_);
  auto* actions = Actions::of(this);
  actions->refresh();
  QMenu menu(this);
  for (const char* id :
       {"kit.swap", "kit.next", "kit.previous", "kit.duplicate", "kit.rename", "kit.print", "kit.midi", "kit.remove"})
    menu.addAction(actions->action(id));
  menu.exec(event->globalPos());
}

void LayerCard::dragEnterEvent(QDragEnterEvent* event) {
  if (!droppedSound(*event).isEmpty()) event->acceptProposedAction();
}

void LayerCard::dropEvent(QDropEvent* event) {
  const auto file = droppedSound(*event);
  event->acceptProposedAction();
  // What it does may ask something: the drop is over first.
  QTimer::singleShot(0, this, [this, file] {
    doc_.kitDesk().choose(layer_);
    doc_.kitDesk().swap(file.toStdString());
  });
}

}  // namespace ochron
