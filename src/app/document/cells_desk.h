#pragma once

#include <QObject>
#include <array>
#include <filesystem>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "document/document.h"
#include "document/song_memory.h"
#include "edits/pattern_edits.h"
#include "play/engine.h"

namespace ochron {

/// Slices under the fingers: the clips of the active set, sixteen at a time, struck by mouse, by the computer's keys
/// and by a keyboard or pads; what is struck while the song plays can be laid on the lanes.
class CellsDesk : public QObject, public SongMemory {
  Q_OBJECT
 public:
  static constexpr int kCells = 16;
  static constexpr int kFirstKey = 36;  ///< of a keyboard or pads
  explicit CellsDesk(Document& document);

  /// The clips on the page that is open, in song order; fewer than sixteen at the end.
  std::vector<const Clip*> cells() const;
  int page() const { return page_; }
  int pages() const;
  void turnTo(int page);
  /// The page with a clip.
  void reveal(ClipId clip);

  /// `strength` 0 to 1. False when there is no such cell.
  bool strike(int cell, double strength = 0.8);
  /// A cell was struck by a keyboard, without waiting for anything here; `at`: the song's place, while it played.
  void wasStruck(int cell, double strength, std::optional<Frames> at);
  /// The engine has the sounds of the open page.
  bool ready() const { return bankNow() == bankOf_; }
  /// What was struck last, for the eye; -1: nothing yet.
  int struckLast() const { return struckLast_; }
  /// The chosen cells into the next choke group, out of all behind the last.
  void choke();
  /// The chosen cells play a file of sound in their place, read in the background; one step to undo.
  void giveSound(const std::filesystem::path& file);
  /// The chosen cells play what was recorded again.
  void giveRecordingBack();
  /// While on and the song plays, what is struck is remembered; switched off, it is laid on the lanes. Counted in, a
  /// song that stands is played with the click from a bar before the play line; what is struck in that bar is not
  /// meant.
  void record(bool on);
  bool countsIn() const { return countsIn_; }
  void setCountsIn(bool on);
  bool recording() const { return recording_; }
  std::size_t recorded() const { return struck_.size(); }
  /// What is laid goes to the timing plan's grid.
  bool toGrid() const { return toGrid_; }
  void setToGrid(bool on);
  /// Sounds of the open page as they are heard now, made away from the main thread.
  void refreshBank();
  void forget() override;

 signals:
  void changed();
  void struck(int cell);

 private:
  void countIn();
  void endCount();
  /// What a bank of sounds was taken from, and where it went.
  struct BankOf {
    std::shared_ptr<const PlayPlan> plan;
    std::vector<ClipId> clips;
    const void* engine = nullptr;

    bool operator==(const BankOf&) const = default;
  };
  const ClipList& clips() const;
  BankOf bankNow() const;
  std::function<std::shared_ptr<LiveBank>()> bankMaker(const std::shared_ptr<const PlayPlan>& plan) const;
  void give(const BankOf& of, const std::shared_ptr<LiveBank>& bank);

  Document& doc_;
  int page_ = 0;
  int struckLast_ = -1;
  bool recording_ = false;
  bool toGrid_ = true;
  bool countsIn_ = true;
  /// Of a recording that was counted in.
  struct Counted {
    Frames from;           ///< where it begins
    bool clicked = false;  ///< the click was on before
  };
  std::optional<Counted> counted_;
  SetId recordedSet_;
  std::vector<Struck> struck_;
  BankOf bankOf_;      ///< the bank that the engine has
  BankOf bankWanted_;  ///< and the one that is being made
};

}  // namespace ochron
