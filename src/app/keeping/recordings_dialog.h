#pragma once

#include <QDialog>

class QVBoxLayout;

namespace ochron {

class Document;

/// The recordings that something is wrong with, each with what can be done about it.
class RecordingsDialog : public QDialog {
  Q_OBJECT
 public:
  RecordingsDialog(Document& document, QWidget* parent);

 private:
  void refresh();
  /// Where the recording is, said by the user; what lies beside it under an old name is meant too.
  void find(std::uint64_t media);
  Document& doc_;
  QWidget* list_ = nullptr;
  QVBoxLayout* column_;
};

}  // namespace ochron
