#pragma once

#include <QObject>
#include <QString>
#include <map>
#include <memory>
#include <vector>

#include "document/song_memory.h"
#include "render/tuned_takes.h"
#include "seams/measure.h"
#include "seams/seam_edits.h"
#include "song/song.h"

namespace ochron {

class Document;

/// What the seams step works on: the active set's seams, what is changed about them by hand, and how all of the song
/// measure.
class SeamDesk : public QObject, public SongMemory {
  Q_OBJECT
 public:
  explicit SeamDesk(Document& document);

  /// To the next seam, or from the play line when none is chosen.
  void step(int by);
  /// The seams a change is meant for: of the range when one is chosen, else the current one.
  std::vector<ClipId> chosen() const;
  void change(const QString& name, const SeamOverride& change, const QString& gesture = {});
  void changeThese(const std::vector<ClipId>& seams, const QString& name, const SeamOverride& change,
                   const QString& gesture = {});
  /// Its middle to a song time, as near as there is room; where that is.
  Frames place(ClipId seam, Frames to, const QString& gesture);
  /// Song time of the attack that the later piece begins with.
  std::optional<Frames> attackOf(const Clip& later) const;
  void release();

  const std::map<ClipId, SeamMeasure>& measures() const { return measures_; }
  /// Of the joint before a clip; null while it is not measured.
  const SeamMeasure* measureOf(ClipId later) const {
    const auto found = measures_.find(later);
    return found == measures_.end() ? nullptr : &found->second;
  }
  /// The joint before a clip on every mic, as it sounds now, worked out once; empty while that is not known.
  const std::vector<MicSeam>& micsAt(ClipId later);
  /// Whether all seams of the song as it is were measured.
  bool known() const;
  /// Measures the seams of the song as it is, in the background; what is known until then is the measure of seams that
  /// did not change.
  void measure();
  /// Nothing that was measured holds.
  void forget() override;

 signals:
  void measured();

 private:
  /// What micsAt() found last, and what that rests on.
  struct Found {
    std::shared_ptr<const Song> song;
    std::shared_ptr<const TunedPool> tuned;
    ClipId later;
    std::vector<MicSeam> mics;
  };

  Document& doc_;
  std::map<ClipId, SeamMeasure> measures_;
  std::shared_ptr<const Song> measuredOf_;
  Found found_;
};

}  // namespace ochron
