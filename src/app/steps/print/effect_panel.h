#pragma once

#include <QComboBox>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QToolButton>
#include <QWidget>

#include "document/document.h"
#include "song/insert_place.h"

namespace ochron {

/// The effects of a track, a mic set or the mix, in the order in which sound goes through them.
class EffectPanel : public QWidget {
  Q_OBJECT
 public:
  EffectPanel(Document& document, QWidget* parent);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;
  void showEvent(QShowEvent*) override;

 private:
  void refresh();
  void listPlaces();
  void add();
  InsertId current() const;

  Document& doc_;
  QComboBox* where_;
  std::vector<InsertPlace> places_;
  QListWidget* list_;
  QLabel* note_;
  QToolButton* up_;
  QToolButton* down_;
  QToolButton* out_;
  bool filling_ = false;
};

}  // namespace ochron
