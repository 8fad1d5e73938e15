#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "effects/rack_slot.h"
#include "song/insert_place.h"

namespace ochron {

struct RenderPlan;
struct TrackPlan;

/// A track's effects at work.
struct TrackRack {
  TrackId track;
  SetId set;
  std::vector<std::shared_ptr<RackSlot>> stages;
  std::size_t ofSet = 0;  ///< stages from here on are the set's: what steers them is all of the set's tracks
  /// What steers the set's effects: its tracks together, one for all racks of the set; none: nothing does.
  std::shared_ptr<std::vector<float>> key;
  DelayLine pad;   ///< up to the latest of all tracks
  Frames latency;  ///< of its stages
  Frames late;     ///< of those that this block went through
  std::array<std::vector<float>, 2> sound;
  const TrackPlan* now = nullptr;  ///< in this block; none: it is not heard

  void clear() noexcept;
};

/// All effects of a song at work, with what it takes for them to be in time with each other. Made by the controlling
/// thread, run by one thread that plays.
struct Racks {
  std::vector<TrackRack> tracks;
  std::vector<std::shared_ptr<RackSlot>> mix;
  Frames trackLatency;  ///< of the latest track
  Frames latency;       ///< of that and the mix
  DelayLine plain;      ///< for the tracks without effects

  /// What is on its way is forgotten.
  void clear() noexcept;
};

/// What moves an insert's controls along the song; none when nothing does.
ControlCourse courseOf(const Insert& insert, const EffectInfo& info);

/// Gives the slot of an insert on a track (none: in the mix), for so many channels; null where its plug-in is missing.
using SlotGiver = std::function<std::shared_ptr<RackSlot>(const Insert& insert, TrackId track, int channels)>;
/// A song's effects at work; null where there are none. `channels`: of a track, 1 or 2.
std::shared_ptr<Racks> makeRacks(const Song& song, const SlotGiver& give);

/// A song's effects started for one run that is not live: all play when it returns; null where there are none.
/// `missing`: names of effects that this machine does not have; sound goes past them.
Result<std::shared_ptr<Racks>> startRacks(const Song& song, const std::vector<EffectInfo>& known,
                                          std::vector<std::string>& missing);
/// Fails when one stopped or did not answer in between: what was written meanwhile must not be kept.
Result<void> allAnswered(const Racks& racks);

/// Where the sound of tracks comes from, on the thread that plays.
class TrackSource {
 public:
  virtual ~TrackSource() = default;
  /// Fills both sides, silent before, with a track's sound before its effects and its gain: of a mono track twice the
  /// same. `track` counts as in the plan; `from`: frames since the block's beginning.
  virtual void readTrack(std::size_t track, std::size_t from, std::span<float> left,
                         std::span<float> right) noexcept = 0;
};

/// One track through its effects, from its source on, in place of what is in its `sound` (`n` frames), unpadded. `at`:
/// song time of its first frame.
void runTrack(TrackRack& rack, const RenderPlan& plan, Frames at, std::size_t from, std::size_t n, TrackSource& source,
              Effect::Clock::time_point latest) noexcept;

/// Turns the mix of all tracks without effects into the mix of all, plan.racks->latency frames late. `at`: song time of
/// the block. `peaks`, when not empty, receives those of the tracks with effects; `gains`, when not empty, is put on
/// their sound frame by frame.
void addRacked(const RenderPlan& plan, Frames at, std::span<float> left, std::span<float> right, TrackSource& source,
               Effect::Clock::time_point latest, std::span<float> peaks, std::span<const float> gains = {}) noexcept;

/// A plan played through its effects from some place on, block after block, in time: what the effects need of the song
/// before and after is read too. Not live.
class PlayedThrough : private TrackSource {
 public:
  /// `end`, song time: what lies from there on is not heard, only what effects make of what was before.
  explicit PlayedThrough(const RenderPlan& plan, std::optional<Frames> end = {});
  /// Adds the mix from `at` on to both sides, which are silent.
  void addMix(Frames at, std::span<float> left, std::span<float> right);
  /// Adds one track before its gain and pan. Of one object either this is asked for, of one track, or the mix.
  void addTrack(std::size_t track, Frames at, std::span<float> left, std::span<float> right);

 private:
  void readTrack(std::size_t track, std::size_t from, std::span<float> left, std::span<float> right) noexcept override;
  template <class Clear, class Part>
  void inTime(Frames at, Frames latency, std::span<float> left, std::span<float> right, Clear clear, Part part);

  const RenderPlan& plan_;
  std::optional<Frames> end_;
  std::optional<TrackRack> own_;  // of the track that is asked for
  Frames block_;                  // song time of the block that is read
  std::optional<Frames> next_;    // what is read next, when it goes on
  std::vector<float> scratch_;
};

}  // namespace ochron
