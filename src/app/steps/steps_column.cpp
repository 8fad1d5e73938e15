#include "steps/steps_column.h"

#include <QAbstractSpinBox>
#include <QApplication>
#include <QComboBox>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollArea>
#include <QScrollBar>
#include <QVBoxLayout>

#include "document/wording.h"
#include "seams/seam_edits.h"
#include "steps/clips_step.h"
#include "steps/hits_step.h"
#include "steps/print_step.h"
#include "steps/seams_step.h"
#include "steps/takes_step.h"
#include "steps/timing_step.h"
#include "theme/theme.h"

namespace ochron {

/// Number, name and one line of summary; click or Enter opens the step.
class StepsColumn::Title : public QWidget {
 public:
  Title(Document& document, Step step, QString number, QString name, QWidget* parent)
      : QWidget(parent), doc_(document), step_(step), number_(std::move(number)), name_(std::move(name)) {
    setFixedHeight(46);
    setFocusPolicy(Qt::TabFocus);
    setCursor(Qt::PointingHandCursor);
    setAccessibleName(tr("Step %1, %2").arg(number_, name_));
    setObjectName("step " + name_);
  }
  void show(bool open, const QString& summary) {
    open_ = open;
    summary_ = summary;
    setAccessibleDescription(summary);
    update();
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    const auto& theme = Theme::get();
    const auto& sheet = theme.sheet();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QPointF centre(24, open_ ? 21 : 23);
    p.setPen(open_ ? QPen(Qt::NoPen)
                   : QPen(underMouse() || hasFocus() ? sheet.selection : sheet.inkSoft, hasFocus() ? 2 : 1.3));
    p.setBrush(open_ ? QBrush(sheet.selection) : QBrush(Qt::NoBrush));
    p.drawEllipse(centre, 10.5, 10.5);
    p.setPen(open_ ? sheet.paper : sheet.note);
    p.setFont(theme.font(11, 600));
    p.drawText(QRectF(centre.x() - 10, centre.y() - 10, 20, 20), Qt::AlignCenter, number_);
    p.setPen(sheet.ink);
    p.setFont(theme.font(13.5, 600));
    p.drawText(QRectF(46, open_ ? 11 : 5, width() - 50, 20), Qt::AlignVCenter, name_);
    if (open_) return;
    p.setPen(sheet.note);
    p.setFont(theme.font(11));
    p.drawText(QRectF(46, 24, width() - 52, 16), Qt::AlignVCenter,
               p.fontMetrics().elidedText(summary_, Qt::ElideRight, width() - 54));
  }
  void mousePressEvent(QMouseEvent*) override { doc_.setStep(step_); }
  void keyPressEvent(QKeyEvent* event) override {
    if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter)
      doc_.setStep(step_);
    else
      QWidget::keyPressEvent(event);
  }
  void enterEvent(QEnterEvent*) override { update(); }
  void leaveEvent(QEvent*) override { update(); }

 private:
  Document& doc_;
  Step step_;
  QString number_;
  QString name_;
  QString summary_;
  bool open_ = false;
};

namespace {

/// The open step stands on paper, with a line of the selection's colour at its left.
class OpenPaper : public QWidget {
 public:
  using QWidget::QWidget;
  bool open = false;

 protected:
  void paintEvent(QPaintEvent*) override {
    if (!open) return;
    QPainter p(this);
    p.fillRect(rect(), Theme::get().sheet().paper);
    p.fillRect(QRect(0, 0, 3, height()), Theme::get().sheet().selection);
  }
};

}  // namespace

StepsColumn::StepsColumn(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  setAccessibleName(tr("Steps"));
  qApp->installEventFilter(this);
  auto* outer = new QVBoxLayout(this);
  outer->setContentsMargins(0, 0, 0, 0);
  auto* scroll = new QScrollArea(this);
  scroll->setWidgetResizable(true);
  scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll->setFocusPolicy(Qt::NoFocus);
  auto* list = new QWidget;
  list->setObjectName("stepsList");
  auto* column = new QVBoxLayout(list);
  column->setContentsMargins(0, 6, 0, 6);
  column->setSpacing(0);
  scroll->setWidget(list);
  outer->addWidget(scroll);
  add(Step::takes, tr("Takes"), new TakesStep(doc_, list));
  add(Step::hits, tr("Hits"), new HitsStep(doc_, list));
  add(Step::timing, tr("Timing"), new TimingStep(doc_, list));
  add(Step::seams, tr("Seams"), new SeamsStep(doc_, list));
  add(Step::clips, tr("Clips"), new ClipsStep(doc_, list));
  add(Step::print, tr("Print"), new PrintStep(doc_, list));
  column->addStretch(1);
  for (auto signal :
       {&Document::songChanged, &Document::stepChanged, &Document::selectionChanged, &Document::mediaChanged})
    connect(&doc_, signal, this, &StepsColumn::refresh);
  connect(&Theme::get(), &Theme::changed, this, &StepsColumn::refresh);
  refresh();
}

bool StepsColumn::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() != QEvent::Wheel) return false;
  auto* widget = qobject_cast<QWidget*>(watched);
  const bool value = qobject_cast<QComboBox*>(watched) || qobject_cast<QAbstractSpinBox*>(watched) ||
                     qobject_cast<QAbstractSlider*>(watched);
  if (!widget || !value || qobject_cast<QScrollBar*>(watched) || !isAncestorOf(widget)) return false;
  event->ignore();
  return true;
}

void StepsColumn::add(Step step, const QString& name, QWidget* controls) {
  auto* column = findChild<QWidget*>("stepsList")->layout();
  auto* paper = new OpenPaper(column->parentWidget());
  auto* inside = new QVBoxLayout(paper);
  inside->setContentsMargins(0, 0, 0, 0);
  inside->setSpacing(0);
  auto* title = new Title(doc_, step, QString::number(entries_.size() + 1), name, paper);
  inside->addWidget(title);
  inside->addWidget(controls);
  column->addWidget(paper);
  entries_.push_back({step, title, controls});
}

void StepsColumn::refresh() {
  for (auto& e : entries_) {
    const bool open = e.step == doc_.step();
    e.controls->setVisible(open);
    e.title->show(open, summary(e.step));
    auto* paper = static_cast<OpenPaper*>(e.title->parentWidget());
    paper->open = open;
    paper->update();
  }
}

QString StepsColumn::summary(Step step) const {
  const auto& song = doc_.song();
  switch (step) {
    case Step::takes: {
      if (song.takes.empty()) return tr("nothing recorded yet");
      const auto* set = song.find(doc_.activeSet());
      return counted(song.takes.size(), "take", "takes") + " \u00b7 " +
             counted(set ? set->tracks.size() : 0, "mic", "mics") + ", " +
             counted(song.tracks.size(), "track", "tracks");
    }
    case Step::hits: {
      const auto count = doc_.planned().hits.size();
      return count == 0 ? tr("none found") : counted(count, "hit", "hits");
    }
    case Step::timing:
      return doc_.timing().on ? tr("on %1, spread %2 ms")
                                    .arg(QString::fromStdString(toText(doc_.timing().grid)))
                                    .arg(doc_.planned().stats().spreadAfterMs, 0, 'f', 1)
                              : tr("as played");
    case Step::seams: {
      const auto* set = song.find(doc_.activeSet());
      std::size_t seams = 0;
      for (std::size_t i = 1; set && i < set->clips->size(); ++i) seams += isSeam(*set->clips, i) ? 1 : 0;
      return seams == 0 ? tr("nothing cut") : counted(seams, "seam", "seams");
    }
    case Step::clips: {
      std::size_t clips = 0;
      for (const auto& s : song.sets) clips += s.clips->size();
      auto text = counted(clips, "clip", "clips");
      if (!song.spans.empty()) text += " \u00b7 " + counted(song.spans.size(), "silent span", "silent spans");
      return text;
    }
    case Step::print: return tr("export the mix or the tracks");
  }
  return {};
}

}  // namespace ochron
