#pragma once

#include <QComboBox>
#include <QVariant>

namespace ochron {

// Boxes to choose from by value: what is chosen is the value itself, wherever its line stands.

template <class E>
void addChoice(QComboBox& box, E value, const QString& words, const QString& tip = {}) {
  box.addItem(words, static_cast<int>(value));
  if (!tip.isEmpty()) box.setItemData(box.count() - 1, tip, Qt::ToolTipRole);
}

/// Every value of an enum whose words stand in a table in its order.
template <class E, class Names>
void addChoices(QComboBox& box, const Names& names) {
  for (std::size_t i = 0; i < names.size(); ++i)
    addChoice(box, static_cast<E>(i), QString::fromUtf8(names[i].data(), static_cast<qsizetype>(names[i].size())));
}

/// False on a line that stands for all, or for a heading.
inline bool hasChoice(const QComboBox& box) { return box.currentData().isValid(); }

template <class E>
E choiceIn(const QComboBox& box) {
  return static_cast<E>(box.currentData().toInt());
}

template <class E>
void setChoice(QComboBox& box, E value) {
  box.setCurrentIndex(box.findData(static_cast<int>(value)));
}

}  // namespace ochron
