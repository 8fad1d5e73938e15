#pragma once

#include <map>
#include <memory>
#include <string>
#include <utility>
#include <vector>

#include "render/racks.h"

namespace ochron {

/// A song's effects as they play live, kept through every change of the song. Belongs to one controlling thread.
class LiveRacks {
 public:
  /// What this machine has; effects that were missing are started by the next follow().
  void know(std::vector<EffectInfo> effects);
  const std::vector<EffectInfo>& known() const { return known_; }
  const EffectInfo* find(const std::string& uri) const;

  /// Starts what is new, ends what is gone, passes on values and switches.
  void follow(const Song& song);
  /// Notices effects that started, stopped or changed how late they are; true when racks() is another one since.
  bool watch(const Song& song);
  /// What a plan plays through; the same object as long as places and delays stay. Null: nothing.
  const std::shared_ptr<Racks>& racks() const { return racks_; }

  enum class State { missing, starting, ready, stopped };
  struct Told {
    State state = State::missing;
    std::string trouble;  ///< a sentence
    Frames latency;
    std::int64_t missed = 0;  ///< blocks
  };
  /// How an insert is doing, on all tracks that it is on.
  Told told(InsertId insert) const;
  /// An insert's effect on the first track that it is on; null while none plays.
  const Effect* playing(InsertId insert) const;
  /// Starts an insert's effects anew where they stopped.
  Result<void> restart(InsertId insert);

 private:
  using Where = std::pair<InsertId, TrackId>;
  struct Placed {
    std::shared_ptr<Effect> effect;
    std::shared_ptr<RackSlot> slot;                  ///< none: it has not started yet
    std::string trouble;                             ///< it could not be started at all
    Shared<EffectState> wanted = {};                 ///< what it was to start with
    std::map<std::string, MovedControl> moved = {};  ///< as its slot follows it
  };
  void build(const Song& song);

  std::vector<EffectInfo> known_;
  std::map<Where, Placed> placed_;
  std::shared_ptr<Racks> racks_;
  std::vector<const RackSlot*> built_;  ///< of racks_, in order
};

}  // namespace ochron
