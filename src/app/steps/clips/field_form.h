#pragma once

#include <QStringList>
#include <QWidget>
#include <functional>
#include <map>
#include <vector>

class QHBoxLayout;

namespace ochron {

/// Labelled values that can be typed, chosen or ticked, in groups across.
class FieldForm : public QWidget {
  Q_OBJECT
 public:
  struct Field {
    QString name;  ///< accessible name and object name, and label when that is empty
    QString tip;
    std::function<QString()> read;              ///< null: shown as mixed
    std::function<void(const QString&)> write;  ///< what was typed; of choices, the index as text
    QStringList choices = {};                   ///< not empty: chosen from a list; `read` gives the index
    bool tick = false;                          ///< on or off: `read` gives "1", "0" or nothing for mixed
    QString group = {};                         ///< fields of one group stand together
    QString label = {};
  };

  explicit FieldForm(QWidget* parent);
  /// New rows; what is shown is read at once. `pictures` stand at the top of their groups; the form takes them over.
  void setFields(std::vector<Field> fields, const std::map<QString, QWidget*>& pictures = {});
  void refresh();

 private:
  struct Row {
    Field field;
    QWidget* editor;
  };
  QWidget* makeEditor(const Field& field);
  QHBoxLayout* across_;
  std::vector<Row> rows_;
};

}  // namespace ochron
