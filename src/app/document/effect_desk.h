#pragma once

#include <QObject>
#include <QTimer>
#include <map>
#include <memory>
#include <optional>

#include "document/song_memory.h"
#include "edits/mark_edits.h"
#include "render/live_racks.h"
#include "song/insert_place.h"

namespace ochron {

class Document;

/// The effects of the open song: which there are on this machine, which play, and how they do.
class EffectDesk : public QObject, public SongMemory {
  Q_OBJECT
 public:
  explicit EffectDesk(Document& document);
  void forget() override;

  /// Looks for effects on this machine in the background, unless that is known; after it went wrong only when the user
  /// asks for it.
  void look(bool asked = false);
  const std::vector<EffectInfo>& known() const { return live_.known(); }
  /// At the song's rate; none where the plug-in is missing.
  std::optional<EffectInfo> infoOf(const Insert& insert) const;
  LiveRacks::Told told(InsertId insert) const { return live_.told(insert); }
  const std::shared_ptr<Racks>& racks() const { return live_.racks(); }

  /// The place that is worked on, and the effect in it.
  const InsertPlace& place() const { return place_; }
  void choosePlace(const InsertPlace& place);
  const Insert* chosen() const;
  void choose(InsertId insert);

  void add(const EffectInfo& effect);
  void remove(InsertId insert);
  void move(InsertId insert, int by);
  void setOn(InsertId insert, bool on);
  /// Values of one control that follow each other are one step to undo while it is held. One that moves along the song
  /// is set at the play line.
  void setValue(InsertId insert, const std::string& symbol, double value);
  /// A control's value: of one that moves along the song, at the play line.
  double valueOf(const Insert& insert, const EffectControl& control) const;
  /// Lets a control move along the song, from its value at the play line on, and shows its course over the lanes; one
  /// that moves already is shown, or not any more.
  void moveAlong(InsertId insert, const EffectControl& control);
  /// All controls that move, in the order of tracks, sets and the mix.
  std::vector<EnvelopeRef> moving() const;
  /// Shows the course of the one after that which is shown; after the last none.
  void showNextControl();
  /// At the value that it has at the play line.
  void holdStill(InsertId insert, const std::string& symbol);
  /// The control whose course is shown, when it still moves.
  std::optional<EnvelopeRef> shownControl() const;
  void usePreset(InsertId insert, const EffectPreset& preset);
  /// Starts it again where it stopped; one whose state is missing begins as new.
  void restart(InsertId insert);
  /// The effects of another song play until null is given: what is heard in the song's place goes through them.
  void followInstead(const std::shared_ptr<const Song>& song);
  /// What an effect tells of itself on the first track that it is on: names and values.
  std::vector<std::pair<QString, double>> readings(InsertId insert) const;

 signals:
  /// What is known, what is chosen, or how an effect does.
  void changed();

 private:
  Frames playLine() const;
  const Song& followed() const;
  void follow();
  void watch();

  Document& doc_;
  LiveRacks live_;
  enum class Looked { no, yes, inVain } looked_ = Looked::no;
  std::shared_ptr<const Song> instead_;
  InsertPlace place_;
  InsertId chosen_;
  std::optional<EnvelopeRef> shown_;
  QTimer timer_;
  std::map<InsertId, LiveRacks::State> told_;
};

}  // namespace ochron
