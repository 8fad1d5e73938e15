#include "panel/bench.h"

#include <QSettings>
#include <QSplitter>

namespace ochron {
namespace {
constexpr int kUsualHeight = 190;
constexpr int kClipsHeight = 262;  // all groups of values whole
constexpr int kPitchHeight = 352;  // a ruler of notes, under twelve slim lanes at the design size
constexpr int kLeastHeight = 96;
}  // namespace

Bench::Bench(Document& document, ViewState& view, const std::vector<StepEntry>& steps, QSplitter* rows)
    : QStackedWidget(rows), doc_(document), steps_(steps), rows_(rows) {
  setObjectName("bench");
  setAccessibleName(tr("Bench of the open step"));
  setMinimumHeight(kLeastHeight);
  for (const auto& s : steps_) addWidget(s.page->makeBench(view, this));
  shown_ = doc_.step();
  folded_ = QSettings().value("bench/folded", false).toBool();
  connect(&doc_, &Document::stepChanged, this, &Bench::follow);
  connect(rows_, &QSplitter::splitterMoved, this, &Bench::remember);
  follow();
}

QString Bench::key() const { return QStringLiteral("bench/height %1").arg(static_cast<int>(shown_)); }

void Bench::fold(bool away) {
  folded_ = away;
  QSettings().setValue("bench/folded", away);
  setVisible(!away);
  if (!away) restore();
}

void Bench::remember() {
  if (isVisible() && height() >= kLeastHeight) QSettings().setValue(key(), height());
}

void Bench::restore() {
  const int all = rows_->height();
  const int wanted = QSettings()
                         .value(key(), shown_ == Step::clips   ? kClipsHeight
                                       : shown_ == Step::pitch ? kPitchHeight
                                                               : kUsualHeight)
                         .toInt();
  if (all > 0) rows_->setSizes({std::max(1, all - wanted), wanted});
}

void Bench::follow() {
  shown_ = doc_.step();
  for (std::size_t i = 0; i < steps_.size(); ++i)
    if (steps_[i].step == shown_) setCurrentIndex(static_cast<int>(i));
  setVisible(!folded_);
  if (!folded_) restore();
}

}  // namespace ochron
