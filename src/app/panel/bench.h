#pragma once

#include <QStackedWidget>
#include <vector>

#include "panel/step_page.h"

class QSplitter;

namespace ochron {

/// The open step's own working surface under the lanes. Its height is dragged and remembered for each step; it can be
/// folded away.
class Bench : public QStackedWidget {
  Q_OBJECT
 public:
  /// `rows` is the splitter it is about to be the last part of.
  Bench(Document& document, ViewState& view, const std::vector<StepEntry>& steps, QSplitter* rows);
  /// However wide its pages would like to be, the lanes keep their width.
  QSize minimumSizeHint() const override { return {0, 0}; }
  bool folded() const { return folded_; }
  void fold(bool away);

 private:
  void follow();
  void remember();
  void restore();
  QString key() const;

  Document& doc_;
  std::vector<StepEntry> steps_;
  QSplitter* rows_;
  Step shown_ = Step::timing;
  bool folded_ = false;
};

}  // namespace ochron
