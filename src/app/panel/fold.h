#pragma once

#include <QToolButton>
#include <QVBoxLayout>
#include <QWidget>

namespace ochron {

/// A titled part of a step that can be folded away; remembered by its title.
class Fold : public QWidget {
  Q_OBJECT
 public:
  Fold(const QString& key, const QString& title, bool open, QWidget* parent);
  QVBoxLayout* inside() const { return inside_; }
  QWidget* body() const { return body_; }

 private:
  QToolButton* head_;
  QWidget* body_;
  QVBoxLayout* inside_;
};

}  // namespace ochron
