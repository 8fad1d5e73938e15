#pragma once

#include <QStringList>
#include <QWidget>
#include <functional>
#include <vector>

class QGridLayout;

namespace ochron {

/// A list of labelled values that can be typed, chosen or ticked.
class FieldForm : public QWidget {
  Q_OBJECT
 public:
  struct Field {
    QString name;  ///< label, accessible name and object name
    QString tip;
    std::function<QString()> read;              ///< null: shown as mixed
    std::function<void(const QString&)> write;  ///< what was typed; of choices, the index as text
    QStringList choices = {};                   ///< not empty: chosen from a list; `read` gives the index
    bool tick = false;                          ///< on or off: `read` gives "1", "0" or nothing for mixed
  };

  explicit FieldForm(QWidget* parent);
  /// New rows; what is shown is read at once.
  void setFields(std::vector<Field> fields);
  void refresh();

 private:
  struct Row {
    Field field;
    QWidget* editor;
  };
  QWidget* makeEditor(const Field& field);
  QGridLayout* grid_;
  std::vector<Row> rows_;
};

}  // namespace ochron
