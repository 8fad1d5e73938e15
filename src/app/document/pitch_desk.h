#pragma once

#include <QObject>
#include <QString>
#include <filesystem>
#include <vector>

#include "edits/note_edits.h"
#include "edits/pitch_edits.h"
#include "tune/correction.h"

namespace ochron {

class Document;

/// What the pitch step works on: the notes of the active set's line as they are tuned, and the edits of the core on
/// those that are chosen.
class PitchDesk : public QObject {
  Q_OBJECT
 public:
  explicit PitchDesk(Document& document);

  /// A note of what a clip of the set plays.
  struct Note {
    TakeId take;
    NoteName name;
    TunedNote tuned;
    NoteWish wish;
    Frames start;  ///< song time
    Frames end;
  };
  /// Of the active set, in song order; kept until the song changes.
  const std::vector<Note>& notes() const;
  /// Whether the active set's line was listened for.
  bool heard() const;
  /// Listens for the line of what a set plays, in the background. What is no single line is said so.
  void hear(SetId set, bool anything = false);

  const TuneSettings& settings() const;
  bool setSettings(const QString& name, const TuneSettings& settings, const QString& gesture = {});

  /// Those that are chosen.
  std::vector<Note> chosen() const;
  /// Whether any note that is there is chosen; one that was chosen may have gone with its clip.
  bool anyChosen() const;

  /// The chosen notes go up: by steps of the scale from where they are, or by cents.
  void moveBySteps(int steps);
  void moveBy(double cents, const QString& gesture = {});
  /// A target for each; cents above 1 Hz, before the line is transposed.
  void moveTo(const std::vector<std::pair<NoteName, double>>& targets, const QString& gesture = {});
  void asSung();
  /// The chosen notes' own value of one of the first kNoteNumbers settings; `value` empty: the plan's again.
  void setOwn(std::size_t number, std::optional<double> value, const QString& gesture = {});

  // Notes in time: as pins, so that what is beside them is stretched.
  void moveInTime(NotePart part, Frames by, PinReach reach);
  /// Nudging is meant for notes: some are chosen, in the pitch step.
  void split();
  void join();
  void silence();

  /// The chosen notes, else all, go to the pitches of a melody (melody_file.h) where they sound together with one of
  /// its notes, as if each had been typed. A MIDI file begins at bar 1, any other at the song's beginning.
  void followMelody(const std::filesystem::path& file);
  /// A4 as the line was sung, taken for the scale.
  void measureReference();
  /// Where notes begin becomes hits of the timing plan; what lies near a hit already is left.
  void notesToHits();
  void giveBack();

  /// Mean and spread of the notes' distance to the scale, cents.
  struct Stats {
    std::size_t count = 0;
    double meanBefore = 0;
    double spreadBefore = 0;
    double meanAfter = 0;
    double spreadAfter = 0;
  };
  Stats stats() const;
  /// Distance of a pitch that was sung to the nearest one of the scale, cents; sharp is positive.
  double off(double cents) const { return cents - settings().scale.nearest(cents); }
  /// The scale where the plan has the line heard: transposed with it.
  Scale heardScale() const { return transposedBy(settings().scale, settings().transpose); }
  /// A pitch's name in that scale's spelling; what it is off a note is against the plan's A4.
  QString heardName(double cents) const;

  void songChanged();

 signals:
  void changed();

 private:
  std::vector<NoteName> namesOfChosen() const;
  bool wishAt(const QString& name, const std::vector<std::pair<NoteName, double>>& targets, const QString& gesture);
  bool wish(const QString& name, const std::vector<std::pair<NoteName, NoteWish>>& wishes, const QString& gesture = {});

  Document& doc_;
  mutable std::optional<std::vector<Note>> notes_;
};

}  // namespace ochron
