#pragma once

#include <QVBoxLayout>
#include <QWidget>
#include <vector>

#include "document/document.h"

class QPainter;

namespace ochron {

/// Something of the kit in the panel: chosen by a click, Return or Space, with a frame that says whether it is.
class KitCard : public QWidget {
  Q_OBJECT
 public:
  KitCard(int height, QWidget* parent);
  QSize sizeHint() const override { return {176, height()}; }

 protected:
  virtual void choose() = 0;
  void paintFrame(QPainter& p, bool chosen) const;
  void mousePressEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
};

/// A column of cards, one for each of some things in their order: made anew only when they are others.
template <class Card, class Thing>
class CardColumn {
 public:
  explicit CardColumn(QVBoxLayout& into) : column_(new QVBoxLayout) {
    column_->setSpacing(6);
    into.addLayout(column_);
  }
  void show(Document& document, const std::vector<const Thing*>& things, QWidget* on) {
    std::vector<decltype(Thing::id)> names;
    for (const auto* thing : things) names.push_back(thing->id);
    if (names != names_) {
      for (auto* card : cards_) card->deleteLater();
      cards_.clear();
      for (const auto name : names) {
        cards_.push_back(new Card(document, name, on));
        column_->addWidget(cards_.back());
      }
      names_ = std::move(names);
    }
    for (auto* card : cards_) card->refresh();
  }

 private:
  QVBoxLayout* column_;
  std::vector<Card*> cards_;
  std::vector<decltype(Thing::id)> names_;
};

}  // namespace ochron
