#include "render/clip_reader.h"

#include <algorithm>
#include <cmath>

#include "dsp/fade.h"

namespace ochron {
namespace {

constexpr double kPreviewJoinMs = 3;

FrameRange common(FrameRange a, FrameRange b) { return {std::max(a.start, b.start), std::min(a.end, b.end)}; }

Ramp joint(Frames length, double likeness) {
  return {Ramp::Kind::crossfade, length, FadeShape::line, 0, CrossfadeLaw::matched, likeness};
}

}  // namespace

ClipReader::ClipReader(const Clip& clip, const Source& source, const ClipSound* made, int channel)
    : clip_(clip),
      source_(source),
      made_(made),
      channel_(std::min(channel, source.media->channels() - 1)),
      rate_(source.media->rate()) {}

void ClipReader::add(FrameRange stretched, const Samples& samples, std::int64_t origin,
                     std::vector<SoundPiece>& out) const {
  const auto there = common(stretched, {Frames{-origin}, Frames{std::ssize(samples) - origin}});
  if (there.empty()) return;
  SoundPiece p;
  p.range = there;
  p.samples = samples;
  p.origin = origin;
  out.push_back(std::move(p));
}

void ClipReader::addPlain(const EvenPiece& even, std::vector<SoundPiece>& out) const {
  add(even.range, source_.media->channel(channel_), (even.take - even.range.start - source_.offset).value, out);
}

std::span<const float> ClipReader::channelOf(const ClipSound::Part& part) const {
  const auto first = made_->firstChannel.find(source_.id);
  if (first == made_->firstChannel.end()) return {};
  return part.sound->channel(first->second + channel_).floats();
}

void ClipReader::addPreview(FrameRange whole, FrameRange range, std::vector<SoundPiece>& out) const {
  const auto first = clip_.map.take(whole.start);
  const auto last = clip_.map.take(whole.end);
  const auto shorter = std::min(last - first, whole.length());
  const auto overlap = shorter * 2 - whole.length();
  const auto longest = framesFromMs(kPreviewJoinMs, rate_);
  const auto fade = overlap.value > 0 ? std::min(overlap, longest) : std::min(longest, shorter);
  const FrameRange forward{whole.start, whole.start + shorter};
  const FrameRange back{overlap.value > 0 ? forward.end - fade : whole.end - shorter, whole.end};
  const auto samples = source_.media->channel(channel_);
  const auto ramp = joint(fade, 0);
  const auto here = out.size();
  add(forward, samples, (first - whole.start - source_.offset).value, out);
  if (out.size() > here && out.back().range.end == forward.end) out.back().out = ramp;
  const auto next = out.size();
  add(back, samples, (last - whole.end - source_.offset).value, out);
  if (out.size() > next && out.back().range.start == back.start) out.back().in = ramp;
  // Ramps lie at the ends; what is cut off there needs none.
  for (auto i = here; i < out.size(); ++i) {
    auto& p = out[i];
    if (p.range.start < range.start) {
      p.range.start = range.start;
      p.in = {};
    }
    if (p.range.end > range.end) {
      p.range.end = range.end;
      p.out = {};
    }
  }
  out.erase(std::remove_if(out.begin() + static_cast<std::ptrdiff_t>(here), out.end(),
                           [](const SoundPiece& p) { return p.range.empty(); }),
            out.end());
}

/// What lies between the pins, by what is made of it.
void ClipReader::addMade(FrameRange range, std::vector<SoundPiece>& out) const {
  for (const auto& even : clip_.map.pieces(range)) {
    const auto part = !made_ ? std::vector<ClipSound::Part>::const_iterator{}
                             : std::partition_point(made_->parts.begin(), made_->parts.end(),
                                                    [&](const auto& p) { return p.range.end <= even.range.start; });
    if (!clip_.extras->retuned() && made_ && part != made_->parts.end() && part->sound &&
        part->range.start <= even.range.start) {
      add(even.range, channelOf(*part), -part->range.start.value, out);
    } else if (even.speed == 1.0) {
      addPlain(even, out);
    } else {
      const auto& pins = clip_.map.pins();
      const auto b = std::upper_bound(pins.begin(), pins.end(), even.range.start,
                                      [](Frames f, const Pin& x) { return f < x.stretched; });
      addPreview({(b - 1)->stretched, b->stretched}, even.range, out);
    }
  }
}

/// Parts with a pitch envelope: each sounds on into the next, where they are joined.
void ClipReader::addPitched(FrameRange range, std::vector<SoundPiece>& out) const {
  auto at = range.start;
  for (std::size_t i = 0; i < made_->parts.size(); ++i) {
    const auto& part = made_->parts[i];
    const auto here = common(range, part.range);
    if (here.empty()) continue;
    at = here.end;
    if (!part.sound) {
      addMade(here, out);
      continue;
    }
    const auto own = channelOf(part);
    const auto* before = i > 0 && made_->parts[i - 1].range.end == part.range.start ? &made_->parts[i - 1] : nullptr;
    const auto joinEnd = part.range.start + kMadeTail;
    auto from = here.start;
    if (before && before->sound && from < joinEnd && !own.empty()) {
      const auto x = channelOf(*before).last(static_cast<std::size_t>(kMadeTail.value));
      const auto y = own.first(x.size());
      std::vector<float> joint(x.begin(), x.end());
      crossInto(joint, y);
      SoundPiece p;
      p.range = {from, std::min(joinEnd, here.end)};
      p.origin = -p.range.start.value;
      const auto first = joint.begin() + (from - part.range.start).value;
      p.own.assign(first, first + p.range.length().value);
      from = p.range.end;
      out.push_back(std::move(p));
    }
    add({from, here.end}, own, -part.range.start.value, out);
  }
  if (at < range.end) addMade({at, range.end}, out);
}

/// From stretched time to song time.
void ClipReader::place(std::vector<SoundPiece>& pieces) const {
  for (auto& p : pieces) {
    if (!clip_.reversed) {
      p.origin -= clip_.shift().value;
      p.range = {clip_.placed(p.range.start), clip_.placed(p.range.end)};
      continue;
    }
    p.origin += clip_.unplaced(Frames{0}).value;
    p.step = -1;
    p.range = {clip_.placed(p.range.end) + Frames{1}, clip_.placed(p.range.start) + Frames{1}};
    std::swap(p.in, p.out);
  }
  if (clip_.reversed) std::reverse(pieces.begin(), pieces.end());
}

std::vector<SoundPiece> ClipReader::pieces(FrameRange song) const {
  std::vector<SoundPiece> out;
  if (song.empty()) return out;
  const FrameRange range =
      clip_.reversed ? FrameRange{clip_.unplaced(song.end - Frames{1}), clip_.unplaced(song.start) + Frames{1}}
                     : FrameRange{clip_.unplaced(song.start), clip_.unplaced(song.end)};
  if (clip_.extras->retuned() && made_)
    addPitched(range, out);
  else
    addMade(range, out);
  place(out);
  return out;
}

std::span<const float> ClipReader::samples(FrameRange song, std::vector<float>& room) const {
  const auto all = pieces(song);
  auto at = song.start;
  for (const auto& p : all) {
    if (p.range.start > at) return {};
    at = p.range.end;
  }
  if (at < song.end || all.empty()) return {};
  if (all.size() == 1 && all.front().own.empty()) return all.front().heard(song).in(room);
  return room = copy(song);
}

std::vector<float> ClipReader::copy(FrameRange song) const {
  std::vector<float> out(static_cast<std::size_t>(std::max<std::int64_t>(0, song.length().value)), 0.0F);
  for (const auto& p : pieces(song))
    p.heard(p.range).read(std::span(out).subspan(static_cast<std::size_t>((p.range.start - song.start).value),
                                                 static_cast<std::size_t>(p.range.length().value)));
  return out;
}

}  // namespace ochron
