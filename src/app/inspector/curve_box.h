#pragma once

#include <QWidget>
#include <functional>
#include <optional>

#include "document/document.h"
#include "edits/fade_edits.h"

namespace ochron {

/// A fade of the chosen clips as a curve: drag across for its length, up and down to bend it. What is dragged goes to
/// all of them.
class FadeBox : public QWidget {
  Q_OBJECT
 public:
  FadeBox(Document& document, FadeEnd end, QWidget* parent);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override { hold_ = {}; }
  QSize sizeHint() const override { return {110, 56}; }

 private:
  const Clip* first() const;
  const Fade& fadeOf(const Clip& clip) const { return end_ == FadeEnd::in ? clip.fadeIn : clip.fadeOut; }

  Document& doc_;
  FadeEnd end_;
  Grip hold_;
  QPointF from_;
  Fade before_;
  Frames longest_;
};

/// The joint that the chosen clips begin with: both gains of its crossfade. Drag across to move the meeting point, up
/// and down for its length.
class JointBox : public QWidget {
  Q_OBJECT
 public:
  JointBox(Document& document, QWidget* parent);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override { hold_ = {}; }
  QSize sizeHint() const override { return {110, 56}; }

 private:
  const Clip* first() const;

  Document& doc_;
  Grip hold_;
  QPointF from_;
  Seam before_;
};

}  // namespace ochron
