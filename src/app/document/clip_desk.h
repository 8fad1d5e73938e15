#pragma once

#include <QObject>
#include <QString>
#include <memory>
#include <optional>

#include "document/hand_settings.h"
#include "document/song_memory.h"
#include "edits/arrange.h"
#include "edits/edit_tools.h"
#include "edits/fade_edits.h"
#include "edits/mark_edits.h"

namespace ochron {

class Document;
class Selection;

/// What the clips step works on: how edits by hand behave, what was copied, the envelope that is shown; and the edits
/// of the core on what is chosen, each one undoable step.
class ClipDesk : public QObject, public SongMemory {
  Q_OBJECT
 public:
  explicit ClipDesk(Document& document);

  std::optional<EnvelopeKind> shownEnvelope() const { return shownEnvelope_; }
  void showEnvelope(std::optional<EnvelopeKind> kind);
  /// A bundle whose clips are handled one by one; none closes it.
  void openBundle(BundleId bundle);

  const HandSettings& settings() const { return settings_; }
  void setSettings(const HandSettings& settings);
  bool silenceShown() const { return silenceShown_; }
  void showSilence(bool on);
  /// The silent gaps of the target sets, as the settings have them now.
  const std::vector<std::pair<SetId, FrameRange>>& silence() const;

  // Commands ----------------------------------------------------------------------------------------------------------
  void splitAtPlayLine();
  void splitAtPlace(Frames at, SetId set);
  void splitAtRangeEnds();
  void splitAtGrid();
  void splitAtHits();
  void splitAtSilence(bool removeSilence);
  void trimToPlayLine(bool start);
  void nudge(Frames by);
  void slip(Frames by);
  /// The chosen clips, else what lies in the range.
  void remove();
  /// Takes away what copy() copies, and nothing else.
  void cut();
  /// The chosen clips, else what lies in the range. False when there is nothing.
  bool copy();
  void paste();
  /// What was copied belongs to another song, or to this one at another rate.
  void forget() override { copied_ = {}, copiedEnvelope_.reset(); }
  bool canPaste() const { return !copied_.empty(); }
  void duplicate(int times);
  void repeatToRange();
  void reverse();
  void toggleMute();
  void align(bool toPlayLine);
  void setSyncHere();
  void swap();
  void closeGaps();
  void bundle();
  void unbundle();
  void fadeToPlayLine(FadeEnd end);
  void removeFades();
  void crossfade();
  void tape(FadeEnd end);
  void addSpan();
  void addMarker(bool section);
  void fadeSong(bool in, bool out);
  void copyEnvelope();
  void pasteEnvelope();
  bool canPasteEnvelope() const { return copiedEnvelope_.has_value(); }
  /// Changes the chosen clips by hand of the inspector; pieces that change are no longer the plan's.
  void change(const QString& name, const std::function<void(Clip&)>& change, const QString& gesture = {});

  enum class Stop { hit, edge, bar, marker };
  /// Moves the play line to the next (by > 0) or previous place; with `extend` the range grows or shrinks to there.
  void jump(Stop to, int by, bool extend);

 signals:
  void changed();

 private:
  Selection& chosen() const;
  bool edit(const QString& name, const Result<Song>& next, const QString& gesture = {});
  bool put(const QString& name, const Result<Placed>& placed);
  void splitSets(const QString& name, const std::function<std::vector<Frames>(const MicSet&, FrameRange)>& places);
  /// Where many cuts go: the range, else the extent of the chosen clips, else everything.
  FrameRange cutRange() const;
  Frames cutFade() const;
  ClipIds clipsInHand() const;
  Frames placeAfter(Stop to, Frames from, int by) const;
  std::optional<EnvelopeRef> envelopeInHand() const;

  Document& doc_;
  std::optional<EnvelopeKind> shownEnvelope_;
  HandSettings settings_;
  bool silenceShown_ = false;
  /// The last silence found, and for what: it is asked for at every repaint.
  struct FoundSilence {
    std::shared_ptr<const Song> song;
    std::vector<SetId> sets;
    SilenceSettings settings;
    std::vector<std::pair<SetId, FrameRange>> gaps;
  };
  mutable FoundSilence foundSilence_;
  CopiedClips copied_;
  struct CopiedEnvelope {
    Envelope points;
    Frames length;
    std::string unit;
  };
  std::optional<CopiedEnvelope> copiedEnvelope_;
  std::optional<Frames> extendAnchor_;
};

}  // namespace ochron
