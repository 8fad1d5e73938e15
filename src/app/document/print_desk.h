#pragma once

#include <QObject>
#include <filesystem>

#include "render/export.h"

namespace ochron {

class Document;

/// What the print step works on: the song written to files.
class PrintDesk : public QObject {
  Q_OBJECT
 public:
  explicit PrintDesk(Document& document);

  /// Writes in the background; all files appear together at the end, or none.
  void exportTo(const ExportSettings& settings, const std::filesystem::path& target);

 private:
  Document& doc_;
};

}  // namespace ochron
