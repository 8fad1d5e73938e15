#pragma once

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QPushButton>
#include <QWidget>
#include <optional>

#include "canvas/read_items.h"
#include "document/key_desk.h"

namespace ochron {

/// Twelve keys to be pressed, from five semitones below the recording to six above, in two rows; under each how well it
/// fits the other tracks. By keys: the arrows, z s x d c v g b h n j m, 0 as recorded, Return keeps.
class KeyRow : public QWidget, public ReadItems {
  Q_OBJECT
 public:
  KeyRow(Document& document, QWidget* parent);
  QSize sizeHint() const override { return {190, 60}; }
  /// The box of a key, semitones above the recording without octaves.
  QRectF boxOf(int semitones) const;
  std::vector<ReadItem> readItems() const override;

 protected:
  bool event(QEvent* event) override;
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void leaveEvent(QEvent*) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  std::optional<int> keyAt(QPointF point) const;
  /// What it does, and how well it fits.
  QString wordsOf(int semitones) const;
  /// The key in the octave that is open.
  void press(int semitones);

  Document& doc_;
  KeyDesk& desk_;
  std::optional<int> hovered_;
};

/// Keys, octaves and cents, with what is done with the one that is tried.
class KeyBox : public QWidget {
  Q_OBJECT
 public:
  KeyBox(Document& document, QWidget* parent);

 protected:
  void showEvent(QShowEvent*) override;

 private:
  void refresh();

  Document& doc_;
  KeyDesk& desk_;
  QDoubleSpinBox* cents_;
  QComboBox* keyboards_;
  QPushButton* asRecorded_;
  QPushButton* keep_;
};

}  // namespace ochron
