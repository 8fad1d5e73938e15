#pragma once

#include <QTableWidget>
#include <QWidget>
#include <map>

#include "document/document.h"

namespace ochron {

/// What the song's files are: a row a recording.
class TakesBench : public QWidget {
  Q_OBJECT
 public:
  TakesBench(Document& document, QWidget* parent);

 protected:
  void paintEvent(QPaintEvent*) override;
  void showEvent(QShowEvent*) override { refresh(); }

 private:
  void refresh();
  void readHeads();

  Document& doc_;
  QTableWidget* table_;
  std::map<std::string, QString> depths_;  ///< by path, as the file's head says
};

}  // namespace ochron
