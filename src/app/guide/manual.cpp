#include "guide/manual.h"

#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QListWidget>
#include <QRegularExpression>
#include <QScrollBar>
#include <QTextBlock>
#include <QTextBrowser>
#include <QVBoxLayout>
#include <algorithm>

#include "guide/manual_page.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr int kListWidth = 220;
constexpr const char* kFirst = "user/README.md";

QString readPage(const QString& page) {
  QFile file(":/manual/" + page);
  return file.open(QIODevice::ReadOnly) ? QString::fromUtf8(file.readAll()) : QString();
}

/// The guide's own table says in which order its pages are read.
QStringList pagesInOrder() {
  QStringList out{kFirst};
  static const QRegularExpression link(R"(\]\(([^)#]+\.md))");
  for (auto at = link.globalMatch(readPage(kFirst)); at.hasNext();) {
    const auto page = QDir::cleanPath("user/" + at.next().captured(1));
    if (!out.contains(page) && QFile::exists(":/manual/" + page)) out << page;
  }
  return out;
}

bool isInManual(const QString& page) { return QFile::exists(":/manual/" + page); }

QString plain(QString text) {
  static const QRegularExpression picture(R"(!\[[^\]]*\]\([^)]*\))");
  static const QRegularExpression link(R"(\[([^\]]*)\]\([^)]*\))");
  static const QRegularExpression marks(R"([*`|]|^#+ )", QRegularExpression::MultilineOption);
  text.remove(picture);
  text.replace(link, "\\1");
  return text.remove(marks).simplified();
}

std::vector<ManualPart> readParts() {
  std::vector<ManualPart> out;
  for (const auto& page : pagesInOrder()) {
    QString title;
    for (const auto& line : readPage(page).split('\n')) {
      if (line.startsWith("# ")) title = plain(line);
      if (out.empty() || out.back().page != page || line.startsWith("## "))
        out.push_back({page, title, line.startsWith("## ") ? plain(line) : QString(), {}});
      else
        out.back().text += line + '\n';
    }
  }
  for (auto& part : out) part.text = plain(part.text);
  return out;
}

}  // namespace

const std::vector<ManualPart>& manualParts() {
  static const auto parts = readParts();
  return parts;
}

std::vector<ManualPart> findInManual(const QString& words) {
  const auto wanted = words.split(' ', Qt::SkipEmptyParts);
  const auto holds = [&](const QString& text) {
    return std::ranges::all_of(wanted, [&](const QString& w) { return text.contains(w, Qt::CaseInsensitive); });
  };
  std::vector<ManualPart> out;
  if (wanted.isEmpty()) return out;
  for (const auto& p : manualParts())
    if (holds(p.title + ' ' + p.heading + ' ' + p.text)) out.push_back(p);
  std::stable_partition(out.begin(), out.end(), [&](const ManualPart& p) { return holds(p.title + ' ' + p.heading); });
  return out;
}

Manual::Manual(QWidget* parent) : QDialog(parent) {
  setObjectName("manual");
  setWindowTitle(tr("User guide"));
  resize(980, 700);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(0);
  auto* left = new QVBoxLayout;
  left->setContentsMargins(16, 16, 12, 12);
  left->setSpacing(10);
  search_ = new QLineEdit(this);
  search_->setObjectName("search manual");
  search_->setAccessibleName(tr("Words to find in the guide"));
  search_->setPlaceholderText(tr("Find words"));
  search_->setClearButtonEnabled(true);
  fixWidth(*search_, kListWidth);
  left->addWidget(search_);
  list_ = new QListWidget(this);
  list_->setObjectName("manual pages");
  list_->setAccessibleName(tr("Pages"));
  fixWidth(*list_, kListWidth);
  list_->setProperty("bare", true);
  list_->setWordWrap(true);
  left->addWidget(list_, 1);
  row->addLayout(left);
  text_ = new QTextBrowser(this);
  text_->setObjectName("manual text");
  text_->setAccessibleName(tr("Page"));
  text_->setFrameShape(QFrame::NoFrame);
  text_->setOpenLinks(false);
  row->addWidget(text_, 1);
  connect(search_, &QLineEdit::textChanged, this, &Manual::list);
  connect(search_, &QLineEdit::returnPressed, this, [this] { list_->setFocus(), list_->setCurrentRow(0); });
  connect(list_, &QListWidget::currentRowChanged, this, &Manual::follow);
  connect(text_, &QTextBrowser::anchorClicked, this, [this](const QUrl& to) {
    const auto page = QDir::cleanPath(QFileInfo(page_).path() + '/' + to.path());
    if (isInManual(page)) open(page);
  });
  connect(&Theme::get(), &Theme::changed, this, &Manual::paintPage);
  list();
}

void Manual::list() {
  const QSignalBlocker quiet(list_);
  list_->clear();
  const bool searching = !search_->text().trimmed().isEmpty();
  listed_ = findInManual(search_->text());
  if (!searching)
    for (const auto& p : manualParts())
      if (listed_.empty() || listed_.back().page != p.page) listed_.push_back(p);
  for (const auto& p : listed_)
    list_->addItem(p.heading.isEmpty() || !searching ? p.title : p.title + QStringLiteral(" \u203a ") + p.heading);
  if (listed_.empty()) new QListWidgetItem(tr("No page holds these words."), list_);
  if (searching && !listed_.empty()) list_->setCurrentRow(0), follow(0);
  if (!searching) {
    const auto at = std::ranges::find(listed_, page_, &ManualPart::page);
    if (at != listed_.end()) list_->setCurrentRow(static_cast<int>(at - listed_.begin()));
    markFound();
  }
}

void Manual::follow(int row) {
  if (row < 0 || row >= static_cast<int>(listed_.size())) return;
  const auto part = listed_[static_cast<std::size_t>(row)];
  const bool another = part.page != page_;
  page_ = part.page;
  if (another) paintPage();
  showHeading(part.heading);
  markFound();
}

void Manual::open(const QString& page, const QString& heading) {
  search_->clear();
  page_ = isInManual(page) ? page : QString(kFirst);
  paintPage();
  list();
  showHeading(heading);
}

void Manual::paintPage() {
  text_->setExtraSelections({});  // they lie in the page before
  if (shown_) shown_->deleteLater();
  shown_ = manualPage(readPage(page_), QFileInfo(page_).path(), text_);
  text_->setDocument(shown_);
}

void Manual::showHeading(const QString& heading) {
  text_->moveCursor(QTextCursor::Start);
  text_->verticalScrollBar()->setValue(0);  // with the margin over the first line
  if (heading.isEmpty()) return;
  for (auto b = text_->document()->begin(); b.isValid(); b = b.next())
    if (b.blockFormat().headingLevel() > 0 && b.text() == heading) {
      text_->moveCursor(QTextCursor::End);  // so that the heading comes to the top
      text_->setTextCursor(QTextCursor(b));
      return text_->ensureCursorVisible();
    }
}

/// The words that were searched for stand out on the page.
void Manual::markFound() {
  QList<QTextEdit::ExtraSelection> marks;
  for (const auto& word : search_->text().split(' ', Qt::SkipEmptyParts))
    for (auto at = text_->document()->find(word); !at.isNull(); at = text_->document()->find(word, at)) {
      QTextEdit::ExtraSelection mark;
      mark.cursor = at;
      mark.format.setBackground(Theme::get().sheet().selectionSoft);
      mark.format.setForeground(Theme::get().sheet().ink);
      marks << mark;
    }
  text_->setExtraSelections(marks);
}

}  // namespace ochron
