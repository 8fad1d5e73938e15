#pragma once

#include <QDialog>
#include <QPointer>
#include <QString>
#include <vector>

class QLineEdit;
class QListWidget;
class QTextBrowser;
class QTextDocument;

namespace ochron {

/// One heading of a page and what stands under it.
struct ManualPart {
  QString page;     ///< file within the manual, "user/tempo.md"
  QString title;    ///< of the page
  QString heading;  ///< empty: before the first one
  QString text;     ///< without marks of Markdown
};

/// All pages of the user guide, the keys and the words, in reading order; they are built into the program.
const std::vector<ManualPart>& manualParts();
/// Those that hold every word of `words`, in any order and case; headings first.
std::vector<ManualPart> findInManual(const QString& words);

/// The user guide: pages at the left, one of them large, words searched in all of them.
class Manual : public QDialog {
 public:
  explicit Manual(QWidget* parent);
  /// "user/tempo.md"; at a heading, if one is named.
  void open(const QString& page, const QString& heading = {});
  QString page() const { return page_; }

 private:
  void list();
  void follow(int row);
  void paintPage();
  void showHeading(const QString& heading);
  void markFound();

  QLineEdit* search_;
  QListWidget* list_;
  QTextBrowser* text_;
  QPointer<QTextDocument> shown_;
  QString page_;
  std::vector<ManualPart> listed_;
};

}  // namespace ochron
