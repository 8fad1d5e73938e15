#pragma once

#include <QWidget>

#include "canvas/read_items.h"
#include "document/document.h"
#include "head/tuner.h"

class QToolButton;

namespace ochron {

/// Two words of which one holds: Original | Edited.
class VersionSwitch : public QWidget, public ReadItems {
  Q_OBJECT
 public:
  VersionSwitch(Document& document, QWidget* parent);
  QSize sizeHint() const override { return {188, 30}; }
  std::vector<ReadItem> readItems() const override;

 protected:
  bool event(QEvent* event) override;
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  Document& doc_;
};

/// Transport, position, tempo and meter here, click, version, output level.
class HeadLine : public QWidget, public ReadItems {
  Q_OBJECT
 public:
  HeadLine(Document& document, QWidget* parent);
  void showPosition(Frames at);
  void showLevels(float left, float right);
  const QWidget* version() const { return version_; }
  std::vector<ReadItem> readItems() const override;
  QAccessible::Role readRole() const override { return QAccessible::ToolBar; }

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;

 private:
  void arrange();
  void refresh();
  Document& doc_;
  QToolButton* play_;
  QToolButton* loop_;
  QToolButton* click_;
  VersionSwitch* version_;
  Tuner* tuner_;
  Frames at_;
  double level_[2] = {0, 0};
  double held_[2] = {0, 0};
};

}  // namespace ochron
