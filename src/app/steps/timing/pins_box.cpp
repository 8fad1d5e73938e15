#include "steps/timing/pins_box.h"

#include <QHBoxLayout>
#include <QVBoxLayout>

#include "actions/actions.h"
#include "document/document.h"
#include "document/fresh.h"
#include "document/pin_desk.h"
#include "document/selection.h"
#include "document/wording.h"
#include "entry/entry.h"
#include "panel/controls.h"
#include "theme/theme.h"

namespace ochron {

PinsBox::PinsBox(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 2, 0, 0);
  column->setSpacing(2);
  auto* line = new QHBoxLayout;
  line->setSpacing(4);
  title_ = new QLabel(this);
  title_->setFont(Theme::get().font(12));
  title_->setToolTip(
      tr("Places of the recording tied to the song by hand. They stand on the curve in the lane; "
         "double-click the lane to pin a place"));
  line->addWidget(title_, 1);
  place_ = new QLineEdit(this);
  place_->setObjectName("pin place");
  place_->setAccessibleName(tr("Place of the chosen pin"));
  place_->setAlignment(Qt::AlignRight);
  fixWidth(*place_, 84);
  place_->setToolTip(tr("Where the chosen pin stands in the song; +20 ms moves it on, neighbours hold"));
  connect(place_, &QLineEdit::editingFinished, this, &PinsBox::typed);
  line->addWidget(place_);
  remove_ = new QToolButton(this);
  remove_->setObjectName("remove pins");
  remove_->setText(QStringLiteral("\u00d7"));
  remove_->setAutoRaise(true);
  remove_->setProperty(kCommand, "pins.remove");
  connect(remove_, &QToolButton::clicked, this,
          [this] { Actions::of(this)->trigger(doc_.selection().pins().empty() ? "pins.removeall" : "pins.remove"); });
  line->addWidget(remove_);
  column->addLayout(line);
  words_ = noteLabel({}, this);
  words_->setWordWrap(true);
  column->addWidget(words_);
  auto* fresh = new Fresh(parent, [this] { refresh(); });  // it hides itself
  fresh->onSong(doc_).on(doc_.selection(), Selection::kWhere | Selection::kPins);
  refresh();
}

void PinsBox::refresh() {
  const auto* set = doc_.song().find(doc_.selection().set());
  std::size_t count = 0;
  if (set)
    for (const auto& c : *set->clips) count += handPins(c).size();
  setVisible(count > 0);
  const auto& chosen = doc_.selection().pins();
  title_->setText(chosen.empty() ? counted(count, "pin", "pins")
                                 : tr("%1 of %2").arg(chosen.size()).arg(counted(count, "pin", "pins")));
  const auto at = doc_.pinDesk().placeOfChosen();
  place_->setVisible(at.has_value());
  words_->setVisible(at.has_value());
  remove_->setToolTip(chosen.empty() ? tr("Remove all pins of the mic set, or of the range")
                                     : tr("Remove the chosen pins"));
  if (!at) return;
  if (!place_->isModified())
    place_->setText(
        QString::fromStdString(entryText(static_cast<double>(at->value), Quantity::position, doc_.song().rate)));
  if (const auto* clip = doc_.song().find(chosen.front().clip))
    words_->setText(doc_.pinDesk().wordsFor(*clip, chosen.front().take));
}

void PinsBox::typed() {
  if (!place_->isModified()) return;
  place_->setModified(false);
  const auto at = doc_.pinDesk().placeOfChosen();
  if (!at) return;
  const auto entry = parseEntry(place_->text().toStdString(), Quantity::position, doc_.song().tempo, *at);
  if (entry)
    doc_.pinDesk().moveTo(Frames{std::llround(entry->applied(static_cast<double>(at->value)))});
  else
    doc_.refuse(entry.error());
  refresh();
}

}  // namespace ochron
