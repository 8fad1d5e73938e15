#pragma once

#include <QDialog>
#include <QLineEdit>
#include <QTreeWidget>

#include "document/effect_desk.h"

namespace ochron {

/// All effects of this machine by kind, found by their words.
class EffectPicker : public QDialog {
  Q_OBJECT
 public:
  EffectPicker(EffectDesk& desk, QWidget* parent);
  /// What was taken; null: nothing.
  const EffectInfo* taken() const { return taken_; }

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void list();
  void take();

  EffectDesk& desk_;
  QLineEdit* words_;
  QTreeWidget* tree_;
  const EffectInfo* taken_ = nullptr;
};

}  // namespace ochron
