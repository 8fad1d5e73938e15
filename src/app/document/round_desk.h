#pragma once

#include <QObject>
#include <memory>
#include <vector>

#include "edits/stretch_edits.h"
#include "play/engine.h"

namespace ochron {

class Document;

/// Going round the ways of stretching: a range of the active set is heard by each in turn, equally loud, over and over.
/// Nothing is changed until one is kept.
class RoundDesk : public QObject {
  Q_OBJECT
 public:
  explicit RoundDesk(Document& document);

  bool going() const { return going_; }
  /// The way that is heard, or waited for while it is made.
  StretchMethod method() const { return order_[at_]; }
  bool waits() const { return going_ && !versions_[at_]; }
  /// Begins with the way that is in force, or goes on to the next one.
  void next();
  /// The chosen clips, else the set, are stretched by what is heard.
  void keep();
  void end();

 signals:
  void changed();

 private:
  bool begin();
  void make();
  void hear();
  void made(std::uint64_t round, std::size_t which, const std::shared_ptr<const PlayPlan>& plan);

  Document& doc_;
  bool going_ = false;
  std::uint64_t round_ = 0;  ///< results of an earlier one come too late
  SetId set_;
  std::vector<ClipId> clips_;  ///< none: all of the set
  FrameRange range_;
  std::size_t at_ = 0;
  std::array<StretchMethod, kStretchMethodNames.size()> order_{};
  std::array<std::shared_ptr<const PlayPlan>, kStretchMethodNames.size()> versions_;
};

}  // namespace ochron
