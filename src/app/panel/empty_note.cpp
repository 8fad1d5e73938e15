#include "panel/empty_note.h"

#include <QAbstractItemModel>
#include <QVBoxLayout>
#include <utility>

namespace ochron {

EmptyNote::EmptyNote(QAbstractItemView& table, std::function<QString()> text)
    : QLabel(table.viewport()), rows_(*table.model()), text_(std::move(text)) {
  setObjectName("empty note");
  setProperty("note", true);
  setWordWrap(true);
  setAlignment(Qt::AlignCenter);
  setAttribute(Qt::WA_TransparentForMouseEvents);
  auto* middle = new QVBoxLayout(table.viewport());
  middle->addWidget(this);
  connect(&rows_, &QAbstractItemModel::rowsInserted, this, &EmptyNote::refresh);
  connect(&rows_, &QAbstractItemModel::rowsRemoved, this, &EmptyNote::refresh);
  connect(&rows_, &QAbstractItemModel::modelReset, this, &EmptyNote::refresh);
  connect(&rows_, &QAbstractItemModel::layoutChanged, this, &EmptyNote::refresh);
  refresh();
}

void EmptyNote::refresh() {
  const bool empty = rows_.rowCount() == 0;
  if (empty) setText(text_());
  setVisible(empty);
}

}  // namespace ochron
