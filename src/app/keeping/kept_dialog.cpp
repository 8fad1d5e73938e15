#include "keeping/kept_dialog.h"

#include <QDateTime>
#include <QHBoxLayout>
#include <QLabel>
#include <QListWidget>
#include <QLocale>
#include <QMessageBox>
#include <QPushButton>
#include <QVBoxLayout>

#include "theme/theme.h"

namespace ochron {

KeptDialog::KeptDialog(const std::vector<KeptCopies::Copy>& copies, Why why, QWidget* parent)
    : QDialog(parent), copies_(copies) {
  setWindowTitle(why == Why::crash ? tr("Songs that were not saved") : tr("Kept copies"));
  resize(520, 340);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(22, 20, 22, 18);
  column->setSpacing(12);
  auto* title =
      new QLabel(why == Why::crash ? tr("Orthochron did not close properly") : tr("Copies that were kept"), this);
  title->setFont(Theme::get().font(16, 600));
  column->addWidget(title);
  auto* text = new QLabel(
      why == Why::crash
          ? tr("These songs were not saved. Open one; the others stay under Song, Kept copies, until you remove them.")
          : tr("Songs from after a crash, or autosaved copies that were not opened. They stay until you remove them."),
      this);
  text->setWordWrap(true);
  text->setProperty("note", true);
  column->addWidget(text);
  list_ = new QListWidget(this);
  list_->setObjectName("kept copies");
  list_->setAccessibleName(windowTitle());
  column->addWidget(list_, 1);
  auto* buttons = new QHBoxLayout;
  if (why == Why::asked) {
    remove_ = new QPushButton(tr("Remove"), this);
    remove_->setToolTip(tr("Throws the chosen copy away for good"));
    buttons->addWidget(remove_);
    connect(remove_, &QPushButton::clicked, this, [this] {
      const auto i = static_cast<std::size_t>(list_->currentRow());
      if (QMessageBox::question(this, tr("Remove this copy?"), tr("It cannot be brought back.")) != QMessageBox::Yes)
        return;
      KeptCopies::remove(copies_[i]);
      copies_.erase(copies_.begin() + list_->currentRow());
      refresh();
    });
  }
  buttons->addStretch(1);
  auto* later = new QPushButton(why == Why::crash ? tr("Not now") : tr("Close"), this);
  open_ = new QPushButton(tr("Open"), this);
  open_->setObjectName("open kept");
  open_->setDefault(true);
  buttons->addWidget(later);
  buttons->addWidget(open_);
  column->addLayout(buttons);
  connect(later, &QPushButton::clicked, this, &QDialog::reject);
  connect(open_, &QPushButton::clicked, this, [this] {
    chosen_ = copies_[static_cast<std::size_t>(list_->currentRow())];
    accept();
  });
  connect(list_, &QListWidget::itemDoubleClicked, open_, &QPushButton::click);
  refresh();
}

void KeptDialog::refresh() {
  list_->clear();
  for (const auto& c : copies_) {
    const auto when = QDateTime::fromSecsSinceEpoch(c.when).toString("yyyy-MM-dd  hh:mm");
    list_->addItem(
        tr("%1    %2%3")
            .arg(when, QString::fromStdString(c.name), c.damaged ? tr("  (damaged, cannot be opened)") : QString()));
  }
  if (copies_.empty()) (new QListWidgetItem(tr("There are none."), list_))->setFlags(Qt::NoItemFlags);
  list_->setCurrentRow(copies_.empty() ? -1 : 0);
  const auto enable = [this] {
    const int row = list_->currentRow();
    open_->setEnabled(row >= 0 && !copies_[static_cast<std::size_t>(row)].damaged);
    if (remove_) remove_->setEnabled(row >= 0);
  };
  connect(list_, &QListWidget::currentRowChanged, this, enable);
  enable();
}

}  // namespace ochron
