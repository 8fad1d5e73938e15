#pragma once

#include <sys/types.h>

#include <atomic>
#include <chrono>
#include <cstdint>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <span>
#include <string>

#include "base/result.h"
#include "base/shared.h"
#include "base/units.h"
#include "dsp/sliding_source.h"
#include "effects/effect_info.h"
#include "files/temporary.h"
#include "song/effect_state.h"

namespace ochron {

struct SharedBlock;

/// An LV2 plug-in at work in a process of its own: what ends or hangs that process costs this effect alone. Sound goes
/// through unchanged while it starts, and from when it stops.
class Effect {
 public:
  enum class State { starting, ready, stopped };
  using Clock = std::chrono::steady_clock;

  /// Starts it for one channel or two, its controls at `values` (by symbol) or else their defaults, holding
  /// `state`. A live one rings out, and tells how late it is, while nothing is played. What goes wrong later is told by
  /// state() and trouble().
  static Result<std::shared_ptr<Effect>> start(const EffectInfo& info, int rate, int channels,
                                               const std::map<std::string, double>& values = {},
                                               const Shared<EffectState>& state = {}, bool live = false);
  /// Sets all controls so, within their ranges, but for those that something else sets, `left` as they are.
  void setAll(const std::map<std::string, double>& values, const std::set<std::string>& left = {});
  ~Effect();
  Effect(const Effect&) = delete;
  Effect& operator=(const Effect&) = delete;

  // The controlling thread.
  State state() const;
  /// Why it stopped, in a sentence; empty while it has not.
  const std::string& trouble() const { return trouble_; }
  /// Notices what happened to its process. Call now and then.
  void watch();
  /// For one that stopped: a new process with the same values.
  Result<void> restart();
  /// Waits until it has started or failed; false when it has not within so long.
  bool waitUntilReady(std::chrono::milliseconds most);
  const EffectInfo& info() const { return info_; }
  int rate() const { return rate_; }
  /// What it held when it started.
  const Shared<EffectState>& held() const { return held_; }
  /// Frames that what comes out is late.
  Frames latency() const;

  // Any thread.
  void set(std::size_t control, float value) noexcept;
  float value(std::size_t control) const noexcept;
  float reading(std::size_t control) const noexcept;

  // One thread that plays. A block of at most kMostFrames goes in by ask() and comes out by answer().
  static constexpr std::size_t kMostFrames = 1024;
  /// False where it does not play now.
  bool ask(ChannelSpans sound, std::span<const float> key) noexcept;
  /// Puts what came of it in place of `sound`; false when it did not answer in time or answered with what is no sound:
  /// `sound` is as it was.
  bool answer(ChannelSpans sound, Clock::time_point latest) noexcept;

 private:
  Effect(EffectInfo info, int rate, int channels, Shared<EffectState> held, bool live);
  Result<void> layOut();
  Result<void> launch();
  void stop(const std::string& why);

  const EffectInfo info_;
  const int rate_;
  const int channels_;
  const Shared<EffectState> held_;
  const bool live_;
  std::optional<ScratchFolder> folder_;  // of what it holds, as files
  SharedBlock* block_ = nullptr;
  int memory_ = -1;
  pid_t process_ = 0;
  std::string trouble_;
  std::atomic<bool> plays_{false};
  // The thread that plays.
  std::uint32_t asked_ = 0;
  std::size_t frames_ = 0;
  std::atomic<std::int64_t> lateSince_{0};  // ns of the clock; 0: it is not late
};

}  // namespace ochron
