#include "head/status_line.h"

#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QMenu>
#include <QPainter>
#include <QTimer>
#include <cmath>

#include "actions/actions.h"
#include "document/selection.h"
#include "document/transport.h"
#include "document/wording.h"
#include "theme/theme.h"

namespace ochron {

StatusLine::StatusLine(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  fixHeight(*this, 26);
  setAccessibleName(tr("Status"));
  auto* line = new QHBoxLayout(this);
  line->setContentsMargins(14, 0, 14, 0);
  line->setSpacing(10);
  text_ = new QLabel(this);
  text_->setObjectName("status");
  text_->setCursor(Qt::PointingHandCursor);
  text_->installEventFilter(this);
  text_->setMinimumWidth(100);
  text_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  line->addWidget(text_, 1);
  job_ = new QLabel(this);
  job_->setObjectName("job");
  line->addWidget(job_);
  progress_ = new QProgressBar(this);
  progress_->setTextVisible(false);
  progress_->setFixedWidth(120);
  progress_->setRange(0, 1000);
  line->addWidget(progress_);
  cancel_ = new QToolButton(this);
  cancel_->setObjectName("cancel job");
  cancel_->setAccessibleName(tr("Cancel"));
  cancel_->setToolTip(tr("Cancel"));
  cancel_->setIconSize({12, 12});
  cancel_->setProperty(kCommand, "edit.cancel");
  connect(cancel_, &QToolButton::clicked, this, [this] {
    doc_.jobs().cancelTasks();
    say(tr("Cancelled."), false);
  });
  line->addWidget(cancel_);
  device_ = new QToolButton(this);
  device_->setObjectName("sound device");
  device_->setProperty("words", true);
  Actions::bind(device_, "transport.output");
  line->addWidget(device_);
  timer_ = new QTimer(this);
  timer_->setSingleShot(true);
  connect(timer_, &QTimer::timeout, this, [this] { said_ = {}, refresh(); });
  connect(&doc_.jobs(), &Jobs::changed, this, &StatusLine::refresh);
  connect(&doc_, &Document::told, this, &StatusLine::say);
  for (auto signal : {&Document::songChanged, &Document::transportChanged})
    connect(&doc_, signal, this, &StatusLine::refresh);
  doc_.selection().watch(Selection::kWhere, this, [this] { refresh(); });
  connect(&Theme::get(), &Theme::changed, this, &StatusLine::refresh);
  refresh();
}

void StatusLine::say(const QString& sentence, bool refused) {
  constexpr int kStays = 9000;  // ms
  said_ = {sentence, refused};
  if (!sentence.isEmpty() && (last_.isEmpty() || last_.front().sentence != sentence)) last_.prepend(said_);
  if (last_.size() > kKept) last_.removeLast();
  timer_->start(kStays);
  refresh();
}

void StatusLine::showLast() {
  constexpr int kBeside = 120;  // px: the menu is no wider than the window
  QMenu menu(this);
  if (last_.isEmpty()) menu.addAction(tr("Nothing has been said yet."))->setEnabled(false);
  for (const auto& s : last_)
    menu.addAction(s.refused ? QIcon(Theme::get().pixmap("cross", Theme::get().sheet().alarm, 12, 2)) : QIcon(),
                   fontMetrics().elidedText(s.sentence, Qt::ElideRight, width() - kBeside), this,
                   [s] { QApplication::clipboard()->setText(s.sentence); })
        ->setToolTip(tr("%1\nA click copies it").arg(s.sentence));
  menu.setToolTipsVisible(true);
  menu.exec(mapToGlobal(QPoint(8, -menu.sizeHint().height())));
}

bool StatusLine::eventFilter(QObject* watched, QEvent* event) {
  if (watched == text_ && event->type() == QEvent::MouseButtonRelease) showLast();
  return false;
}

void StatusLine::tellGesture(const QString& sentence) {
  gesture_ = sentence;
  refresh();
}

QString StatusLine::selectionText() const {
  const auto& song = doc_.song();
  if (!doc_.selection().range().empty())
    return tr("%1 s selected").arg(static_cast<double>(doc_.selection().range().length().value) / song.rate, 0, 'f', 3);
  if (const auto* h = doc_.selection().plannedHit()) {
    const auto* set = song.find(doc_.selection().set());
    return tr("%1 hit at %2 s \u00b7 %3 together")
        .arg(drumName(h->hit.drum))
        .arg(static_cast<double>(h->now.value) / song.rate, 0, 'f', 3)
        .arg(counted(set->tracks.size(), "mic moves", "mics move"));
  }
  if (song.tracks.empty()) return tr("Import recordings to begin");
  const auto* set = song.find(doc_.selection().set());
  return set ? tr("%1 \u00b7 %2 \u00b7 %3")
                   .arg(QString::fromStdString(set->name), counted(set->tracks.size(), "mic", "mics"),
                        counted(set->clips->size(), "piece", "pieces"))
             : QString();
}

void StatusLine::refresh() {
  const auto text = !gesture_.isEmpty() ? gesture_ : !said_.sentence.isEmpty() ? said_.sentence : selectionText();
  const bool refused = gesture_.isEmpty() && said_.refused;
  text_->setProperty("whole", text);
  text_->setText(text_->fontMetrics().elidedText(text, Qt::ElideRight, text_->width()));
  text_->setToolTip(text_->text() == text ? tr("The last messages") : text);
  const auto look = refused ? QStringLiteral("color: %1").arg(Theme::get().sheet().alarm.name()) : QString();
  if (text_->styleSheet() != look) text_->setStyleSheet(look);
  const auto what = doc_.jobs().what();
  for (QWidget* w : std::initializer_list<QWidget*>{job_, progress_}) w->setVisible(!what.isEmpty());
  cancel_->setVisible(doc_.jobs().hasTasks());
  const double left = doc_.jobs().secondsLeft();
  job_->setText(left < 2    ? what
                : left < 90 ? tr("%1, %2 s left").arg(what).arg(std::lround(left))
                            : tr("%1, %2 min left").arg(what).arg(std::lround(left / 60)));
  progress_->setValue(static_cast<int>(doc_.jobs().fraction() * 1000));
  cancel_->setIcon(QIcon(Theme::get().pixmap("cross", Theme::get().sheet().note, 12, 2)));
  const auto& sound = doc_.transport().sound();
  const auto drops = sound.dropOuts();
  auto device = tr("%1 \u00b7 %2 kHz").arg(sound.name()).arg(doc_.song().rate / 1000.0);
  if (drops > 0) device += tr(" \u00b7 %1").arg(counted(static_cast<std::size_t>(drops), "drop-out", "drop-outs"));
  device_->setText(device);
  device_->setAccessibleName(tr("Sound device: %1").arg(device));
  device_->setToolTip(drops > 0 ? tr("The sound was interrupted: the machine was too busy for it. Longer blocks help")
                                : tr("Choose where the song is heard"));
}

void StatusLine::paintEvent(QPaintEvent*) {
  QPainter p(this);
  paintGround(p, *this, Theme::get().sheet().chrome);
}

}  // namespace ochron
