#pragma once

#include <QObject>
#include <QString>
#include <filesystem>
#include <map>
#include <optional>

#include "analysis/tempo/tempo.h"
#include "document/song_memory.h"
#include "edits/anchor_edits.h"
#include "edits/follow_edits.h"

namespace ochron {

class Document;

/// What the tempo step works on: what was heard of a take's tempo, the bar that is looked at, and the edits of the
/// core that tie bars to the recording or the recording to bars.
class TempoDesk : public QObject, public SongMemory {
  Q_OBJECT
 public:
  explicit TempoDesk(Document& document);

  // What was heard ----------------------------------------------------------------------------------------------------
  struct Heard {
    HeardTempo tempo;
    SetId set;
    TakeId take;
    Frames shift;  ///< song time of the take's first frame when it was heard
  };
  /// In the active set's take; else what was heard last.
  const std::optional<Heard>& heard() const;
  /// In a set's take, when it was listened to.
  const Heard* heardIn(SetId set) const;
  /// To a set with all that plays along with it, drums leading, or to it alone.
  enum class Listen { together, alone };
  /// Listens to what a set plays, in the background, and says what was heard. Nothing is applied unasked.
  void hear(SetId set, Listen what = Listen::together);
  /// Listens to every set's take, one after the other.
  void hearAll();
  const TempoSearch& search() const { return search_; }
  void setSearch(const TempoSearch& search);
  /// Song time of a second of the take that was heard.
  Frames heardFrame(double seconds) const;
  /// The song takes over the tempo that was heard, and its bar 1: exact where it is steady, else a tempo for each bar.
  void use();
  /// The same with one tempo: another reading, its half, its double.
  void useOne(double bpm);

  // Anchors -----------------------------------------------------------------------------------------------------------
  void anchorDownbeats();
  void tie(Ticks at, Frames frame, const QString& gesture = {});
  void shift(Ticks at, Frames frame, const QString& gesture = {});
  void remove(const std::vector<Ticks>& at);
  void setSettings(const AnchorSettings& settings, const QString& gesture = {});
  bool anchored(Ticks at) const;
  /// The attack nearest to a place of the song, a hit or a beat that was heard; none within `reach`.
  std::optional<Frames> attackNear(Frames at, Frames reach) const;

  /// Another tempo map: clips held by the grid and every plan follow.
  void setMap(const QString& name, const Result<TempoMap>& map, const QString& gesture = {});

  // The bar that is looked at -----------------------------------------------------------------------------------------
  std::optional<int> bar() const { return bar_; }
  void setBar(std::optional<int> bar);
  void stepBar(int by);
  /// Ties the bar that is looked at to the attack nearest to its line and goes on to the next one.
  void tieBar();
  /// Ties the bar line nearest to the play line to where that is: for tapping along.
  void tieAtPlayLine();

  /// The song's tempo map becomes that of a MIDI file, whose markers come along.
  void readMap(const std::filesystem::path& file);

  // Which follows which -----------------------------------------------------------------------------------------------
  bool recordingFollows() const { return recordingFollows_; }
  void setRecordingFollows(bool on);

  // Recordings that follow --------------------------------------------------------------------------------------------
  void steady(double amount);
  /// Fits the clip that lies at the play line, or the active set's first one.
  void fit(const SourceTempo& source, FitManner manner = FitManner::stretched);
  void fitToRange();
  /// A take's own tempo: as it was settled, else as it was heard; none when neither is known.
  std::optional<SourceTempo> sourceOf(SetId set) const;
  /// Whether it is settled, or was heard beyond doubt.
  bool isSure(SetId set) const;
  /// Settles it.
  void setSource(SetId set, const SourceTempo& source);
  /// Fits every set whose tempo is sure, all of them as one step, and says which ones were left.
  void fitAll();
  std::optional<ClipId> clipToFit() const;

  void forget() override;

 signals:
  void changed();

 private:
  /// Begins to listen; `offered`: what was heard is offered for the song.
  void listen(SetId set, Listen what, bool offered);
  void offer(const Heard& heard);
  Frames shiftOf(const Heard& heard) const;
  /// Of what was heard.
  TempoDoubt doubt() const;

  Document& doc_;
  std::map<SetId, std::optional<Heard>> heardIn_;
  std::optional<Heard> last_;
  bool recordingFollows_ = false;
  TempoSearch search_;
  std::optional<int> bar_;
};

}  // namespace ochron
