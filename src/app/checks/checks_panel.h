#pragma once

#include <QWidget>
#include <optional>
#include <vector>

#include "canvas/read_items.h"
#include "checks/checks.h"
#include "document/document.h"

namespace ochron {

/// What deserves a look, the riskiest first. Click or step through with a key.
class ChecksPanel : public QWidget, public ReadItems {
  Q_OBJECT
 public:
  ChecksPanel(Document& document, QWidget* parent);
  /// Goes to the next (or an earlier) check.
  void step(int by);
  /// The current check is good as it is, or is to be fixed in the plain way.
  void accept();
  void fix();
  std::vector<ReadItem> readItems() const override;
  int count() const { return static_cast<int>(checks_.size()); }
  /// What is listed and stepped through: one group or all, of the active set or of the whole song.
  void showOnly(std::optional<CheckGroup> group, bool activeSet);
  /// Asks for that by a menu.
  void chooseFilter();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  void refresh();
  void go(int index);
  QString emptyText() const;
  void settle(int at);
  const Check* current() const;
  /// Whether it is about what is chosen.
  bool isCurrent(const Check& check) const;
  QString detailOf(const Check& check) const;
  double rowTop(int index) const;
  QRectF buttonBox(int index, bool fixButton) const;
  QRectF filterBox() const;
  QString filterName() const;
  Document& doc_;
  std::vector<Check> checks_;
  std::optional<CheckGroup> group_;
  bool ofSet_ = false;
  std::size_t all_ = 0;  ///< with what is not shown
  int current_ = -1;
  int scroll_ = 0;
  QPointF pointer_;
};

}  // namespace ochron
