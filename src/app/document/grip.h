#pragma once

#include <QPointer>
#include <cstdint>
#include <utility>

namespace ochron {

class Document;

/// Something of the song is held by the hand: from Document::takeHold() until this goes. Changes meanwhile are one step
/// for each kind, and are only shown.
class Grip {
 public:
  Grip() = default;
  Grip(Grip&& o) noexcept : document_(std::exchange(o.document_, nullptr)), gesture_(o.gesture_) {}
  Grip& operator=(Grip&& o) noexcept;
  ~Grip() { release(); }

 private:
  friend class Document;
  Grip(Document& document, std::uint64_t gesture);
  void release();

  QPointer<Document> document_;
  std::uint64_t gesture_ = 0;
};

}  // namespace ochron
