#pragma once

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>
#include <QWidget>
#include <functional>
#include <vector>

#include "document/document.h"
#include "effects/effect_info.h"

namespace ochron {

/// The controls of the effect that is worked on, laid out from what its plug-in says of its ports.
class EffectBench : public QWidget {
  Q_OBJECT
 public:
  EffectBench(Document& document, QWidget* parent);

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;

 private:
  using Set = std::function<void(double)>;   ///< the user turns a control
  using Show = std::function<void(double)>;  ///< a control shows a value
  struct Shown {
    std::size_t control = 0;  ///< of the plug-in
    QWidget* widget = nullptr;
    QString group;
    Show show;
    QToolButton* along = nullptr;  ///< lets it move along the song
  };
  void refresh();
  void build(const EffectInfo& info, InsertId insert);
  Shown make(const EffectInfo& info, std::size_t control, InsertId insert);
  /// The button in front of a control that lets it move along the song, with its menu.
  QToolButton* makeAlong(const EffectControl& control, InsertId insert, QWidget* parent);
  void showValues();
  Show makeToggle(const EffectControl& control, QVBoxLayout& to, const Set& set);
  Show makeChoice(const EffectControl& control, QVBoxLayout& to, const Set& set);
  Show makeNumber(const EffectControl& control, QVBoxLayout& to, const Set& set);
  void layOut();
  void showReadings();

  Document& doc_;
  QLabel* title_;
  QLabel* readings_;
  QComboBox* presets_;
  QPushButton* restart_;
  QScrollArea* scroll_;
  QWidget* inside_;
  QLabel* empty_;
  std::vector<Shown> shown_;
  std::vector<QLabel*> headings_;
  InsertId built_;
  int builtAt_ = 0;  ///< rate, Hz: ranges may go with it
  QTimer timer_;
};

}  // namespace ochron
