#pragma once

#include <array>
#include <atomic>
#include <deque>
#include <memory>
#include <span>
#include <vector>

#include "base/spsc_ring.h"
#include "dsp/grain_shift.h"
#include "play/audio_source.h"
#include "play/click.h"
#include "render/chain.h"
#include "render/plan.h"
#include "render/render.h"

namespace ochron {

/// What the engine plays: the song as edited and as recorded, and the click. Immutable.
struct PlayPlan {
  RenderPlan edited;
  RenderPlan original;
  float originalGain = 1;  ///< brings the original to the edited version's loudness
  float editedGain = 1;    ///< brings a version that is tried to the loudness of the one before
  std::vector<ClickEvent> clicks;
};

/// A stretch of song played for the ear: with short fades at its ends, once or over and over.
struct Audition {
  FrameRange range;
  bool loop = false;
  bool click = false;
  float lift = 1;  ///< quiet material is raised by up to this factor; loud material is held below -6 dBFS
};

/// The transport and mixer on the audio thread. Every public function but process() belongs to one controlling thread.
class Engine : public AudioSource, private SongStream, private GrainShift::Source {
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
  /// within 30 ms, without a click.
  void tryKey(const TrackMask& tracks, double cents);
  /// Plays a stretch instead of the song; play(), stop() or seek() end it. It stops by itself unless it loops.
  void audition(const Audition& what);
  /// False when the engine has not taken earlier plans yet; try again.
  bool setPlan(std::shared_ptr<const PlayPlan> plan);
  /// Frees plans that the audio thread is done with, and sends commands again that did not fit. Call now and then.
  void collect();

  bool playing() const { return playing_.load(std::memory_order_relaxed); }
  Frames position() const { return Frames{position_.load(std::memory_order_relaxed)}; }
  /// Highest peak since the last call; resets it. `track` counts as in the plan.
  float takeTrackPeak(std::size_t track);
  float takeMasterPeak(int side);

  void process(std::span<float> left, std::span<float> right) noexcept override;

  static constexpr std::size_t kMaxTracks = 256;
  static constexpr std::size_t kMaxBlock = 8192;

 private:
  struct Command {
    enum class Kind { play, stop, seek, loop, click, original, audition, key } kind = Kind::stop;
    Frames a;
    Frames b;
    float value = 0;
    bool flag = false;
    Audition heard = {};
    TrackMask tracks = {};
  };
  void send(const Command& c);
  void sendAgain();
  void takeCommands() noexcept;
  void takePlan() noexcept;
  void renderBlock(std::span<float> left, std::span<float> right) noexcept;
  /// The song from at_ on, around its loop.
  void read(std::span<float> left, std::span<float> right) noexcept override;
  double speed() const noexcept override;
  bool keepsPitch() const noexcept override;
  Frames heardAt() const noexcept;
  /// The tracks that a key is tried on, around the loop.
  void read(std::int64_t from, std::span<float> left, std::span<float> right) noexcept override;
  void followKey() noexcept;
  void addKeyed(std::span<float> left, std::span<float> right) noexcept;
  void addVersion(const PlayPlan& plan, bool original, Frames at, std::span<float> left, std::span<float> right,
                  bool meter) noexcept;
  void shapeAudition(Frames at, std::span<float> left, std::span<float> right) noexcept;
  void addClicks(Frames at, std::span<float> left, std::span<float> right) noexcept;

  const int rate_;
  SpscRing<Command, 256> commands_;
  std::deque<Command> unsent_;  // did not fit into the ring yet; controlling thread
  SpscRing<const PlayPlan*, 16> incoming_;
  SpscRing<const PlayPlan*, 32> outgoing_;
  std::vector<std::shared_ptr<const PlayPlan>> alive_;

  // Audio thread only.
  const PlayPlan* plan_ = nullptr;
  bool original_ = false;
  const PlayPlan* fadingPlan_ = nullptr;  // what is being faded out, with its version
  bool fadingOriginal_ = false;
  std::int64_t fadeLeft_ = 0;
  std::int64_t fadeLength_ = 1;
  double level_ = 0;  // start and stop ramp
  bool running_ = false;
  Frames at_;
  FrameRange loop_;
  Chain chain_;
  Audition audition_;  // in force while its range is not empty
  float heardPeak_ = 0;
  bool clickOn_ = false;
  float clickGain_ = 1;
  std::vector<float> clickSound_;
  std::vector<float> accentSound_;
  GrainShift shift_;
  TrackMask keyed_;        // go through it
  TrackMask wantedKeyed_;  // are to
  double wantedCents_ = 0;
  std::vector<float> keyedLeft_;
  std::vector<float> keyedRight_;
  std::vector<float> scratch_;
  std::vector<float> fadeLeftBuffer_;
  std::vector<float> fadeRightBuffer_;
  std::array<float, kMaxTracks> peaks_{};

  std::atomic<bool> playing_{false};
  std::atomic<std::int64_t> position_{0};
  std::array<std::atomic<float>, kMaxTracks> trackPeaks_{};
  std::array<std::atomic<float>, 2> masterPeaks_{};
};

}  // namespace ochron
