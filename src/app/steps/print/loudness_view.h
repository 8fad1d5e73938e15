#pragma once

#include <QPushButton>
#include <QWidget>
#include <functional>
#include <optional>

#include "document/document.h"
#include "render/export.h"

namespace ochron {

/// How loud the mix is over the song: short-term and momentary as curves, the whole in numbers, with what an export
/// would be brought to.
class LoudnessView : public QWidget {
  Q_OBJECT
 public:
  LoudnessView(Document& document, std::function<ExportSettings()> settings, QWidget* parent);
  /// In words: what the curve's numbers are, and what is asked for.
  QString words() const;

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;

 private:
  void refresh();

  Document& doc_;
  std::function<ExportSettings()> settings_;
  QPushButton* measure_;
};

}  // namespace ochron
