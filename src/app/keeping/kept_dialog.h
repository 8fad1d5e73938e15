#pragma once

#include <QDialog>
#include <filesystem>
#include <optional>
#include <vector>

#include "store/kept_copies.h"

class QListWidget;
class QPushButton;

namespace ochron {

/// Shows songs that were not saved, to open one of them or throw it away.
class KeptDialog : public QDialog {
  Q_OBJECT
 public:
  /// After a crash: closing without choosing keeps them all, and the text says where.
  enum class Why { crash, asked };
  KeptDialog(const std::vector<KeptCopies::Copy>& copies, Why why, QWidget* parent);
  /// What was chosen to be opened.
  std::optional<KeptCopies::Copy> chosen() const { return chosen_; }

 private:
  void refresh();
  std::vector<KeptCopies::Copy> copies_;
  std::optional<KeptCopies::Copy> chosen_;
  QListWidget* list_;
  QPushButton* open_;
  QPushButton* remove_ = nullptr;
};

}  // namespace ochron
