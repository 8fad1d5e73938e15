#pragma once

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QTableView>
#include <QWidget>

#include "steps/hits/hit_table_model.h"

class QBoxLayout;

namespace ochron {

/// The hits as a table under the lanes. Selecting rows selects hits everywhere; Delete removes them, the class can be
/// changed for all selected rows at once.
class HitTableView : public QWidget {
  Q_OBJECT
 public:
  HitTableView(Document& document, QWidget* parent);
  std::vector<HitRef> selected() const;

 protected:
  void keyPressEvent(QKeyEvent* event) override;
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;

 private:
  void refresh();
  void follow();
  void filter();
  Document& doc_;
  HitTableModel* model_;
  HitFilter* filtered_;
  QTableView* table_;
  QBoxLayout* bars_;  ///< side by side, or one under the other where there is no room
  QComboBox* drum_;
  QComboBox* guide_;
  QDoubleSpinBox* sure_;
  QDoubleSpinBox* move_;
  QComboBox* become_;
  QLabel* count_;
  bool following_ = false;
};

}  // namespace ochron
