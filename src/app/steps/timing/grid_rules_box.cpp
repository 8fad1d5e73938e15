#include "steps/timing/grid_rules_box.h"

#include <QComboBox>
#include <QDialog>
#include <QFormLayout>
#include <QLabel>
#include <QPushButton>
#include <QToolButton>
#include <array>

#include "actions/actions.h"
#include "document/fresh.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "document/wording.h"
#include "panel/choice.h"
#include "panel/controls.h"
#include "theme/theme.h"

namespace ochron {
namespace {

QString wordsOf(const GridRule& rule, const TempoMap& map) {
  const auto drum = rule.drum ? drumName(*rule.drum) : GridRulesBox::tr("all");
  auto text = drum + ": " + QString::fromStdString(toText(rule.grid));
  if (rule.grid.swing != kSwingRange.fallback) text += GridRulesBox::tr(" swing %1").arg(rule.grid.swing);
  if (rule.stretch)
    text += GridRulesBox::tr(", bars %1\u2013%2")
                .arg(map.barAt(rule.stretch->first) + 1)
                .arg(map.barAt(rule.stretch->second - Ticks{1}) + 1);
  return text;
}

}  // namespace

GridRulesBox::GridRulesBox(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(2);
  rows_ = new QVBoxLayout;
  rows_->setSpacing(1);
  column->addLayout(rows_);
  auto* more = new QPushButton(tr("Another grid for\u2026"), this);
  more->setObjectName("add grid rule");
  more->setToolTip(
      tr("For one drum, for the chosen range, or both: hats swung over a straight kick, a bridge in triplets"));
  more->setProperty(kCommand, "timing.exception");
  connect(more, &QPushButton::clicked, this, &GridRulesBox::add);
  column->addWidget(more);
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->on(&doc_, &Document::songChanged).on(doc_.selection(), Selection::kWhere);
  refresh();
}

void GridRulesBox::refresh() {
  const auto& rules = doc_.timingDesk().settings().gridRules;
  if (rules == shown_) return;
  shown_ = rules;
  while (auto* item = rows_->takeAt(0)) {
    item->widget()->deleteLater();
    delete item;
  }
  for (std::size_t i = 0; i < rules.size(); ++i) {
    auto* row = new QWidget(this);
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 0, 0, 0);
    auto* label = new QLabel(wordsOf(rules[i], doc_.song().tempo), row);
    label->setFont(Theme::get().font(11.5));
    line->addWidget(label, 1);
    auto* away = new QToolButton(row);
    away->setText(QStringLiteral("\u00d7"));
    away->setAutoRaise(true);
    away->setToolTip(tr("Remove this exception"));
    away->setObjectName(QStringLiteral("remove grid rule %1").arg(i));
    connect(away, &QToolButton::clicked, this, [this, i] {
      auto s = doc_.timingDesk().settings();
      s.gridRules.erase(s.gridRules.begin() + static_cast<std::ptrdiff_t>(i));
      doc_.timingDesk().setSettings(tr("Remove a grid exception"), s);
    });
    line->addWidget(away);
    rows_->addWidget(row);
  }
}

void GridRulesBox::add() {
  QDialog sheet(this);
  sheet.setObjectName("grid rule sheet");
  sheet.setWindowTitle(tr("Another grid"));
  auto* form = new QFormLayout(&sheet);
  form->setContentsMargins(22, 18, 22, 18);
  form->setSpacing(8);
  auto* drum = new QComboBox(&sheet);
  drum->setObjectName("rule drum");
  drum->addItem(tr("Every drum"));
  addChoices<DrumClass>(*drum, kDrumClassNames);
  auto* where = new QComboBox(&sheet);
  where->setObjectName("rule where");
  where->addItem(tr("The whole song"));
  if (!doc_.selection().range().empty()) {
    where->addItem(tr("The chosen range"));
    where->setCurrentIndex(1);
  }
  auto* grid = new QComboBox(&sheet);
  grid->setObjectName("rule grid");
  for (const char* g : kGridTexts) grid->addItem(g);
  grid->setCurrentText("1/16");
  auto* swing = numberField(kSwingRange, tr("Rule swing"), &sheet);
  form->addRow(tr("Drum"), drum);
  form->addRow(tr("Where"), where);
  form->addRow(tr("Grid"), grid);
  form->addRow(tr("Swing"), swing);
  auto* ok = new QPushButton(tr("Add"), &sheet);
  ok->setProperty("primary", true);
  ok->setDefault(true);
  connect(ok, &QPushButton::clicked, &sheet, &QDialog::accept);
  form->addRow(QString(), ok);
  if (sheet.exec() != QDialog::Accepted) return;
  GridRule rule;
  if (auto g = parseGrid(grid->currentText().toStdString())) rule.grid = *g;
  rule.grid.swing = swing->value();
  if (hasChoice(*drum)) rule.drum = choiceIn<DrumClass>(*drum);
  const auto& map = doc_.song().tempo;
  if (where->currentIndex() == 1)
    rule.stretch = {map.toTicks(doc_.selection().range().start), map.toTicks(doc_.selection().range().end)};
  auto s = doc_.timingDesk().settings();
  s.gridRules.push_back(rule);
  doc_.timingDesk().setSettings(tr("Add a grid exception"), s);
}

}  // namespace ochron
