#include "guide/manual_page.h"

#include <QDir>
#include <QFile>
#include <QImage>
#include <QTextBlock>
#include <QTextCursor>
#include <QTextDocument>
#include <QTextTable>
#include <algorithm>
#include <array>

#include "theme/theme.h"

namespace ochron {
namespace {

constexpr int kPageMargin = 28;
constexpr int kPictureWidth = 640;
constexpr qreal kPageLine = 140;  // %
constexpr std::array kHeadingSizes{22, 16, 14};

struct ManualDocument : QTextDocument {
  ManualDocument(const QString& folder, QObject* parent) : QTextDocument(parent), folder_(folder) {}

 protected:
  QVariant loadResource(int type, const QUrl& name) override {
    if (type != ImageResource) return QTextDocument::loadResource(type, name);
    const QImage picture(":/manual/" + QDir::cleanPath(folder_ + '/' + name.path()));
    return picture.scaledToWidth(kPictureWidth, Qt::SmoothTransformation);
  }

 private:
  QString folder_;
};

void setBlocks(QTextDocument& page) {
  const auto& sheet = Theme::get().sheet();
  for (auto b = page.begin(); b.isValid(); b = b.next()) {
    QTextCursor at(b);
    auto format = b.blockFormat();
    const int level = format.headingLevel();
    const bool picture = !b.begin().atEnd() && b.begin().fragment().charFormat().isImageFormat();
    format.setLineHeight(picture ? 100 : kPageLine, QTextBlockFormat::ProportionalHeight);
    format.setTopMargin(level > 1 ? 18 : 0);
    format.setBottomMargin(level > 0 ? 8 : at.currentTable() ? 0 : at.currentList() ? 4 : 10);
    at.setBlockFormat(format);
    at.select(QTextCursor::BlockUnderCursor);
    QTextCharFormat words;
    if (level > 0) {
      const auto size = kHeadingSizes[static_cast<std::size_t>(std::clamp(level - 1, 0, 2))];
      words.setFont(Theme::get().font(size, 600));
      at.mergeCharFormat(words);
    }
    for (auto part = b.begin(); !part.atEnd(); ++part) {
      const auto f = part.fragment().charFormat();
      QTextCursor within(&page);
      within.setPosition(part.fragment().position());
      within.setPosition(part.fragment().position() + part.fragment().length(), QTextCursor::KeepAnchor);
      QTextCharFormat colours;
      colours.setForeground(f.isAnchor() ? sheet.selection : sheet.ink);
      if (f.fontWeight() > QFont::Medium) colours.setFontWeight(QFont::DemiBold);  // the boldest we have
      if (f.fontFixedPitch()) colours.setBackground(sheet.chrome);
      within.mergeCharFormat(colours);
    }
  }
}

void setTables(QTextFrame& frame) {
  const auto& sheet = Theme::get().sheet();
  for (auto* child : frame.childFrames()) {
    if (auto* table = qobject_cast<QTextTable*>(child)) {
      auto format = table->format();
      format.setBorder(1);
      format.setBorderBrush(sheet.hairline);
      format.setBorderStyle(QTextFrameFormat::BorderStyle_Solid);
      format.setBorderCollapse(true);
      format.setCellPadding(5);
      format.setCellSpacing(0);
      format.setTopMargin(4);
      format.setBottomMargin(12);
      format.setWidth(QTextLength(QTextLength::PercentageLength, 100));
      table->setFormat(format);
    }
    setTables(*child);
  }
}

}  // namespace

QTextDocument* manualPage(const QString& markdown, const QString& folder, QObject* parent) {
  auto* page = new ManualDocument(folder, parent);
  page->setDefaultFont(Theme::get().font(13));
  page->setDocumentMargin(kPageMargin);
  page->setMarkdown(markdown, QTextDocument::MarkdownDialectGitHub);
  setBlocks(*page);
  setTables(*page->rootFrame());
  return page;
}

}  // namespace ochron
