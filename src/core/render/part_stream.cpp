#include "render/part_stream.h"

#include <algorithm>
#include <utility>

#include "dsp/fade.h"

namespace ochron {
namespace {

constexpr std::int64_t kPassed = 4'096;  // frames at once

std::span<float> part(std::vector<float>& all, std::int64_t from, std::int64_t frames) {
  return std::span(all).subspan(static_cast<std::size_t>(from), static_cast<std::size_t>(frames));
}

}  // namespace

LayOver::LayOver(const Voices& voices, std::vector<Laid> laid, StreamSink next)
    : voices_(voices), laid_(std::move(laid)), next_(std::move(next)), held_(voices.list.size()) {}

bool LayOver::operator()(ChannelSpans made) {
  for (std::size_t v = 0; v < held_.size(); ++v) held_[v].insert(held_[v].end(), made[v].begin(), made[v].end());
  while (nextLaid_ < laid_.size()) {
    const auto& l = laid_[nextLaid_];
    const auto until = given_ + std::ssize(held_.front());
    if (l.at + l.frames > until) return pass(static_cast<std::size_t>(std::clamp(l.at, given_, until) - given_));
    lay(l);
    ++nextLaid_;
  }
  return finish();
}

bool LayOver::finish() { return pass(held_.front().size()); }

bool LayOver::pass(std::size_t frames) {
  if (frames == 0) return true;
  std::vector<std::span<float>> spans;
  for (auto& h : held_) spans.push_back(std::span(h).first(frames));
  if (!next_(spans)) return false;
  for (auto& h : held_) h.erase(h.begin(), h.begin() + static_cast<std::ptrdiff_t>(frames));
  given_ += static_cast<std::int64_t>(frames);
  return true;
}

void LayOver::lay(const Laid& l) {
  for (std::size_t v = 0; v < held_.size(); ++v) {
    auto recorded = voices_.list[v].read(l.take, l.frames);
    const auto made = part(held_[v], l.at - given_, l.frames);
    const auto in = static_cast<std::size_t>(l.in);
    const auto out = static_cast<std::size_t>(l.out);
    if (out > 0) crossInto(std::span(recorded).last(out), made.last(out));
    if (in > 0) crossInto(made.first(in), std::span(recorded).first(in));
    std::copy(recorded.begin() + l.in, recorded.end(), made.begin() + l.in);
  }
}

Trimmed::Trimmed(std::int64_t skip, std::int64_t frames, StreamSink next)
    : skip_(skip), left_(frames), next_(std::move(next)) {}

bool Trimmed::operator()(ChannelSpans made) {
  const auto here = std::ssize(made.front());
  const auto from = std::min(skip_, here);
  const auto n = std::min(left_, here - from);
  skip_ -= from;
  left_ -= n;
  if (n == 0) return true;
  std::vector<std::span<float>> spans;
  for (const auto& m : made) spans.push_back(m.subspan(static_cast<std::size_t>(from), static_cast<std::size_t>(n)));
  return next_(spans);
}

StreamSource takeSource(const Voices& voices, Frames from, std::int64_t frames) {
  return [&voices, from, frames](std::size_t at, ChannelSpans channels) {
    const auto there = static_cast<std::int64_t>(at);
    const auto n = std::clamp<std::int64_t>(frames - there, 0, std::ssize(channels.front()));
    for (std::size_t v = 0; v < channels.size(); ++v)
      voices.list[v].read(from + Frames{there}, channels[v].first(static_cast<std::size_t>(n)));
  };
}

bool goesOn(const StreamSink& to, std::size_t channels) {
  const std::vector<std::span<float>> none(channels);
  return to(none);
}

bool passOn(const StreamSource& source, std::size_t channels, FrameRange range, const StreamSink& to) {
  std::vector<std::vector<float>> room(channels);
  std::vector<std::span<float>> spans(channels);
  for (auto at = range.start.value; at < range.end.value; at += kPassed) {
    const auto n = static_cast<std::size_t>(std::min(kPassed, range.end.value - at));
    for (std::size_t c = 0; c < channels; ++c) {
      room[c].assign(n, 0.0F);
      spans[c] = room[c];
    }
    source(static_cast<std::size_t>(at), spans);
    if (!to(spans)) return false;
  }
  return true;
}

bool passOn(const std::vector<std::vector<float>>& sound, const StreamSink& to) {
  const auto source = [&](std::size_t at, ChannelSpans channels) {
    for (std::size_t c = 0; c < channels.size(); ++c)
      std::copy_n(sound[c].begin() + static_cast<std::ptrdiff_t>(at), channels[c].size(), channels[c].begin());
  };
  return passOn(source, sound.size(), {Frames{}, Frames{std::ssize(sound.front())}}, to);
}

}  // namespace ochron
