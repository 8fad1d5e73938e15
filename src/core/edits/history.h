#pragma once

#include <chrono>
#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "song/song.h"

namespace ochron {

/// The steps that led to the open song, and which changes count as one step. Changes of one gesture with the same name
/// are one: a drag from press to release, or keys in quick succession with nothing else between them.
class History {
 public:
  using SongPtr = std::shared_ptr<const Song>;

  void clear();
  /// Something is taken hold of; what was held before is let go. The number names the gesture.
  std::uint64_t beginGesture();
  /// Whatever is held is let go.
  void endGesture();
  bool inGesture() const { return open_; }
  bool isOpen(std::uint64_t gesture) const { return open_ && gesture == number_; }
  /// Notes that `before` has become `after`, as a step of its own unless it goes on with the last one.
  void record(const std::string& name, const SongPtr& before, const SongPtr& after, const std::string& gesture);
  /// Notes that more is known of `before` now: `after` is no step, and what went on with the last one still does.
  void learned(const SongPtr& before, const SongPtr& after) {
    if (after_ == before) after_ = after;
  }
  /// Takes off what the gesture under way has recorded: the song before it, or none when it recorded nothing.
  SongPtr takeBackGesture();
  /// The last step led nowhere: takes it off, and gives back the song from before it when it equals `now`.
  SongPtr dropIdleStep(const SongPtr& now);

  std::string undoName() const { return past_.empty() ? std::string() : past_.back().name; }
  std::string redoName() const { return future_.empty() ? std::string() : future_.back().name; }
  SongPtr undo(const SongPtr& now) { return step(past_, future_, now); }
  SongPtr redo(const SongPtr& now) { return step(future_, past_, now); }

 private:
  /// How a set's clips were, against how they were a step later: the same but for a stretch.
  struct Earlier {
    SetId set;
    std::size_t before = 0;  ///< clips in front of the stretch, and behind it
    std::size_t after = 0;
    ClipList clips;
  };
  /// All but the last step hold of long lists of clips only what became different, so that thousands of steps take
  /// little room.
  struct Step {
    std::string name;
    SongPtr song;  ///< as it was before; once packed, without the clips of the sets in `clips`
    std::vector<Earlier> clips = {};
    std::weak_ptr<const Song> whole = {};  ///< of a packed one, while somebody else still holds it

    void pack(const Song& later);
    void unpack(const Song& later);
  };
  static void push(std::vector<Step>& steps, Step step);
  static SongPtr pop(std::vector<Step>& steps);
  SongPtr step(std::vector<Step>& from, std::vector<Step>& to, const SongPtr& now);
  bool goesOn(const SongPtr& before, const std::string& gesture) const;

  std::vector<Step> past_;
  std::vector<Step> future_;
  bool open_ = false;
  std::uint64_t number_ = 0;
  std::size_t mark_ = 0;  ///< steps there were when the gesture began
  std::string gesture_;
  SongPtr after_;
  std::optional<std::chrono::steady_clock::time_point> since_;
};

}  // namespace ochron
