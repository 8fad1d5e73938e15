#pragma once

#include <QLabel>
#include <QStackedWidget>
#include <QTableWidget>

#include "canvas/view_state.h"
#include "document/document.h"

namespace ochron {

/// Under the lanes in the tempo step: the song's tempo as a curve where the song follows; where recordings follow, each
/// take with its own tempo, so that many are fitted at once.
class TempoBench : public QStackedWidget {
  Q_OBJECT
 public:
  TempoBench(Document& document, ViewState& view, QWidget* parent);

 private:
  void refresh();
  void fill(int row, const MicSet& set);

  Document& doc_;
  QTableWidget* table_;
};

}  // namespace ochron
