#pragma once

#include <QDialog>
#include <map>
#include <optional>
#include <vector>

#include "document/document.h"
#include "document/takes_desk.h"

class QCheckBox;
class QBoxLayout;
class QComboBox;
class QLabel;
class QLineEdit;

namespace ochron {

/// The files about to become a take: names, mics, and which of them belong together.
class ImportDialog : public QDialog {
  Q_OBJECT
 public:
  /// `songRate`: that of a song that has recordings already; none: the song takes the rate that is chosen here.
  ImportDialog(const QStringList& files, const QString& takeName, std::optional<int> songRate, QWidget* parent);
  std::vector<TakesDesk::ImportFile> files() const;
  QString takeName() const;
  /// Hz, of the song.
  int rate() const;

 private:
  void addRate(const QStringList& files, QBoxLayout& column);
  void sayRates();

  struct Line {
    QString path;
    QLineEdit* name;
    QComboBox* role;
    QCheckBox* inSet;
  };
  std::vector<Line> lines_;
  QLineEdit* takeName_;
  std::optional<int> songRate_;
  std::map<int, int> rates_;  ///< of the files, how many have each
  QComboBox* rate_ = nullptr;
  QLabel* rateNote_ = nullptr;
};

}  // namespace ochron
