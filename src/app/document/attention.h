#pragma once

#include <QObject>
#include <optional>
#include <vector>

#include "checks/checks.h"

namespace ochron {

class Document;

/// What deserves a look in the open song.
class Attention : public QObject {
  Q_OBJECT
 public:
  explicit Attention(Document& document);

  /// Automatic decisions of all sets, the riskiest first, one for each place.
  const std::vector<Check>& checks() const;
  void accept(const Check& check);
  /// The song is another version. What is only shown while it is dragged is not looked through.
  void songChanged() { checks_.reset(); }

 private:
  Document& doc_;
  mutable std::optional<std::vector<Check>> checks_;
};

}  // namespace ochron
