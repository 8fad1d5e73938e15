#include "play/live_voices.h"

#include <algorithm>

namespace ochron {
namespace {

constexpr double kEndSeconds = 0.005;

}  // namespace

LiveVoices::LiveVoices(int rate) : fade_(std::max<std::int64_t>(1, static_cast<std::int64_t>(kEndSeconds * rate))) {}

LiveVoices::Given* LiveVoices::give(std::shared_ptr<const LiveBank> bank) {
  alive_.push_back(std::make_unique<Given>(std::move(bank)));
  return alive_.back().get();
}

void LiveVoices::collect() {
  std::erase_if(alive_, [](const auto& g) { return g->done_.load(std::memory_order_acquire); });
}

void LiveVoices::release(Given* given) noexcept {
  if (given && --given->users_ == 0) given->done_.store(true, std::memory_order_release);
}

void LiveVoices::use(Given* bank) noexcept {
  if (bank) ++bank->users_;
  release(now_);
  now_ = bank;
}

void LiveVoices::strike(int sound, float strength) noexcept {
  if (!now_ || sound < 0 || static_cast<std::size_t>(sound) >= now_->bank_->sounds.size()) return;
  const auto& struck = now_->bank_->sounds[static_cast<std::size_t>(sound)];
  if (struck.channels.empty() || struck.channels.front().empty()) return;
  for (auto& v : voices_)
    if (v.given && v.ending < 0 && (v.sound == &struck || (struck.choke != 0 && v.sound->choke == struck.choke)))
      v.ending = fade_;
  auto* free = &voices_.front();
  for (auto& v : voices_) {
    if (!v.given) {
      free = &v;
      break;
    }
    if (v.age < free->age) free = &v;  // the oldest gives way
  }
  if (free->given) end(*free);
  const float gain = struck.gain * strength;
  *free = {now_, &struck,  0, gain * std::min(1.0F, 1 - struck.pan), gain * std::min(1.0F, 1 + struck.pan),
           -1,   ++struck_};
  ++now_->users_;
  ++sounding_;
}

void LiveVoices::hush() noexcept {
  for (auto& v : voices_)
    if (v.given && v.ending < 0) v.ending = fade_;
}

void LiveVoices::end(Voice& voice) noexcept {
  release(voice.given);
  voice.given = nullptr;
  --sounding_;
}

void LiveVoices::addVoice(Voice& v, std::span<float> left, std::span<float> right) noexcept {
  const auto& channels = v.sound->channels;
  const auto& l = channels.front();
  const auto& r = channels.back();
  const auto n = std::min(left.size(), l.size() - v.at);
  for (std::size_t i = 0; i < n; ++i) {
    float share = 1;
    if (v.ending >= 0) {
      if (v.ending == 0) return end(v);
      share = static_cast<float>(v.ending--) / static_cast<float>(fade_);
    }
    left[i] += l[v.at + i] * v.left * share;
    right[i] += r[v.at + i] * v.right * share;
  }
  v.at += n;
  if (v.at >= l.size()) end(v);
}

void LiveVoices::add(std::span<float> left, std::span<float> right) noexcept {
  if (sounding_ == 0) return;
  for (auto& v : voices_)
    if (v.given) addVoice(v, left, right);
}

}  // namespace ochron
