#pragma once

#include <QObject>
#include <optional>
#include <set>
#include <variant>
#include <vector>

#include "document/song_memory.h"
#include "edits/edit_tools.h"
#include "edits/mark_edits.h"
#include "feel/plan_timing.h"
#include "song/song.h"

namespace ochron {

class Document;

/// A set's hit in one take.
struct HitRef {
  TakeId take;
  HitId hit;
  bool operator==(const HitRef&) const = default;
};

/// A place of the recording in a clip, pinned or about to be.
struct PinRef {
  SetId set;
  ClipId clip;
  Frames take;
  bool operator==(const PinRef&) const = default;
};

struct PointRef {
  EnvelopeRef envelope;
  Frames at;
  bool operator==(const PointRef&) const = default;
};

/// What is chosen in the open song: the set and track that are worked on, the hit or seam that is looked at, a range,
/// clips, pins, notes, and one of the marks. What goes from the song is not chosen any more.
class Selection : public QObject, public SongMemory {
  Q_OBJECT
 public:
  enum Part { kSet = 1, kPlace = 2, kRange = 4, kClips = 8, kMark = 16, kPins = 32, kNotes = 64 };
  Q_DECLARE_FLAGS(Parts, Part)
  /// Where the work is, whatever is chosen there.
  static constexpr Parts kWhere{kSet | kPlace | kRange};
  static constexpr Parts kAll{kWhere | kClips | kMark | kPins | kNotes};

  /// What a command can mean that says only "this". Where several are chosen, the first in this order is meant.
  enum class Thing {
    notes = 1,
    pins = 2,
    point = 4,
    span = 8,
    marker = 16,
    clips = 32,
    seam = 64,
    hit = 128,
    range = 256
  };
  Q_DECLARE_FLAGS(Things, Thing)
  static constexpr Things kAnything{0x1ff};

  explicit Selection(Document& document);

  /// What of `can` is meant in the open step; none when nothing of it is chosen.
  std::optional<Thing> meant(Things can = kAnything) const;

  // Where -------------------------------------------------------------------------------------------------------------
  /// The set that is worked on; the largest one until another is chosen. None in an empty song.
  SetId set() const;
  void chooseSet(SetId set);
  TrackId track() const { return track_; }
  void chooseTrack(TrackId track);

  // The hit or seam that is looked at ---------------------------------------------------------------------------------
  std::optional<HitRef> hit() const;
  void chooseHit(std::optional<HitRef> hit);
  /// What the plan intends for the hit; null when there is none.
  const PlannedHit* plannedHit() const;
  /// The clip whose seam with the one before is looked at. It follows the hit when that begins a piece.
  std::optional<ClipId> seam() const;
  void chooseSeam(std::optional<ClipId> clip);
  /// Null when the clip touches none before.
  const Clip* seamClip() const;

  FrameRange range() const { return range_; }
  void setRange(FrameRange range);
  /// The sets the range is meant for; all of them until it was dragged over some.
  std::vector<SetId> rangeSets() const;
  void setRangeSets(const std::vector<SetId>& sets) { rangeSets_ = sets; }
  /// The sets that cuts go to: of the range, else of the chosen clips, else the one that is worked on.
  std::vector<SetId> targetSets() const;

  // Clips -------------------------------------------------------------------------------------------------------------
  bool isChosen(ClipId clip) const { return clips_.contains(clip); }
  std::size_t clipCount() const { return clips_.size(); }
  bool hasClips() const { return !clips_.empty(); }
  /// In song order, set by set.
  ClipIds clips() const;
  /// Bundles are chosen whole unless open.
  void choose(const ClipIds& clips, bool add = false);
  void toggle(ClipId clip);
  /// From the clip chosen last to this one, over the sets between them.
  void chooseTo(ClipId clip);
  void chooseIn(FrameRange range, const std::vector<SetId>& sets, bool add = false);
  void chooseAll();
  void chooseOnTrack();
  /// All that begin where the first chosen clip does, or later; without one, from `at` on.
  void chooseAfter(Frames at);
  /// All with the name, or the colour, of those that are chosen.
  void chooseLike(bool byColour);
  /// Clips, marks and the range's sets.
  void clear();
  /// Everything that can be meant.
  void chooseNothing();
  BundleId openBundle() const { return openBundle_; }
  void openBundle(BundleId bundle);

  // Marks: at most one ------------------------------------------------------------------------------------------------
  std::optional<SpanId> span() const { return markOf<SpanId>(); }
  void chooseSpan(std::optional<SpanId> span);
  std::optional<MarkerId> marker() const { return markOf<MarkerId>(); }
  void chooseMarker(std::optional<MarkerId> marker);
  /// Its clip stays chosen.
  std::optional<PointRef> point() const { return markOf<PointRef>(); }
  void choosePoint(std::optional<PointRef> point);

  // Pins and notes ----------------------------------------------------------------------------------------------------
  bool isChosen(const PinRef& pin) const;
  const std::vector<PinRef>& pins() const { return pins_; }
  void choosePins(const std::vector<PinRef>& pins, bool add = false);
  void toggle(const PinRef& pin);
  bool isChosen(const NoteName& note) const { return notes_.contains(note); }
  const std::set<NoteName>& notes() const { return notes_; }
  void chooseNotes(const std::vector<NoteName>& notes, bool add = false);
  void toggle(const NoteName& note);

  /// Calls when one of `parts` has changed, as long as `context` lives.
  template <class Act>
  void watch(Parts parts, const QObject* context, Act act) {
    connect(this, &Selection::changed, context, [parts, act](Parts what) {
      if (what & parts) act();
    });
  }

  /// The song is another version: what it does not have is not chosen.
  void songChanged();
  void forget() override;

 signals:
  void changed(Selection::Parts parts);

 private:
  struct SeamRef {
    ClipId clip;
    std::optional<HitRef> hit;  ///< that its piece begins with
  };
  using Place = std::variant<std::monostate, HitRef, SeamRef>;
  using Mark = std::variant<std::monostate, SpanId, MarkerId, PointRef>;

  template <class T>
  std::optional<T> markOf() const {
    const auto* held = std::get_if<T>(&mark_);
    return held ? std::optional(*held) : std::nullopt;
  }
  bool hasMark() const { return !std::holds_alternative<std::monostate>(mark_); }
  bool isChosen(Thing thing) const;
  bool isThere(const Mark& mark) const;
  void setPlace(const Place& place);
  const Clip* seamOf(ClipId clip) const;
  ClipIds withBundles(const ClipIds& clips) const;
  Parts forgetGoneClips();
  Parts forgetGonePins();

  Document& doc_;
  SetId activeSet_;
  TrackId track_;
  Place place_;
  FrameRange range_;
  std::vector<SetId> rangeSets_;
  ChosenClips clips_;
  ClipId anchor_;  // chosen last
  BundleId openBundle_;
  Mark mark_;
  std::vector<PinRef> pins_;
  std::set<NoteName> notes_;
};

}  // namespace ochron

Q_DECLARE_OPERATORS_FOR_FLAGS(ochron::Selection::Parts)
Q_DECLARE_OPERATORS_FOR_FLAGS(ochron::Selection::Things)
