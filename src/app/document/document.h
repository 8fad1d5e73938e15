#pragma once

#include <QObject>
#include <QString>
#include <QStringList>
#include <filesystem>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "checks/checks.h"
#include "document/grip.h"
#include "document/jobs.h"
#include "document/recordings.h"
#include "edits/history.h"
#include "edits/locks.h"
#include "feel/timings.h"
#include "keeping/keeper.h"
#include "render/export.h"
#include "song/song.h"

namespace ochron {

class ClipDesk;
class KeyDesk;
class PinDesk;
class PitchDesk;
class RoundDesk;
class Sounding;
class TempoDesk;
class Transport;

inline constexpr SettingRange kCacheRoomRange{"room for decoded and made sound", "GB", 0.01, 1000, 0.5, 40};

enum class Step { takes, tempo, hits, timing, seams, clips, pitch, print };

/// A place for attention: a set's hit in one take.
struct HitRef {
  TakeId take;
  HitId hit;
  bool operator==(const HitRef&) const = default;
};

/// The open song with its history, its recordings, its selection and its player. Widgets show it and send it requests;
/// it lives on the main thread.
class Document : public QObject {
  Q_OBJECT
 public:
  explicit Document(QObject* parent = nullptr);
  ~Document() override;

  // The song ----------------------------------------------------------------------------------------------------------
  const Song& song() const { return *song_; }
  const MediaPool& pool() const { return recordings_.pool(); }
  const Recordings& recordings() const { return recordings_; }
  /// Applies an edit as one undoable step; edits with the same `gesture` may be one (History). While something is held,
  /// an edit of a gesture is shown only (songPreviewed): sound, measures and autosave follow when it is let go. A
  /// refused edit is told to the user and changes nothing, and so is one without a gesture while something is dragged.
  bool edit(const QString& name, const Result<Song>& next, const QString& gesture = {});
  /// Something is taken hold of, until the grip goes. Nothing that works in the background changes the song meanwhile.
  Grip takeHold();
  /// The song as it is now, to be held while it changes.
  std::shared_ptr<const Song> version() const { return song_; }
  /// Takes back what the gesture under way has changed.
  void cancelGesture();
  void undo();
  void redo();
  QString undoName() const { return QString::fromStdString(history_.undoName()); }
  QString redoName() const { return QString::fromStdString(history_.redoName()); }
  /// Something is being dragged and only shown.
  bool previewing() const { return previewing_; }
  bool modified() const { return !saved_ || !(saved_ == song_); }

  // Files -------------------------------------------------------------------------------------------------------------
  void newSong();
  /// Which of two songs in one folder: the saved one, or the copy made between saves.
  enum class Copy { saved, autosaved };
  bool open(const std::filesystem::path& folder, Copy copy = Copy::saved, OpenAs as = OpenAs::owner);
  /// Opens a copy that has no folder yet: the demo, or one that was kept.
  bool openCopy(const std::filesystem::path& folder);
  bool save(const std::filesystem::path& folder);
  const std::filesystem::path& folder() const { return keeper_.folder(); }
  const Keeper& keeper() const { return keeper_; }
  /// Opens a copy that was kept, as a song that was not saved yet. The kept one stays.
  bool openKept(const KeptCopies::Copy& copy);
  /// Moves an autosaved copy that is not to be opened to the kept ones.
  std::optional<KeptCopies::Copy> keepAside(const std::filesystem::path& folder);
  /// The window closes properly: what autosaving left is not needed any more.
  void leave();
  /// Takes `file` as the recording of this name. When it is another recording the user is asked.
  void relink(MediaId media, const std::filesystem::path& file);
  /// Reads recordings again that could not be used.
  void lookAgain() { recordings_.lookAgain(); }
  /// How a question is put to the user: true for yes. Without one the answer is no.
  using Asker = std::function<bool(const QString& title, const QString& text, const QString& yes)>;
  void setAsker(Asker asker) { asker_ = std::move(asker); }
  QStringList recent() const;

  // Takes and hits ----------------------------------------------------------------------------------------------------
  struct ImportFile {
    std::filesystem::path path;
    QString name;
    MicRole role = MicRole::none;
    bool inSet = false;
  };
  /// Reads the files in the background, then adds them as one take. Files that cannot be read are named; the rest goes
  /// in.
  void importFiles(const std::vector<ImportFile>& files, const QString& takeName);
  void findHits(SetId set);
  /// Names the hits that sound like the current one as that one is named, in the background.
  void nameAlike();
  /// All hits that count of the active set, in take order.
  HitList activeHitsOf(TakeId take) const;

  // The timing plan ---------------------------------------------------------------------------------------------------
  const TimingSettings& timing() const;
  void setTiming(const QString& name, const TimingSettings& settings, const QString& gesture = {});
  /// Another tempo map: clips held by the grid and every plan follow.
  void setTempo(const QString& name, const Result<TempoMap>& map, const QString& gesture = {});
  /// While a control that decides what counts as a hit is held, the lanes show the threshold.
  bool shownThreshold() const { return shownThreshold_; }
  void showThreshold(bool on);
  void setHitSettingsLive(const HitSettings& settings, const QString& gesture = {});
  /// Runs a hit edit and the plan after it, as one step.
  bool editHits(const QString& name, const Result<Song>& next, const QString& gesture = {});
  /// Takes the chosen range out of the plan or puts it back.
  void leaveRangeAlone(bool alone);
  void lockRange(bool lock);
  void lockSet(bool lock);
  /// Changes one hit's override and runs the plan.
  void overrideHit(const QString& name, HitId hit, const HitOverride& override, const QString& gesture = {});
  /// Grooves: taken from the active set, from or to files (JSON, or MIDI by their ending), into the user's library.
  void takeGroove(const QString& name);
  void readGroove(const std::filesystem::path& file);
  void writeGroove(const std::filesystem::path& file);
  void keepGrooveInLibrary();
  void useGroove(const std::optional<Groove>& groove);
  /// The active set's hits as a table or notes; the file's ending decides: .csv, .json, .mid.
  void writeHits(const std::filesystem::path& file);
  /// What the active set's plan intends.
  const TimingResult& planned() const { return plannedOf(activeSet()); }
  /// The same of any set.
  const TimingResult& plannedOf(SetId set) const;

  // Selection and attention
  // ---------------------------------------------------------------------------------------------
  SetId activeSet() const;
  void setActiveSet(SetId set);
  TrackId activeTrack() const { return activeTrack_; }
  void setActiveTrack(TrackId track);
  std::optional<HitRef> currentHit() const { return currentHit_; }
  void setCurrentHit(std::optional<HitRef> hit);
  const PlannedHit* currentPlanned() const;
  void stepHit(int by);
  /// Puts the current hit's onset where a mic of the set hears the attack nearest to its present place.
  void setOnsetFrom(TrackId mic);
  /// The clip whose seam with the one before is looked at. It follows the current hit when that begins a piece.
  std::optional<ClipId> currentSeam() const { return currentSeam_; }
  void setCurrentSeam(std::optional<ClipId> clip);
  const Clip* currentSeamClip() const;
  void stepSeam(int by);
  /// The seams a change is meant for: of the range when one is chosen, else the current one.
  std::vector<ClipId> chosenSeams() const;
  void changeSeams(const QString& name, const SeamOverride& change, const QString& gesture = {});
  void changeSeamsOf(const std::vector<ClipId>& seams, const QString& name, const SeamOverride& change,
                     const QString& gesture = {});
  void releaseSeams();
  FrameRange range() const { return range_; }
  void setRange(FrameRange range);
  /// Automatic decisions of all sets that deserve a look, the riskiest first, one for each place.
  const std::vector<Check>& checks() const;
  void acceptCheck(const Check& check);
  const std::map<ClipId, SeamMeasure>& seamMeasures() const { return seamMeasures_; }
  Step step() const { return step_; }
  void setStep(Step step);

  // Its parts ---------------------------------------------------------------------------------------------------------
  Transport& transport() { return *transport_; }
  const Transport& transport() const { return *transport_; }
  Sounding& sounding() { return *sounding_; }
  const Sounding& sounding() const { return *sounding_; }
  ClipDesk& desk() { return *desk_; }
  TempoDesk& tempoDesk() { return *tempoDesk_; }
  PitchDesk& pitchDesk() { return *pitchDesk_; }
  PinDesk& pinDesk() { return *pinDesk_; }
  KeyDesk& keyDesk() { return *keyDesk_; }
  RoundDesk& roundDesk() { return *roundDesk_; }
  Jobs& jobs() { return jobs_; }
  void exportTo(const ExportSettings& settings, const std::filesystem::path& target);
  /// How much room decoded and made sound may take on the disk, GB; what was longest unused gives way.
  static double cacheRoom();
  void setCacheRoom(double gigabytes);
  void trimCaches();
  void tell(const QString& sentence) { emit told(sentence); }
  /// As tell(), for what failed and matters: it stays in sight until it has been seen. `command` helps, shown as
  /// `button`.
  void warn(const QString& sentence, const QString& button = {}, const QString& command = {});
  /// As warn(), for what may be of use: it waits behind what failed.
  void offer(const QString& sentence, const QString& button, const QString& command);

 signals:
  void songChanged();
  void songPreviewed();
  void selectionChanged();
  void transportChanged();
  void stepChanged();
  void mediaChanged();
  void seamsMeasured();
  void told(const QString& sentence);
  void warned(const QString& sentence, const QString& button, const QString& command);
  void offered(const QString& sentence, const QString& button, const QString& command);
  /// What was dragged was let go or taken back by something else than the hand: an undo, another command.
  void gestureOver();

 private:
  friend class Grip;
  void letGo(std::uint64_t gesture);
  void endGesture();
  void preview(const QString& name, std::shared_ptr<const Song> song, const QString& gesture);
  void replaceSong(std::shared_ptr<const Song> song);
  void beginSong(std::shared_ptr<const Song> song, bool saved);
  void afterChange();
  void recordingsChanged();
  void importRead(const std::vector<ImportFile>& files, const std::vector<Recordings::Read>& reads,
                  const QString& takeName);
  void autosave();
  bool asked(const QString& title, const std::string& text, const QString& yes) const;
  void addRecent(const std::filesystem::path& folder);
  std::filesystem::path cacheFolder() const;
  void measure();
  Result<Song> withPlanApplied(const Result<Song>& song) const;

  std::shared_ptr<const Song> song_;
  std::shared_ptr<const Song> saved_;
  History history_;
  Keeper keeper_;
  Asker asker_;
  bool autosaveFailed_ = false;
  mutable Timings timings_;
  mutable std::optional<std::vector<Check>> checks_;
  std::map<ClipId, SeamMeasure> seamMeasures_;
  std::optional<ClipId> currentSeam_;
  bool shownThreshold_ = false;
  SetId activeSet_;
  TrackId activeTrack_;
  std::optional<HitRef> currentHit_;
  FrameRange range_;
  Step step_ = Step::timing;
  Jobs jobs_{this};
  Recordings recordings_{jobs_, this};
  Transport* transport_;
  Sounding* sounding_;
  ClipDesk* desk_;
  TempoDesk* tempoDesk_;
  PitchDesk* pitchDesk_;
  PinDesk* pinDesk_;
  KeyDesk* keyDesk_;
  RoundDesk* roundDesk_;
  bool previewing_ = false;
};

}  // namespace ochron
