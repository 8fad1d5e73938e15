#pragma once

#include <QWidget>
#include <functional>
#include <optional>

#include "document/document.h"
#include "edits/fade_edits.h"

namespace ochron {

/// A curve of the chosen clips that is dragged by the hand. The first one's is shown; what is dragged goes to all.
class CurveBox : public QWidget {
  Q_OBJECT
 protected:
  CurveBox(Document& document, QWidget* parent);

  virtual void draw(QPainter& p, const QRectF& inside, const Clip& clip) = 0;
  /// Keeps what the drag starts from.
  virtual void grasp(const Clip& clip) = 0;
  /// `by`: px since it was taken hold of.
  virtual void drag(QPointF by) = 0;

  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override { hold_ = {}; }
  QSize sizeHint() const override { return {110, 56}; }

  Document& doc_;

 private:
  const Clip* first() const;

  Grip hold_;
  QPointF from_;
};

/// A fade: drag across for its length, up and down to bend it.
class FadeBox : public CurveBox {
  Q_OBJECT
 public:
  FadeBox(Document& document, FadeEnd end, QWidget* parent);

 private:
  void draw(QPainter& p, const QRectF& inside, const Clip& clip) override;
  void grasp(const Clip& clip) override;
  void drag(QPointF by) override;
  const Fade& fadeOf(const Clip& clip) const { return end_ == FadeEnd::in ? clip.fadeIn : clip.fadeOut; }

  FadeEnd end_;
  Fade before_;
  Frames longest_;
};

/// The joint that the chosen clips begin with: both gains of its crossfade. Drag across to move the meeting point, up
/// and down for its length.
class JointBox : public CurveBox {
  Q_OBJECT
 public:
  JointBox(Document& document, QWidget* parent);

 private:
  void draw(QPainter& p, const QRectF& inside, const Clip& clip) override;
  void grasp(const Clip& clip) override { before_ = clip.seam; }
  void drag(QPointF by) override;

  Seam before_;
};

}  // namespace ochron
