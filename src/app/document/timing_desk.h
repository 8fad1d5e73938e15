#pragma once

#include <QObject>
#include <QString>
#include <filesystem>
#include <memory>
#include <optional>

#include "base/result.h"
#include "document/song_memory.h"
#include "feel/timings.h"
#include "song/song.h"

namespace ochron {

class Document;

/// What the timing step works on: the plan of the active set, what it intends for every hit, what it leaves alone, and
/// the grooves it leans on.
class TimingDesk : public QObject, public SongMemory {
  Q_OBJECT
 public:
  explicit TimingDesk(Document& document);

  const TimingSettings& settings() const;
  void setSettings(const QString& name, const TimingSettings& settings, const QString& gesture = {});
  /// Turns the active set's plan on or off. One that is begun, with nothing set yet, keeps the player's pocket: who
  /// wants none turns it down.
  void turn(bool on);
  /// What the active set's plan intends; valid until its song changes.
  const TimingResult& planned() const;
  /// The same of any set, and of all.
  const TimingResult& plannedOf(SetId set) const;
  const std::map<SetId, TimingResult>& plannedOfAll() const;

  /// What the plans intended last, for the gate.
  Timings& timings() { return timings_; }

  /// Listens in the background for the joints that were found by the attacks alone, where their recordings are at hand,
  /// and puts them where they belong: no step of its own. False when there are none.
  bool hearJoints();
  /// The same at once, before what is written or printed: whoever asks waits.
  void hearJointsNow();

  /// Changes what the user wants for one hit.
  void overrideHit(const QString& name, HitId hit, const HitOverride& override, const QString& gesture = {});
  /// Takes the chosen range out of the plan or puts it back.
  void leaveRangeAlone(bool alone);
  void lockRange(bool lock);
  void lockSet(bool lock);

  /// Grooves: taken from the active set, from or to files (JSON, or MIDI by their ending), into the user's library.
  void takeGroove(const QString& name);
  void readGroove(const std::filesystem::path& file);
  void writeGroove(const std::filesystem::path& file);
  void keepGrooveInLibrary();
  void useGroove(const std::optional<Groove>& groove);

 private:
  void forget() override { heard_.reset(); }
  bool jointsToHear() const;
  void takeHeard(const Result<Song>& next);

  Document& doc_;
  mutable Timings timings_;
  std::shared_ptr<const Song> heard_;  ///< listened to: what is still to be heard in it cannot be
};

}  // namespace ochron
