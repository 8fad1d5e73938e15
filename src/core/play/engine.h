#pragma once

#include <array>
#include <atomic>
#include <cstdint>
#include <deque>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "base/spsc_ring.h"
#include "dsp/grain_shift.h"
#include "play/audio_source.h"
#include "play/click.h"
#include "play/engine_commands.h"
#include "play/key_stream.h"
#include "play/key_trial.h"
#include "play/live_voices.h"
#include "play/meters.h"
#include "play/note_stream.h"
#include "play/plan_feed.h"
#include "render/chain.h"
#include "render/racks.h"
#include "render/render.h"

namespace ochron {

/// The transport and mixer on the audio thread. Every public function but process() belongs to one controlling thread.
/// Whatever jumps while it sounds (place, plan, version, a stretch heard alone) goes over from what was heard in 8 ms;
/// at a loop's end that comes before it, so that what begins the loop is whole. A song that runs at other speeds than
/// recorded falls silent for a jump instead, 3 ms.
class Engine : public AudioSource, private SongStream, private TrackSource {
 public:
  explicit Engine(int rate);
  ~Engine() override;

  void play();
  void stop();
  void seek(Frames to);
  /// An empty range turns looping off.
  void setLoop(FrameRange range);
  void setClick(bool on, double levelDb);
  void setOriginal(bool original);
  /// Plays some tracks of the edited version at another pitch, in time with the rest; no tracks: all as they are. Heard
  /// within 50 ms, without a click.
  void tryKey(const TrackMask& tracks, double cents);
  /// Plays a stretch instead of the song; play(), stop() or seek() end it. It stops by itself unless it loops.
  void audition(const Audition& what);
  /// Sounds that can be struck by hand; null: none.
  void setBank(const std::shared_ptr<const LiveBank>& bank);
  /// Strikes one of them: heard from the next block's first frame on, whether the song plays or not.
  void strike(int sound, double strength) { send({command::Strike{sound, static_cast<float>(strength)}}); }
  void hush() { send({command::Hush{}}); }
  /// Keys of a keyboard strike, too. Before a device plays the engine.
  void listenTo(std::shared_ptr<KeyStream> keys) { keys_ = std::move(keys); }
  /// Notes of the plan go there, each with when it is heard. Before a device plays the engine.
  void sendNotesTo(std::shared_ptr<NoteStream> notes) { notes_ = std::move(notes); }
  /// Any of these at a frame of the engine's clock(), to the frame.
  void send(const TimedCommand& command);
  /// Frames put out since the engine was made.
  std::int64_t clock() const { return told_.load(std::memory_order_relaxed); }
  /// False when the engine has not taken earlier plans yet; try again.
  bool setPlan(std::shared_ptr<const PlayPlan> plan);
  /// Frees plans that the audio thread is done with, and sends commands again that did not fit. Call now and then.
  void collect();

  bool playing() const { return playing_.load(std::memory_order_relaxed); }
  Frames position() const { return Frames{position_.load(std::memory_order_relaxed)}; }
  /// Highest peak since the last call; resets it. `track` counts as in the plan.
  float takeTrackPeak(std::size_t track) { return meters_.takeTrack(track); }
  float takeMasterPeak(int side) { return meters_.takeMaster(side); }

  void process(std::span<float> left, std::span<float> right) noexcept override;

  static constexpr std::size_t kMaxTracks = Meters::kMostTracks;
  static constexpr std::size_t kMaxBlock = 8192;

 private:
  /// What is read of the song, and from where on.
  struct Reading {
    PlanFeed::Given* given = nullptr;
    bool original = false;
    Frames at;
    Audition audition = {};  ///< in force while its range is not empty
    float heardPeak = 0;
  };
  /// One that was jumped away from.
  struct Leaving {
    Reading reading;
    float share = 0;        ///< of what is heard, when it was left
    std::int64_t left = 0;  ///< frames; none: free

    /// Of what is heard, some frames on; it falls to 0 over `fade` frames.
    float shareIn(std::size_t frames, std::int64_t fade) const noexcept {
      return share * static_cast<float>(left - static_cast<std::int64_t>(frames)) / static_cast<float>(fade);
    }
  };
  using Sides = std::array<std::span<float>, 2>;

  void sendAgain();
  std::size_t takeCommands(std::int64_t now, std::size_t most) noexcept;
  bool obey(const Command& command) noexcept;
  bool isHeard() const noexcept;
  bool mayLeave() const noexcept;
  bool mayJump() noexcept;
  void leave() noexcept;
  void jumpTo(Frames to, const Audition& audition) noexcept;
  void takePlan() noexcept;
  void takeKeys() noexcept;
  void tellNotes(std::size_t frames) noexcept;
  void playPart(std::span<float> left, std::span<float> right) noexcept;
  /// The song from its place on, around its loop.
  void read(std::span<float> left, std::span<float> right) noexcept override;
  double speed() const noexcept override;
  bool keepsPitch() const noexcept override;
  FrameRange loopNow() const noexcept;
  Frames heardAt() const noexcept;
  void renderPart(Sides out, FrameRange loop) noexcept;
  void addReading(const Reading& reading, FrameRange loop, Sides out, bool meter) noexcept;
  void addAround(const RenderPlan& plan, FrameRange loop, Frames at, Sides out, std::span<float> peaks,
                 const TrackMask& leftOut) noexcept;
  void shapeAudition(Reading& reading, Sides out, Sides keyed) noexcept;
  template <class Fill>
  void aroundLoop(FrameRange loop, Frames at, Sides out, Fill fill) noexcept;
  void addTrackOf(const Reading& reading, FrameRange loop, std::size_t track, std::size_t from, Sides out) noexcept;
  void readTrack(std::size_t track, std::size_t from, std::span<float> left, std::span<float> right) noexcept override;
  void playRacks(Sides out, FrameRange loop) noexcept;
  float shareOfLeaving(std::size_t frame, bool editedOnly) const noexcept;
  /// The next frames of the tracks that a key is tried on, around the loop.
  struct KeyedSource : GrainShift::Source {
    explicit KeyedSource(Engine& e) : engine(e) {}
    void read(std::span<float> left, std::span<float> right) noexcept override { engine.readKeyed(left, right); }
    Engine& engine;
  };
  void readKeyed(std::span<float> left, std::span<float> right) noexcept;

  const int rate_;
  const std::int64_t fade_;  // frames
  SpscRing<TimedCommand, 256> commands_;
  std::deque<TimedCommand> unsent_;  // did not fit into the ring yet; controlling thread
  PlanFeed plans_;

  // Audio thread only.
  std::optional<TimedCommand> next_;  // of the ring, not due yet
  std::int64_t clock_ = 0;
  Reading now_;
  std::array<Leaving, 4> leaving_{};
  double level_ = 0;       // start and stop ramp
  bool hushed_ = false;    // falls silent for a jump
  bool changing_ = false;  // falls silent for other effects
  bool running_ = false;
  bool ended_ = false;  // a stretch that is heard once came to its end
  FrameRange loop_;
  Chain chain_;
  bool clickOn_ = false;
  float clickGain_ = 1;
  ClickVoice click_;
  KeyTrial key_;
  LiveVoices live_;
  std::shared_ptr<KeyStream> keys_;
  std::shared_ptr<NoteStream> notes_;
  std::int64_t blockBegan_ = 0;  // ns of the steady clock
  Frames heardThen_;             // the place that is heard at the block's beginning
  Frames turned_;                // of loops since then
  Frames keyedAt_;               // of the song that its source reads next
  std::vector<float> scratch_;
  std::array<std::vector<float>, 2> leavingSound_;
  std::array<std::vector<float>, 2> aroundSound_;
  std::array<std::vector<float>, 2> trackSound_;
  std::vector<float> shape_;          // of a stretch heard alone
  FrameRange rackLoop_;               // around which the tracks with effects are read
  Effect::Clock::time_point latest_;  // for effects to answer in this block
  std::array<float, kMaxTracks> peaks_{};

  Meters meters_;
  std::atomic<bool> playing_{false};
  std::atomic<std::int64_t> position_{0};
  std::atomic<std::int64_t> told_{0};
};

}  // namespace ochron
