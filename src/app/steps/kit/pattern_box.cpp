#include "steps/kit/pattern_box.h"

#include <QHBoxLayout>
#include <algorithm>

#include "actions/actions.h"
#include "document/fresh.h"
#include "document/pattern_desk.h"
#include "panel/controls.h"
#include "steps/kit/pattern_card.h"

namespace ochron {

PatternBox::PatternBox(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(6);
  cards_.emplace(*column);
  empty_ = noteLabel(tr("None yet. What the lanes play in a range, or in the bar of the play line, is kept by name: to "
                        "be laid elsewhere, drawn on, varied and shuffled."),
                     this);
  column->addWidget(empty_);
  const auto button = [this](QWidget* on, const QString& text, const char* name, const QString& tip, const char* id) {
    auto* b = new QPushButton(text, on);
    b->setObjectName(name);
    b->setToolTip(tip);
    Actions::bind(b, id);
    return b;
  };
  column->addWidget(button(
      this, tr("Keep a pattern"), "keep pattern",
      tr("What the set plays in the chosen range, in the bars of the chosen clips, or in this bar"), "patterns.keep"));
  column->addWidget(button(this, tr("Draw a pattern"), "draw pattern",
                           tr("A bar that begins with the chosen cell, to be drawn on in the bench"),
                           "patterns.begin"));
  others_ = new QWidget(this);
  auto* row = new QHBoxLayout(others_);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(6);
  row->addWidget(button(others_, tr("Vary"), "vary pattern",
                        tr("As the player might have played it once more: other strokes of the same drums, off their "
                           "lines as strokes of this pattern are"),
                        "patterns.vary"));
  row->addWidget(button(others_, tr("Shuffle"), "shuffle pattern", tr("The same slices at the same places, otherwise"),
                        "patterns.shuffle"));
  column->addWidget(others_);
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->on(&doc_.patternDesk(), &PatternDesk::changed);
  refresh();
}

void PatternBox::refresh() {
  const auto patterns = doc_.patternDesk().patterns();
  cards_->show(doc_, patterns, this);
  empty_->setVisible(patterns.empty());
  others_->setVisible(!patterns.empty());
}

}  // namespace ochron
