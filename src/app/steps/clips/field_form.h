#pragma once

#include <QStringList>
#include <QWidget>
#include <functional>
#include <map>
#include <optional>
#include <variant>
#include <vector>

class QHBoxLayout;

namespace ochron {

/// Labelled values that can be typed, chosen or ticked, in groups across.
class FieldForm : public QWidget {
  Q_OBJECT
 public:
  // What a field is, and where its value comes from and goes to; none read is shown as mixed.
  struct Typed {
    std::function<std::optional<QString>()> read;
    std::function<void(const QString&)> write;  ///< as it was typed: it may be an amount to add
  };
  struct Choice {
    QStringList of;
    std::function<std::optional<int>()> read;
    std::function<void(int)> write;
  };
  struct Tick {
    std::function<std::optional<bool>()> read;
    std::function<void(bool)> write;
  };
  struct Field {
    QString name;  ///< accessible name and object name, and label when that is empty
    QString tip;
    std::variant<Typed, Choice, Tick> value;
    QString group = {};  ///< fields of one group stand together
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
  static void showValue(QWidget* editor, const Field& field);
  QHBoxLayout* across_;
  std::vector<Row> rows_;
};

/// A choice among values with their words: what is read and written is a value, wherever its line stands.
template <class T>
FieldForm::Choice choiceOf(const std::vector<std::pair<T, QString>>& values, std::function<std::optional<T>()> read,
                           std::function<void(const T&)> write) {
  FieldForm::Choice out;
  for (const auto& [value, words] : values) out.of << words;
  out.read = [values, read = std::move(read)]() -> std::optional<int> {
    const auto now = read();
    for (std::size_t i = 0; now && i < values.size(); ++i)
      if (values[i].first == *now) return static_cast<int>(i);
    return std::nullopt;
  };
  out.write = [values, write = std::move(write)](int i) { write(values[static_cast<std::size_t>(i)].first); };
  return out;
}

}  // namespace ochron
