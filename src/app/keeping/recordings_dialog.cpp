#include "keeping/recordings_dialog.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

#include "document/document.h"
#include "document/takes_desk.h"
#include "theme/theme.h"

namespace ochron {

RecordingsDialog::RecordingsDialog(Document& document, QWidget* parent) : QDialog(parent), doc_(document) {
  setObjectName("recordings sheet");
  setWindowTitle(tr("Recordings to look at"));
  resize(620, 380);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(22, 20, 22, 18);
  column->setSpacing(12);
  auto* title = new QLabel(tr("These recordings are not as the song knows them"), this);
  title->setFont(Theme::get().font(16, 600));
  column->addWidget(title);
  auto* scroll = new QScrollArea(this);
  scroll->setWidgetResizable(true);
  scroll->setFrameShape(QFrame::NoFrame);
  column->addWidget(scroll, 1);
  auto* inside = new QWidget(scroll);
  column_ = new QVBoxLayout(inside);
  column_->setContentsMargins(0, 0, 8, 0);
  scroll->setWidget(inside);
  auto* buttons = new QHBoxLayout;
  auto* again = new QPushButton(tr("Look again"), this);
  again->setToolTip(tr("Reads them once more: a disk may be back"));
  connect(again, &QPushButton::clicked, this, [this] { doc_.recordings().lookAgain(); });
  auto* close = new QPushButton(tr("Close"), this);
  close->setDefault(true);
  connect(close, &QPushButton::clicked, this, &QDialog::accept);
  buttons->addWidget(again);
  buttons->addStretch(1);
  buttons->addWidget(close);
  column->addLayout(buttons);
  connect(&doc_, &Document::mediaChanged, this, &RecordingsDialog::refresh);
  refresh();
}

void RecordingsDialog::refresh() {
  if (list_) list_->deleteLater();
  list_ = new QWidget(this);
  auto* rows = new QVBoxLayout(list_);
  rows->setContentsMargins(0, 0, 0, 0);
  rows->setSpacing(14);
  for (const auto& [id, trouble] : doc_.recordings().troubles()) {
    const auto* m = doc_.song().find(id);
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    auto* text = new QVBoxLayout;
    auto* name = new QLabel(QString::fromStdString(m->name), list_);
    name->setFont(Theme::get().font(13, 600));
    auto* what = new QLabel(trouble.sentence, list_);
    what->setWordWrap(true);
    what->setProperty("note", true);
    text->addWidget(name);
    text->addWidget(what);
    row->addLayout(text, 1);
    const auto button = [&](const QString& label, const QString& key, auto act) {
      auto* b = new QPushButton(label, list_);
      b->setObjectName(QStringLiteral("%1 %2").arg(key, QString::fromStdString(m->name)));
      connect(b, &QPushButton::clicked, this, act);
      row->addWidget(b, 0, Qt::AlignTop);
    };
    if (trouble.kind == MediaTrouble::Kind::replaced)
      button(tr("Use this one"), "use", [this, media = id, path = m->path] { doc_.takesDesk().relink(media, path); });
    button(tr("Find it\u2026"), "find", [this, media = id] { find(media.value); });
    rows->addLayout(row);
  }
  if (doc_.recordings().troubles().empty()) {
    auto* none = new QLabel(tr("All recordings are at hand, as they were imported."), list_);
    none->setProperty("note", true);
    rows->addWidget(none);
  }
  rows->addStretch(1);
  column_->addWidget(list_);
}

void RecordingsDialog::find(std::uint64_t value) {
  const MediaId id{value};
  const auto* m = doc_.song().find(id);
  if (!m) return;
  const auto file = QFileDialog::getOpenFileName(this, tr("Where is %1?").arg(QString::fromStdString(m->path)));
  if (file.isEmpty()) return;
  const QFileInfo found(file);
  std::vector<std::pair<MediaId, std::string>> beside;
  for (const auto& [other, trouble] : doc_.recordings().troubles()) {
    const auto* o = doc_.song().find(other);
    if (!o) continue;
    const auto path = found.dir().filePath(QFileInfo(QString::fromStdString(o->path)).fileName());
    if (other != id && trouble.kind == MediaTrouble::Kind::missing && QFileInfo::exists(path))
      beside.emplace_back(other, path.toStdString());
  }
  doc_.takesDesk().relink(id, file.toStdString());
  for (const auto& [other, path] : beside) doc_.takesDesk().relink(other, path);
}

}  // namespace ochron
