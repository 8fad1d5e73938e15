#pragma once

#include <QFrame>
#include <QString>
#include <vector>

class QLabel;
class QPushButton;
class QToolButton;

namespace ochron {

class Document;

/// What failed and matters, over the lanes until it has been seen: the newest sentence, how many more there are, and a
/// button for what to do about it. Offers come after all that failed.
class NoticeBar : public QFrame {
  Q_OBJECT
 public:
  NoticeBar(Document& document, QWidget* parent);
  /// `command`: id of the command that helps, shown as `button`; both may be empty.
  void warn(const QString& sentence, const QString& button, const QString& command);
  void offer(const QString& sentence, const QString& button, const QString& command);
  void dismiss();

 private:
  struct Notice {
    QString sentence;
    QString button;
    QString command;
    bool failed = false;  ///< something went wrong; else it may be of use
  };
  void forget(const QString& sentence);
  void refresh();
  std::vector<Notice> notices_;  ///< the last is shown
  QLabel* text_;
  QLabel* more_;
  QPushButton* act_;
  QToolButton* seen_;
};

}  // namespace ochron
