#include "play/engine.h"

#include <algorithm>
#include <cmath>

#include "render/render.h"

namespace ochron {
namespace {

constexpr double kSwitchSeconds = 0.012;  // crossfade to a new plan or to the other version
constexpr double kStartSeconds = 0.003;
constexpr double kAuditionFadeSeconds = 0.005;
constexpr double kAuditionReleaseSeconds = 0.06;
constexpr float kAuditionCeiling = 0.5f;

void raise(std::atomic<float>& held, float peak) noexcept {
  if (peak > held.load(std::memory_order_relaxed)) held.store(peak, std::memory_order_relaxed);
}

}  // namespace

Engine::Engine(int rate)
    : rate_(rate),
      fadeLength_(static_cast<std::int64_t>(kSwitchSeconds * rate)),
      chain_(rate),
      clickSound_(clickSound(rate, false)),
      accentSound_(clickSound(rate, true)),
      shift_(rate),
      keyedLeft_(kMaxBlock),
      keyedRight_(kMaxBlock),
      scratch_(kMaxBlock),
      fadeLeftBuffer_(kMaxBlock),
      fadeRightBuffer_(kMaxBlock) {}

Engine::~Engine() = default;

void Engine::send(const Command& c) {
  unsent_.push_back(c);
  sendAgain();
}

void Engine::sendAgain() {
  while (!unsent_.empty() && commands_.tryPush(unsent_.front())) unsent_.pop_front();
}
void Engine::play() { send({Command::Kind::play, {}, {}, 0, true}); }
void Engine::stop() { send({Command::Kind::stop, {}, {}, 0, false}); }
void Engine::seek(Frames to) { send({Command::Kind::seek, to, {}, 0, false}); }
void Engine::setLoop(FrameRange range) { send({Command::Kind::loop, range.start, range.end, 0, false}); }
void Engine::setClick(bool on, double levelDb) {
  send({Command::Kind::click, {}, {}, static_cast<float>(std::pow(10.0, levelDb / 20.0)), on});
}
void Engine::audition(const Audition& what) {
  if (!what.range.empty()) send({Command::Kind::audition, {}, {}, 0, false, what});
}
void Engine::tryKey(const TrackMask& tracks, double cents) {
  send({Command::Kind::key, {}, {}, static_cast<float>(cents), tracks.any(), {}, tracks});
}
void Engine::setOriginal(bool original) { send({Command::Kind::original, {}, {}, 0, original}); }

bool Engine::setPlan(std::shared_ptr<const PlayPlan> plan) {
  const PlayPlan* raw = plan.get();
  alive_.push_back(std::move(plan));
  if (incoming_.tryPush(raw)) return true;
  alive_.pop_back();
  return false;
}

void Engine::collect() {
  sendAgain();
  const PlayPlan* done = nullptr;
  // A plan may have been given more than once: each time it comes back for itself.
  while (outgoing_.tryPop(done))
    alive_.erase(std::find_if(alive_.begin(), alive_.end(), [&](const auto& p) { return p.get() == done; }));
}

float Engine::takeTrackPeak(std::size_t track) {
  return track < kMaxTracks ? trackPeaks_[track].exchange(0, std::memory_order_relaxed) : 0;
}
float Engine::takeMasterPeak(int side) {
  return masterPeaks_[static_cast<std::size_t>(side)].exchange(0, std::memory_order_relaxed);
}

void Engine::takeCommands() noexcept {
  Command c;
  while (commands_.tryPop(c)) {
    switch (c.kind) {
      case Command::Kind::play:
        running_ = true;
        audition_ = {};
        break;
      case Command::Kind::stop: running_ = false; break;
      case Command::Kind::seek:
        at_ = c.a;
        audition_ = {};
        chain_.reset();
        shift_.restart();
        break;
      case Command::Kind::audition:
        audition_ = c.heard;
        at_ = audition_.range.start;
        heardPeak_ = 0;
        running_ = true;
        shift_.restart();
        break;
      case Command::Kind::loop: loop_ = {c.a, c.b}; break;
      case Command::Kind::click:
        clickOn_ = c.flag;
        clickGain_ = c.value;
        break;
      case Command::Kind::original:
        if (c.flag != original_ && fadeLeft_ == 0 && plan_) {
          fadingPlan_ = plan_;
          fadingOriginal_ = original_;
          fadeLeft_ = fadeLength_;
        }
        original_ = c.flag;
        break;
      case Command::Kind::key:
        wantedKeyed_ = c.tracks;
        wantedCents_ = c.flag ? static_cast<double>(c.value) : 0;
        break;
    }
  }
}

void Engine::takePlan() noexcept {
  // One change at a time: while one is being faded, newer plans wait.
  if (fadeLeft_ > 0) return;
  const PlayPlan* next = nullptr;
  const PlayPlan* newer = nullptr;
  while (incoming_.tryPop(newer)) {
    if (next) outgoing_.tryPush(next);
    next = newer;
  }
  if (!next) return;
  fadingPlan_ = plan_;
  fadingOriginal_ = original_;
  fadeLeft_ = plan_ ? fadeLength_ : 0;
  plan_ = next;
}

void Engine::addVersion(const PlayPlan& plan, bool original, Frames at, std::span<float> left, std::span<float> right,
                        bool meter) noexcept {
  const std::span<float> peaks(peaks_.data(), meter ? std::min(kMaxTracks, plan.edited.tracks.size()) : 0);
  addMix(original ? plan.original : plan.edited, at, left, right, scratch_, peaks, original ? TrackMask{} : keyed_);
  const float gain = original ? plan.originalGain : plan.editedGain;
  if (gain != 1.0f) {
    for (auto& s : left) s *= gain;
    for (auto& s : right) s *= gain;
  }
  for (std::size_t t = 0; t < peaks.size(); ++t) raise(trackPeaks_[t], peaks[t]);
}

void Engine::addClicks(Frames at, std::span<float> left, std::span<float> right) noexcept {
  const auto reach = Frames{std::ssize(clickSound_)};
  const auto& clicks = plan_->clicks;
  auto it = std::lower_bound(clicks.begin(), clicks.end(), at - reach,
                             [](const ClickEvent& c, Frames f) { return c.at < f; });
  for (; it != clicks.end() && it->at < at + Frames{std::ssize(left)}; ++it) {
    const auto& sound = it->accent ? accentSound_ : clickSound_;
    const auto shift = (it->at - at).value;
    for (auto i = std::max<std::int64_t>(0, shift);
         i < std::min<std::int64_t>(std::ssize(left), shift + std::ssize(sound)); ++i) {
      const float s = sound[static_cast<std::size_t>(i - shift)] * clickGain_;
      left[static_cast<std::size_t>(i)] += s;
      right[static_cast<std::size_t>(i)] += s;
    }
  }
}

void Engine::shapeAudition(Frames at, std::span<float> left, std::span<float> right) noexcept {
  const auto fade = kAuditionFadeSeconds * rate_;
  const auto release = static_cast<float>(std::exp(-1.0 / (kAuditionReleaseSeconds * rate_)));
  for (std::size_t i = 0; i < left.size(); ++i) {
    const auto n = static_cast<double>((at - audition_.range.start).value) + static_cast<double>(i);
    const auto rest = static_cast<double>(audition_.range.length().value) - n;
    auto gain = static_cast<float>(std::clamp(std::min(n, rest) / fade, 0.0, 1.0));
    heardPeak_ = std::max({heardPeak_ * release, std::abs(left[i]), std::abs(right[i])});
    if (audition_.lift > 1) gain *= std::min(audition_.lift, kAuditionCeiling / std::max(1e-6f, heardPeak_));
    left[i] *= gain;
    right[i] *= gain;
  }
}

/// Other tracks only once what is heard of the present ones is their own sound again.
void Engine::followKey() noexcept {
  if (keyed_ == wantedKeyed_) return shift_.setCents(wantedCents_);
  shift_.setCents(0);
  if (keyed_.any() && !shift_.plain()) return;
  keyed_ = wantedKeyed_;
  shift_.restart();
}

void Engine::read(std::int64_t from, std::span<float> left, std::span<float> right) noexcept {
  std::fill(left.begin(), left.end(), 0.0f);
  std::fill(right.begin(), right.end(), 0.0f);
  const auto loop = audition_.range.empty() ? loop_ : audition_.range;
  const bool looping = !loop.empty() && running_ && at_ < loop.end;
  auto at = Frames{from};
  for (std::size_t done = 0; done < left.size();) {
    auto n = std::min(left.size() - done, kMaxBlock);
    if (looping && at < loop.end) n = std::min(n, static_cast<std::size_t>((loop.end - at).value));
    if (looping && at >= loop.end) at = loop.start + Frames{(at - loop.end).value % loop.length().value};
    addMix(plan_->edited, at, left.subspan(done, n), right.subspan(done, n), scratch_, {}, ~keyed_);
    done += n;
    at += Frames{static_cast<std::int64_t>(n)};
  }
}

/// Adds the tracks that a key is tried on, as far as the edited version is heard.
void Engine::addKeyed(std::span<float> left, std::span<float> right) noexcept {
  const auto l = std::span(keyedLeft_).first(left.size());
  const auto r = std::span(keyedRight_).first(left.size());
  shift_.process(at_.value, l, r, *this);
  const float now = original_ ? 0 : 1;
  const float before = fadeLeft_ > 0 && fadingPlan_ ? (fadingOriginal_ ? 0.0f : 1.0f) : now;
  for (std::size_t i = 0; i < left.size(); ++i) {
    const float old = static_cast<float>(fadeLeft_ - static_cast<std::int64_t>(i)) / static_cast<float>(fadeLength_);
    const float gain = before == now ? now : now + (before - now) * old;
    left[i] += l[i] * gain;
    right[i] += r[i] * gain;
  }
}

void Engine::renderBlock(std::span<float> left, std::span<float> right) noexcept {
  if (fadeLeft_ > 0 && std::ssize(left) > fadeLeft_) {
    const auto n = static_cast<std::size_t>(fadeLeft_);
    renderBlock(left.first(n), right.first(n));
    renderBlock(left.subspan(n), right.subspan(n));
    return;
  }
  if (plan_) {
    followKey();
    addVersion(*plan_, original_, at_, left, right, true);
    if (fadeLeft_ > 0 && fadingPlan_) {
      const auto oldLeft = std::span(fadeLeftBuffer_).first(left.size());
      const auto oldRight = std::span(fadeRightBuffer_).first(left.size());
      std::fill(oldLeft.begin(), oldLeft.end(), 0.0f);
      std::fill(oldRight.begin(), oldRight.end(), 0.0f);
      addVersion(*fadingPlan_, fadingOriginal_, at_, oldLeft, oldRight, false);
      for (std::size_t i = 0; i < left.size(); ++i) {
        const float old =
            static_cast<float>(fadeLeft_ - static_cast<std::int64_t>(i)) / static_cast<float>(fadeLength_);
        left[i] += (oldLeft[i] - left[i]) * old;
        right[i] += (oldRight[i] - right[i]) * old;
      }
    }
    if (keyed_.any()) addKeyed(left, right);
    if (audition_.range.empty() ? clickOn_ : audition_.click) addClicks(at_, left, right);
  }
  if (fadeLeft_ > 0) {
    fadeLeft_ -= std::ssize(left);
    if (fadeLeft_ == 0) {
      if (fadingPlan_ && fadingPlan_ != plan_) outgoing_.tryPush(fadingPlan_);
      fadingPlan_ = nullptr;
    }
  }
  at_ += Frames{std::ssize(left)};
}

void Engine::read(std::span<float> left, std::span<float> right) noexcept {
  std::size_t done = 0;
  while (done < left.size()) {
    auto n = std::min(left.size() - done, kMaxBlock);
    const bool heard = !audition_.range.empty();
    const auto loop = heard ? audition_.range : loop_;
    const bool looping = !loop.empty() && running_ && at_ < loop.end;
    if (looping) n = std::min(n, static_cast<std::size_t>((loop.end - at_).value));
    const auto from = at_;
    renderBlock(left.subspan(done, n), right.subspan(done, n));
    if (heard) shapeAudition(from, left.subspan(done, n), right.subspan(done, n));
    if (looping && at_ == loop.end) {
      at_ = loop.start;
      if (heard && !audition_.loop) {  // its own fade has brought it to silence
        running_ = false, level_ = 0, audition_ = {};
        break;
      }
    }
    done += n;
  }
}

double Engine::speed() const noexcept {
  if (!plan_ || plan_->edited.speed->empty() || !audition_.range.empty()) return 0;
  return valueAt(*plan_->edited.speed, at_, 100) / 100;
}

bool Engine::keepsPitch() const noexcept { return plan_ && plan_->edited.manner.keepsPitch; }

/// What is heard lies behind what is read, around the loop.
Frames Engine::heardAt() const noexcept {
  if (!running_) return at_;
  auto heard = at_ - chain_.ahead();
  if (!loop_.empty() && heard < loop_.start && loop_.contains(at_)) heard += loop_.length();
  return heard;
}

void Engine::process(std::span<float> left, std::span<float> right) noexcept {
  std::fill(left.begin(), left.end(), 0.0f);
  std::fill(right.begin(), right.end(), 0.0f);
  takeCommands();
  takePlan();
  const double step = 1.0 / (kStartSeconds * rate_);
  if (running_ || level_ > 0) {
    chain_.process(left, right, *this);
    for (std::size_t i = 0; i < left.size(); ++i) {
      if (running_ ? level_ < 1 : level_ > 0) level_ = std::clamp(level_ + (running_ ? step : -step), 0.0, 1.0);
      if (level_ < 1) {
        left[i] *= static_cast<float>(level_);
        right[i] *= static_cast<float>(level_);
      }
    }
    const auto peak = [](std::span<const float> s) {
      float p = 0;
      for (const float v : s) p = std::max(p, std::abs(v));
      return p;
    };
    raise(masterPeaks_[0], peak(left));
    raise(masterPeaks_[1], peak(right));
  } else {  // nothing sounds: a change is done at once
    keyed_ = wantedKeyed_;
    shift_.restart();
  }
  if (!running_ && level_ <= 0 && fadeLeft_ > 0) {
    fadeLeft_ = 0;
    if (fadingPlan_ && fadingPlan_ != plan_) outgoing_.tryPush(fadingPlan_);
    fadingPlan_ = nullptr;
  }
  position_.store(heardAt().value, std::memory_order_relaxed);
  playing_.store(running_, std::memory_order_relaxed);
}

}  // namespace ochron
