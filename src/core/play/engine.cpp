#include "play/engine.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <utility>

namespace ochron {
namespace {

constexpr double kJumpSeconds = 0.008;  // crossfade from what was heard
constexpr double kStartSeconds = 0.003;
constexpr double kAuditionFadeSeconds = 0.005;
constexpr double kAuditionReleaseSeconds = 0.06;
constexpr float kAuditionCeiling = 0.5f;

template <class... F>
struct Either : F... {
  using F::operator()...;
};
template <class... F>
Either(F...) -> Either<F...>;

std::array<std::span<float>, 2> part(const std::array<std::span<float>, 2>& sides, std::size_t from, std::size_t n) {
  return {sides[0].subspan(from, n), sides[1].subspan(from, n)};
}

std::array<std::span<float>, 2> silent(std::array<std::vector<float>, 2>& room, std::size_t n) {
  for (auto& side : room) std::fill_n(side.begin(), n, 0.0F);
  return {std::span(room[0]).first(n), std::span(room[1]).first(n)};
}

std::int64_t nsNow() noexcept {
  return std::chrono::duration_cast<std::chrono::nanoseconds>(std::chrono::steady_clock::now().time_since_epoch())
      .count();
}

}  // namespace

Engine::Engine(int rate)
    : rate_(rate),
      fade_(static_cast<std::int64_t>(kJumpSeconds * rate)),
      chain_(rate),
      click_(rate),
      key_(rate, kMaxBlock),
      live_(rate),
      scratch_(kMaxBlock) {
  for (auto* room : {&leavingSound_, &aroundSound_, &trackSound_})
    for (auto& side : *room) side.resize(kMaxBlock);
  shape_.resize(kMaxBlock);
}

Engine::~Engine() = default;

void Engine::send(const TimedCommand& command) {
  unsent_.push_back(command);
  sendAgain();
}

void Engine::sendAgain() {
  while (!unsent_.empty() && commands_.tryPush(unsent_.front())) unsent_.pop_front();
}
void Engine::setBank(const std::shared_ptr<const LiveBank>& bank) {
  send({command::Bank{bank ? live_.give(bank) : nullptr}});
}
void Engine::play() { send({command::Play{}}); }
void Engine::stop() { send({command::Stop{}}); }
void Engine::seek(Frames to) { send({command::Seek{to}}); }
void Engine::setLoop(FrameRange range) { send({command::Loop{range}}); }
void Engine::setClick(bool on, double levelDb) {
  send({command::Click{on, static_cast<float>(std::pow(10.0, levelDb / 20.0))}});
}
void Engine::audition(const Audition& what) {
  if (!what.range.empty()) send({command::Hear{what}});
}
void Engine::tryKey(const TrackMask& tracks, double cents) { send({command::Key{tracks, cents}}); }
void Engine::setOriginal(bool original) { send({command::Version{original}}); }

bool Engine::setPlan(std::shared_ptr<const PlayPlan> plan) { return plans_.give(std::move(plan)); }

void Engine::collect() {
  live_.collect();
  sendAgain();
  plans_.collect();
}

/// Does what is due now; how many of the next frames there are until something else is.
std::size_t Engine::takeCommands(std::int64_t now, std::size_t most) noexcept {
  while (true) {
    if (!next_) {
      TimedCommand fresh;
      if (!commands_.tryPop(fresh)) return most;
      next_ = fresh;
    }
    if (next_->at > now) return static_cast<std::size_t>(std::min(static_cast<std::int64_t>(most), next_->at - now));
    if (!obey(next_->what)) {
      const auto soon = hushed_ ? static_cast<std::int64_t>(kStartSeconds * rate_) : fade_;
      return static_cast<std::size_t>(std::clamp<std::int64_t>(soon, 1, static_cast<std::int64_t>(most)));
    }
    next_.reset();
  }
}

/// Whether anything of the present place is heard: it is not yet in the very moment of a jump.
bool Engine::isHeard() const noexcept {
  constexpr float kLeastShare = 1e-3F;
  return level_ > 0 && now_.given && 1 - shareOfLeaving(0, false) > kLeastShare;
}

/// Whether there is room to go over from what is heard, or nothing is.
bool Engine::mayLeave() const noexcept {
  return !isHeard() || (key_.mayJump() &&
                        std::any_of(leaving_.begin(), leaving_.end(), [](const Leaving& l) { return l.left == 0; }));
}

/// Whether the place can change now. What runs at another speed was read ahead of what is heard: it falls silent first.
bool Engine::mayJump() noexcept {
  hushed_ = level_ > 0 && now_.given && !now_.given->plan().edited.speed->empty();
  return !hushed_ && mayLeave();
}

/// What is heard now goes from here on. Only after mayLeave() said so.
void Engine::leave() noexcept {
  if (!isHeard()) return;
  const auto free = std::find_if(leaving_.begin(), leaving_.end(), [](const Leaving& l) { return l.left == 0; });
  if (free == leaving_.end()) return;
  *free = {now_, 1 - shareOfLeaving(0, false), fade_};
  PlanFeed::use(now_.given);
}

void Engine::jumpTo(Frames to, const Audition& audition) noexcept {
  leave();
  now_.at = to;
  now_.audition = audition;
  now_.heardPeak = 0;
  keyedAt_ = to;
  key_.jump();
  if (level_ > 0) return;
  chain_.reset();
  if (now_.given && now_.given->plan().edited.racks) now_.given->plan().edited.racks->clear();
}

/// False when it has to wait a little.
bool Engine::obey(const Command& command) noexcept {
  return std::visit(Either{[&](const command::Play&) {
                             if (!now_.audition.range.empty()) {
                               if (!mayJump()) return false;
                               jumpTo(now_.at, {});
                             }
                             return running_ = true;
                           },
                           [&](const command::Stop&) {
                             running_ = false;
                             return true;
                           },
                           [&](const command::Seek& seek) {
                             if (!mayJump()) return false;
                             jumpTo(seek.to, {});
                             return true;
                           },
                           [&](const command::Loop& loop) {
                             loop_ = loop.range;
                             return true;
                           },
                           [&](const command::Click& click) {
                             clickOn_ = click.on;
                             clickGain_ = click.gain;
                             return true;
                           },
                           [&](const command::Version& version) {
                             if (version.original == now_.original) return true;
                             if (!mayLeave()) return false;
                             leave();
                             now_.original = version.original;
                             return true;
                           },
                           [&](const command::Hear& hear) {
                             if (!mayJump()) return false;
                             jumpTo(hear.what.range.start, hear.what);
                             return running_ = true;
                           },
                           [&](const command::Key& key) {
                             key_.want(key.tracks, key.cents);
                             return true;
                           },
                           [&](const command::Bank& bank) {
                             live_.use(bank.sounds);
                             return true;
                           },
                           [&](const command::Strike& strike) {
                             live_.strike(strike.sound, strike.strength);
                             return true;
                           },
                           [&](const command::Hush&) {
                             live_.hush();
                             return true;
                           }},
                    command);
}

void Engine::takePlan() noexcept {
  // One change at a time: while there is no room, newer plans wait.
  if (!mayLeave()) return;
  // Other effects, later or earlier than the ones before: silence lies between.
  changing_ = level_ > 0 && now_.given && plans_.next() &&
              plans_.next()->plan().edited.racks != now_.given->plan().edited.racks;
  if (changing_) return;
  auto* next = plans_.take();
  if (!next) return;
  leave();
  PlanFeed::leave(now_.given);
  now_.given = next;
  keyedAt_ = now_.at;
  key_.jump();
}

float Engine::shareOfLeaving(std::size_t frame, bool editedOnly) const noexcept {
  float sum = 0;
  for (const auto& l : leaving_)
    if (l.left > 0 && !(editedOnly && l.reading.original)) sum += l.shareIn(frame, fade_);
  return sum;
}

/// Fills from a frame on around a loop: see addAround.
template <class Fill>
void Engine::aroundLoop(FrameRange loop, Frames at, Sides out, Fill fill) noexcept {
  fill(at, out);
  const auto fade = std::min(fade_, loop.length().value / 2);
  const auto from = loop.end - Frames{fade};
  if (fade < 1 || at + Frames{std::ssize(out[0])} <= from) return;
  const auto first = static_cast<std::size_t>(std::max<std::int64_t>(0, (from - at).value));
  const auto rest = part(out, first, out[0].size() - first);
  const auto before = silent(aroundSound_, rest[0].size());
  const auto there = at + Frames{static_cast<std::int64_t>(first)};
  fill(there - loop.length(), before);
  for (std::size_t side = 0; side < 2; ++side)
    for (std::size_t i = 0; i < rest[side].size(); ++i) {
      const auto in =
          static_cast<float>((there - from).value + static_cast<std::int64_t>(i) + 1) / static_cast<float>(fade + 1);
      rest[side][i] += (before[side][i] - rest[side][i]) * in;
    }
}

/// Adds tracks from a frame on, all of which lie before the end of the loop, if there is one: shortly before it, what
/// lies before the loop comes in.
void Engine::addAround(const RenderPlan& plan, FrameRange loop, Frames at, Sides out, std::span<float> peaks,
                       const TrackMask& leftOut) noexcept {
  bool heard = true;  // the first filling is what is heard: its peaks count
  aroundLoop(loop, at, out, [&](Frames from, Sides to) {
    addMix(plan, from, to[0], to[1], scratch_, std::exchange(heard, false) ? peaks : std::span<float>(), leftOut);
  });
}

/// A track of what is read, before its effects and its gain.
void Engine::addTrackOf(const Reading& reading, FrameRange loop, std::size_t track, std::size_t from,
                        Sides out) noexcept {
  const auto& plan = reading.given->plan();
  const auto& version = reading.original ? plan.original : plan.edited;
  if (track >= version.tracks.size() || (!reading.original && key_.tracks()[track])) return;
  const auto& t = version.tracks[track];
  aroundLoop(loop, reading.at + Frames{static_cast<std::int64_t>(from)}, out, [&](Frames at, Sides to) {
    addTrack(t, 0, at, to[0]);
    if (t.channels.size() > 1)
      addTrack(t, 1, at, to[1]);
    else
      std::copy(to[0].begin(), to[0].end(), to[1].begin());
  });
}

/// What is heard of a track now, with what is jumped away from.
void Engine::readTrack(std::size_t track, std::size_t from, std::span<float> left, std::span<float> right) noexcept {
  const Sides out{left, right};
  addTrackOf(now_, rackLoop_, track, from, out);
  const bool fading = shareOfLeaving(0, false) > 0;
  if (!fading) return;
  for (std::size_t i = 0; i < left.size(); ++i) {
    const float share = 1 - shareOfLeaving(from + i, false);
    left[i] *= share;
    right[i] *= share;
  }
  for (auto& l : leaving_) {
    if (l.left == 0) continue;
    const auto sound = silent(trackSound_, left.size());
    addTrackOf(l.reading, {}, track, from, sound);
    for (std::size_t side = 0; side < 2; ++side)
      for (std::size_t i = 0; i < left.size(); ++i) out[side][i] += sound[side][i] * l.shareIn(from + i, fade_);
  }
}

/// The tracks with effects come to the others, and all goes through those of the mix.
void Engine::playRacks(Sides out, FrameRange loop) noexcept {
  const auto& plan = now_.given->plan();
  rackLoop_ = now_.audition.range.empty() ? loop : FrameRange{};
  const std::span<float> peaks(peaks_.data(), std::min(kMaxTracks, plan.edited.tracks.size()));
  std::fill(peaks.begin(), peaks.end(), 0.0F);
  const auto version = now_.original ? plan.originalGain : plan.editedGain;
  const bool shaped = !now_.audition.range.empty();
  const auto gains = std::span(shape_).first(out[0].size());
  if (!shaped) std::fill(gains.begin(), gains.end(), 1.0F);
  for (auto& g : gains) g *= version;
  addRacked(plan.edited, now_.at, out[0], out[1], *this, latest_, peaks, gains);
  meters_.raiseTracks(peaks);
}

void Engine::addReading(const Reading& reading, FrameRange loop, Sides out, bool meter) noexcept {
  const auto& plan = reading.given->plan();
  const auto& version = reading.original ? plan.original : plan.edited;
  const std::span<float> peaks(peaks_.data(), meter ? std::min(kMaxTracks, version.tracks.size()) : 0);
  addAround(version, loop, reading.at, out, peaks, version.racked | (reading.original ? TrackMask{} : key_.tracks()));
  meters_.raiseTracks(peaks);
  if (const float gain = reading.original ? plan.originalGain : plan.editedGain; gain != 1.0f)
    for (const auto& side : out)
      for (auto& s : side) s *= gain;
  if (reading.audition.range.empty() ? clickOn_ : reading.audition.click)
    click_.add(plan.clicks, clickGain_, reading.at, out[0], out[1]);
}

void Engine::shapeAudition(Reading& reading, Sides out, Sides keyed) noexcept {
  const auto& heard = reading.audition;
  if (heard.range.empty()) return;
  const auto fade = kAuditionFadeSeconds * rate_;
  const auto release = static_cast<float>(std::exp(-1.0 / (kAuditionReleaseSeconds * rate_)));
  for (std::size_t i = 0; i < out[0].size(); ++i) {
    const auto n = static_cast<double>((reading.at - heard.range.start).value) + static_cast<double>(i);
    const auto rest = static_cast<double>(heard.range.length().value) - n;
    auto gain = static_cast<float>(std::clamp(std::min(n, rest) / fade, 0.0, 1.0));
    const auto peak = [&](std::size_t side) {
      return std::abs(out[side][i] + (keyed[side].empty() ? 0.0F : keyed[side][i]));
    };
    reading.heardPeak = std::max({reading.heardPeak * release, peak(0), peak(1)});
    if (&reading == &now_) shape_[i] = gain;
    if (heard.lift > 1 && !reading.given->plan().edited.racks)
      gain *= std::min(heard.lift, kAuditionCeiling / std::max(1e-6f, reading.heardPeak));
    for (std::size_t side = 0; side < 2; ++side) {
      out[side][i] *= gain;
      if (!keyed[side].empty()) keyed[side][i] *= gain;
    }
  }
}

void Engine::readKeyed(std::span<float> left, std::span<float> right) noexcept {
  std::fill(left.begin(), left.end(), 0.0f);
  std::fill(right.begin(), right.end(), 0.0f);
  const auto loop = loopNow();
  const auto& plan = now_.given->plan();
  const std::span<float> peaks(peaks_.data(), std::min(kMaxTracks, plan.edited.tracks.size()));
  const Sides sides{left, right};
  for (std::size_t done = 0; done < left.size();) {
    auto n = std::min(left.size() - done, kMaxBlock);
    const bool looping = !loop.empty() && keyedAt_ < loop.end;
    if (looping) n = std::min(n, static_cast<std::size_t>((loop.end - keyedAt_).value));
    addAround(plan.edited, looping && now_.audition.range.empty() ? loop : FrameRange{}, keyedAt_, part(sides, done, n),
              peaks, ~key_.tracks());
    meters_.raiseTracks(peaks);
    done += n;
    keyedAt_ += Frames{static_cast<std::int64_t>(n)};
    if (looping && keyedAt_ == loop.end) keyedAt_ = loop.start;
  }
  if (const float gain = plan.editedGain; gain != 1.0f)
    for (const auto& side : sides)
      for (auto& s : side) s *= gain;
}

/// The notes of the next frames, and when they are heard: as much later than the block's beginning as they lie behind
/// what is heard then.
void Engine::tellNotes(std::size_t frames) noexcept {
  constexpr std::int64_t kLength = 60'000'000;  // ns
  constexpr int kHardest = 127;
  constexpr unsigned char kOn = 0x99;  // on the percussion channel
  constexpr unsigned char kOff = 0x89;
  if (!notes_ || !notes_->wanted() || !running_ || !now_.given || now_.original || !now_.audition.range.empty()) return;
  const auto& all = now_.given->plan().notes;
  auto note = std::partition_point(all.begin(), all.end(), [&](const LayerNote& n) { return n.at < now_.at; });
  const auto end = now_.at + Frames{static_cast<std::int64_t>(frames)};
  const double pace = speed() > 0 ? speed() : 1;
  for (; note != all.end() && note->at < end; ++note) {
    auto behind = note->at + turned_ - heardThen_;
    if (behind.value < 0) behind += loop_.length();
    const auto due = blockBegan_ + notes_->delay() +
                     static_cast<std::int64_t>(1e9 * static_cast<double>(behind.value) / (rate_ * pace));
    const auto key = static_cast<unsigned char>(note->key);
    const auto hard = static_cast<unsigned char>(std::clamp(std::lround(note->strength * kHardest), 1L, 127L));
    notes_->put({due, {kOn, key, hard}});
    notes_->put({due + kLength, {kOff, key, 0}});
  }
}

/// Frames that no jump's fade ends in, all before the end of the loop.
void Engine::renderPart(Sides out, FrameRange loop) noexcept {
  const auto n = out[0].size();
  tellNotes(n);
  if (now_.given) {
    if (key_.follow()) keyedAt_ = now_.at;
    addReading(now_, now_.audition.range.empty() ? loop : FrameRange{}, out, true);
    Sides keyed;
    if (key_.tracks().any()) {
      KeyedSource source(*this);
      keyed = key_.hear(n, source);
    }
    shapeAudition(now_, out, keyed);
    const bool fading = shareOfLeaving(0, false) > 0;
    for (std::size_t i = 0; i < n && (fading || !keyed[0].empty()); ++i) {
      const float share = fading ? 1 - shareOfLeaving(i, false) : 1;
      const float edited = (now_.original ? 0 : share) + (fading ? shareOfLeaving(i, true) : 0);
      for (std::size_t side = 0; side < 2; ++side) {
        out[side][i] *= share;
        if (!keyed[side].empty()) out[side][i] += edited * keyed[side][i];
      }
    }
  }
  for (auto& l : leaving_) {
    if (l.left == 0) continue;
    const auto sound = silent(leavingSound_, n);
    addReading(l.reading, {}, sound, false);
    shapeAudition(l.reading, sound, {});
    for (std::size_t side = 0; side < 2; ++side)
      for (std::size_t i = 0; i < n; ++i) out[side][i] += sound[side][i] * l.shareIn(i, fade_);
  }
  if (now_.given && now_.given->plan().edited.racks) playRacks(out, loop);
  for (auto& l : leaving_) {
    if (l.left == 0) continue;
    l.reading.at += Frames{static_cast<std::int64_t>(n)};
    l.left -= static_cast<std::int64_t>(n);
    if (l.left == 0) PlanFeed::leave(l.reading.given);
  }
  now_.at += Frames{static_cast<std::int64_t>(n)};
}

/// What is played around; empty where nothing is.
FrameRange Engine::loopNow() const noexcept {
  const auto& loop = now_.audition.range.empty() ? loop_ : now_.audition.range;
  return running_ && !loop.empty() && now_.at < loop.end ? loop : FrameRange{};
}

void Engine::read(std::span<float> left, std::span<float> right) noexcept {
  const Sides sides{left, right};
  for (std::size_t done = 0; done < left.size();) {
    auto n = std::min(left.size() - done, kMaxBlock);
    const auto loop = loopNow();
    if (!loop.empty()) n = std::min(n, static_cast<std::size_t>((loop.end - now_.at).value));
    for (const auto& l : leaving_)
      if (l.left > 0) n = std::min(n, static_cast<std::size_t>(l.left));
    renderPart(part(sides, done, n), loop);
    if (!loop.empty() && now_.at == loop.end) {
      now_.at = loop.start;
      turned_ += loop.length();
      if (!now_.audition.range.empty() && !now_.audition.loop) {  // its own fade has brought it to silence
        running_ = false, ended_ = true, now_.audition = {};
        break;
      }
    }
    done += n;
  }
}

double Engine::speed() const noexcept {
  if (!now_.given || !now_.audition.range.empty()) return 0;
  const auto& speed = *now_.given->plan().edited.speed;
  return speed.empty() ? 0 : valueAt(speed, now_.at, 100) / 100;
}

bool Engine::keepsPitch() const noexcept { return now_.given && now_.given->plan().edited.manner.keepsPitch; }

/// What is heard lies behind what is read, around the loop.
Frames Engine::heardAt() const noexcept {
  if (!running_) return now_.at;
  auto heard = now_.at - chain_.ahead();
  if (now_.given && now_.given->plan().edited.racks) heard -= now_.given->plan().edited.racks->latency;
  if (!loop_.empty() && heard < loop_.start && loop_.contains(now_.at)) heard += loop_.length();
  return heard;
}

/// Frames that no command falls into.
void Engine::playPart(std::span<float> left, std::span<float> right) noexcept {
  const double step = 1.0 / (kStartSeconds * rate_);
  if (!running_ && level_ <= 0) {  // nothing sounds: a change is done at once
    key_.settle();
    keyedAt_ = now_.at;
    for (auto& l : leaving_)
      if (std::exchange(l.left, 0) > 0) PlanFeed::leave(l.reading.given);
    return;
  }
  if (hushed_ && level_ <= 0) return;
  chain_.process(left, right, *this);
  if (std::exchange(ended_, false)) {
    level_ = 0;
    return meters_.raiseMaster(left, right);
  }
  for (std::size_t i = 0; i < left.size(); ++i) {
    const bool on = running_ && !hushed_ && !changing_;
    if (on ? level_ < 1 : level_ > 0) level_ = std::clamp(level_ + (on ? step : -step), 0.0, 1.0);
    if (level_ < 1) {
      left[i] *= static_cast<float>(level_);
      right[i] *= static_cast<float>(level_);
    }
  }
  meters_.raiseMaster(left, right);
}

/// Keys that were pressed since the last block: struck at once, and told.
void Engine::takeKeys() noexcept {
  constexpr float kHardest = 127;
  KeyPress pressed;
  while (keys_ && keys_->take(pressed)) {
    const int first = keys_->strikesFrom();
    const bool strikes = first != KeyStream::kNoKeys && pressed.key >= first;
    if (strikes) live_.strike(pressed.key - first, static_cast<float>(pressed.velocity) / kHardest);
    keys_->tell({pressed, heardAt(), running_, strikes});
  }
}

void Engine::process(std::span<float> left, std::span<float> right) noexcept {
  std::fill(left.begin(), left.end(), 0.0f);
  std::fill(right.begin(), right.end(), 0.0f);
  // Effects have most of the block's time; what is late is passed by.
  constexpr double kForEffects = 0.8;
  if (now_.given && now_.given->plan().edited.racks)
    latest_ = Effect::Clock::now() + std::chrono::nanoseconds(static_cast<std::int64_t>(
                                         kForEffects * 1e9 * static_cast<double>(left.size()) / rate_));
  takePlan();
  takeKeys();
  if (notes_ && notes_->wanted()) {
    blockBegan_ = nsNow();
    heardThen_ = heardAt();
    turned_ = {};
  }
  for (std::size_t done = 0; done < left.size();) {
    const auto n = takeCommands(clock_, left.size() - done);
    playPart(left.subspan(done, n), right.subspan(done, n));
    if (live_.sounding()) {
      live_.add(left.subspan(done, n), right.subspan(done, n));
      meters_.raiseMaster(left.subspan(done, n), right.subspan(done, n));
    }
    done += n;
    clock_ += static_cast<std::int64_t>(n);
  }
  told_.store(clock_, std::memory_order_relaxed);
  position_.store(heardAt().value, std::memory_order_relaxed);
  playing_.store(running_, std::memory_order_relaxed);
}

}  // namespace ochron
