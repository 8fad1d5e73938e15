#pragma once

#include <QObject>
#include <QString>
#include <functional>
#include <memory>

#include "document/grip.h"
#include "document/jobs.h"
#include "document/recordings.h"
#include "edits/history.h"
#include "song/song.h"

namespace ochron {

class Attention;
class CellsDesk;
class NoteOutDesk;
class PatternDesk;
class ClipDesk;
class EffectDesk;
class HitDesk;
class KeyDesk;
class KitDesk;
class LineWatch;
class PinDesk;
class PitchDesk;
class PrintDesk;
class PrintTrial;
class RoundDesk;
class SeamDesk;
class Selection;
class SongFiles;
class Sounding;
class TakesDesk;
class TempoDesk;
class ThisDesk;
class TimingDesk;
class Transport;

enum class Step { takes, tempo, hits, timing, seams, clips, kit, pitch, print };

/// The open song with its history and its recordings. All else that belongs to it is a part of its own; a desk holds
/// what a step of the work needs, and its commands. Widgets show it and send it requests; it lives on the main thread.
class Document : public QObject {
  Q_OBJECT
 public:
  explicit Document(QObject* parent = nullptr);
  ~Document() override;

  // The song ----------------------------------------------------------------------------------------------------------
  const Song& song() const { return *song_; }
  /// The song as it is now, to be held while it changes.
  std::shared_ptr<const Song> version() const { return song_; }
  /// The one way to change the song: what an edit made goes through the gate (`admitted`: locks hold, plans follow,
  /// what could not be opened again is not made) and becomes one undoable step; edits with the same `gesture` may be
  /// one (History). While something is held, an edit of a gesture is shown only (songPreviewed): sound, measures, plans
  /// over clips that are dragged, and autosave follow when it is let go. A refused edit is told to the user and changes
  /// nothing, and so is one without a gesture while something is dragged.
  bool edit(const QString& name, const Result<Song>& next, const QString& gesture = {});
  /// Something about the recordings is known from now on: the song with it. No step that is undone, and nothing that
  /// has to be saved. Where it would change what is locked it is left out.
  void learn(Song song);
  /// Something is taken hold of, until the grip goes. Nothing that works in the background changes the song meanwhile.
  Grip takeHold();
  /// Takes back what the gesture under way has changed.
  void cancelGesture();
  /// The same by Escape, whatever is held and wherever: what the hand still drags changes nothing until it is let go.
  /// False when nothing is held.
  bool takeBack();
  void undo();
  void redo();
  QString undoName() const { return QString::fromStdString(history_.undoName()); }
  QString redoName() const { return QString::fromStdString(history_.redoName()); }
  /// Something is being dragged and only shown.
  bool previewing() const { return previewing_; }

  const MediaPool& pool() const { return recordings_.pool(); }
  Recordings& recordings() { return recordings_; }
  const Recordings& recordings() const { return recordings_; }
  Step step() const { return step_; }
  void setStep(Step step);

  // Its parts ---------------------------------------------------------------------------------------------------------
  Jobs& jobs() { return jobs_; }
  SongFiles& files() { return *files_; }
  const SongFiles& files() const { return *files_; }
  Selection& selection() { return *selection_; }
  const Selection& selection() const { return *selection_; }
  Transport& transport() { return *transport_; }
  const Transport& transport() const { return *transport_; }
  Sounding& sounding() { return *sounding_; }
  const Sounding& sounding() const { return *sounding_; }
  Attention& attention() { return *attention_; }
  TakesDesk& takesDesk() { return *takesDesk_; }
  TempoDesk& tempoDesk() { return *tempoDesk_; }
  HitDesk& hitDesk() { return *hitDesk_; }
  TimingDesk& timingDesk() { return *timingDesk_; }
  const TimingDesk& timingDesk() const { return *timingDesk_; }
  PinDesk& pinDesk() { return *pinDesk_; }
  SeamDesk& seamDesk() { return *seamDesk_; }
  ClipDesk& clipDesk() { return *clipDesk_; }
  CellsDesk& cellsDesk() { return *cellsDesk_; }
  PatternDesk& patternDesk() { return *patternDesk_; }
  NoteOutDesk& noteOutDesk() { return *noteOutDesk_; }
  KitDesk& kitDesk() { return *kitDesk_; }
  PitchDesk& pitchDesk() { return *pitchDesk_; }
  KeyDesk& keyDesk() { return *keyDesk_; }
  RoundDesk& roundDesk() { return *roundDesk_; }
  PrintDesk& printDesk() { return *printDesk_; }
  PrintTrial& printTrial() { return *printTrial_; }
  EffectDesk& effectDesk() { return *effectDesk_; }
  ThisDesk& thisDesk() { return *thisDesk_; }

  // The user ----------------------------------------------------------------------------------------------------------
  void tell(const QString& sentence) { emit told(sentence, false); }
  /// As tell(), for what was asked and is not done: it is marked as such.
  void refuse(const QString& sentence) { emit told(sentence, true); }
  void refuse(const Error& error) { refuse(QString::fromStdString(error.message)); }
  /// What a job that failed ends with: its sentence as a warning; nothing when it was cancelled. Worker threads.
  Jobs::Finish failed(const Error& error);
  /// As tell(), for what failed and matters: it stays in sight until it has been seen. `command` helps, shown as
  /// `button`.
  void warn(const QString& sentence, const QString& button = {}, const QString& command = {});
  /// As warn(), for what may be of use: it waits behind what failed.
  void offer(const QString& sentence, const QString& button, const QString& command);
  /// How a question is put to the user: true for yes. Without one the answer is no.
  using Asker = std::function<bool(const QString& title, const QString& text, const QString& yes)>;
  void setAsker(Asker asker) { asker_ = std::move(asker); }
  bool ask(const QString& title, const QString& text, const QString& yes) const {
    return asker_ && asker_(title, text, yes);
  }

 signals:
  void songChanged();
  void songPreviewed();
  void transportChanged();
  void stepChanged();
  void mediaChanged();
  void told(const QString& sentence, bool refused);
  void warned(const QString& sentence, const QString& button, const QString& command);
  void offered(const QString& sentence, const QString& button, const QString& command);
  /// What was dragged was let go or taken back by something else than the hand: an undo, another command.
  void gestureOver();

 private:
  friend class Grip;
  friend class SongFiles;
  void letGo(std::uint64_t gesture);
  void endGesture();
  void settle();
  void preview(const QString& name, std::shared_ptr<const Song> song, const QString& gesture);
  void replaceSong(std::shared_ptr<const Song> song);
  void afterChange();
  void hear();
  void recordingsChanged();
  /// From one song to another: what works for the old one stops; the new one is there; all is told of it.
  void leaveSong();
  void beginSong(std::shared_ptr<const Song> song);
  void songBegun();
  /// The song under the name it was saved as, and its recordings known: no edit.
  void named(Song song);

  std::shared_ptr<const Song> song_;
  History history_;
  bool previewing_ = false;
  std::uint64_t held_ = 0;                ///< the gesture under way
  std::uint64_t takenBack_ = 0;           ///< one that was taken back and is not let go yet; 0: none
  std::shared_ptr<const Song> heldFrom_;  ///< as it was when something was taken hold of
  Asker asker_;
  Step step_ = Step::timing;
  Jobs jobs_{this};
  Recordings recordings_{jobs_, this};
  SongFiles* files_;
  Selection* selection_;
  Transport* transport_;
  Sounding* sounding_;
  TakesDesk* takesDesk_;
  TempoDesk* tempoDesk_;
  HitDesk* hitDesk_;
  TimingDesk* timingDesk_;
  PinDesk* pinDesk_;
  SeamDesk* seamDesk_;
  ClipDesk* clipDesk_;
  KitDesk* kitDesk_;
  CellsDesk* cellsDesk_;
  PatternDesk* patternDesk_;
  NoteOutDesk* noteOutDesk_;
  PitchDesk* pitchDesk_;
  LineWatch* lineWatch_;
  KeyDesk* keyDesk_;
  RoundDesk* roundDesk_;
  PrintDesk* printDesk_;
  PrintTrial* printTrial_;
  EffectDesk* effectDesk_;
  ThisDesk* thisDesk_;
  Attention* attention_;
};

}  // namespace ochron
