#pragma once

#include <QHeaderView>
#include <QTableView>
#include <QTableWidget>

#include "theme/theme.h"

namespace ochron {

/// Rows and columns grow with the text.
inline void growWithText(QTableView& table) {
  const auto fit = [&table] {
    table.verticalHeader()->setDefaultSectionSize(Theme::get().px(20));
    table.horizontalHeader()->setMinimumSectionSize(Theme::get().px(64));  // what stretches is read all the same
  };
  fit();
  QObject::connect(&Theme::get(), &Theme::changed, &table, fit);
}

/// A table as benches show them: read only, a row chosen as a whole.
inline QTableWidget* benchTable(const QString& name, const QStringList& columns, QWidget* parent) {
  auto* t = new QTableWidget(0, static_cast<int>(columns.size()), parent);
  t->setObjectName(name);
  t->setAccessibleName(name);
  t->setHorizontalHeaderLabels(columns);
  t->setSelectionBehavior(QAbstractItemView::SelectRows);
  t->setSelectionMode(QAbstractItemView::SingleSelection);
  t->setEditTriggers(QAbstractItemView::NoEditTriggers);
  t->setShowGrid(false);
  t->setWordWrap(false);
  t->setFrameShape(QFrame::NoFrame);
  t->verticalHeader()->hide();
  t->horizontalHeader()->setHighlightSections(false);
  t->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  t->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
  growWithText(*t);
  t->setTabKeyNavigation(false);
  t->setStyleSheet("QTableView::item { padding: 0 8px; }");
  return t;
}

/// Puts a text into a cell; `alarm` in the colour of what needs a look.
inline void setCell(QTableWidget& table, int row, int column, const QString& text, bool alarm = false) {
  auto* cell = table.item(row, column);
  if (!cell) table.setItem(row, column, cell = new QTableWidgetItem);
  cell->setText(text);
  cell->setToolTip(text);
  cell->setForeground(alarm ? Theme::get().sheet().alarm : Theme::get().sheet().ink);
}

}  // namespace ochron
