#pragma once

#include <QDialog>
#include <vector>

#include "play/device.h"

class QComboBox;
class QLabel;
class QListWidget;
class QPushButton;

namespace ochron {

class Document;

/// Where the song is heard: outputs to choose from, blocks, and how the one in use does.
class OutputSheet : public QDialog {
 public:
  OutputSheet(Document& document, QWidget* parent);

 private:
  void fill();
  void tellRun();
  void fillPorts();
  SoundChoice chosen() const;
  void use();

  Document& doc_;
  std::vector<SoundOutput> listed_;
  QListWidget* list_;
  QComboBox* block_;
  QComboBox* midi_;
  QLabel* run_;
  QPushButton* use_;
};

}  // namespace ochron
