#pragma once

#include <QDialog>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>

#include "actions/actions.h"

class QComboBox;
class QKeySequenceEdit;
class QLayout;

namespace ochron {

/// Every command with its key; keys can be changed, and conflicts are said.
class KeySheet : public QDialog {
  Q_OBJECT
 public:
  KeySheet(Actions& actions, QWidget* parent);
  /// Uses the keys of a file, or says why not.
  void readKeys(const QString& path);

 private:
  void fill();
  void choose();
  void tryKey();
  QString chosen() const;
  QLayout* setLine();
  /// The set that is in use, among those of the box.
  void tellSet();
  void useSet(int which);
  void saveSet();
  void readSet();

  Actions& actions_;
  QComboBox* sets_;
  QTableWidget* table_;
  QKeySequenceEdit* key_;
  QLabel* conflict_;
  QPushButton* set_;
};

/// Finds any command by typing some of its words; Enter runs it.
class CommandFinder : public QDialog {
  Q_OBJECT
 public:
  CommandFinder(Actions& actions, QWidget* parent);
  /// The command to run; empty when none was chosen.
  QString command() const { return command_; }

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void filter(const QString& words);
  void take();
  Actions& actions_;
  QTableWidget* table_;
  QString command_;
};

}  // namespace ochron
