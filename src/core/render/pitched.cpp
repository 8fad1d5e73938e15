#include "render/pitched.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <span>

#include "dsp/formants.h"
#include "dsp/grain_shift.h"
#include "dsp/repitch.h"
#include "render/made_key.h"
#include "render/moved_sound.h"

namespace ochron {
namespace {

constexpr double kGrainLeadMs = 100;        // before what is heard, so that it is at its pitch from the first frame on
constexpr double kPitchLeadSeconds = 0.25;  // read before and after what is made

/// Two channels as one sound of two sides, from a frame on; silent before and after.
class SoundBeside : public GrainShift::Source {
 public:
  SoundBeside(std::span<const float> left, std::span<const float> right, std::int64_t from)
      : sides_{left, right}, at_(from) {}
  void read(std::span<float> left, std::span<float> right) noexcept override {
    copy(sides_[0], at_, left);
    copy(sides_[1], at_, right);
    at_ += std::ssize(left);
  }

 private:
  static void copy(std::span<const float> side, std::int64_t from, std::span<float> to) noexcept {
    for (std::size_t i = 0; i < to.size(); ++i) {
      const auto f = from + static_cast<std::int64_t>(i);
      to[i] = f >= 0 && f < std::ssize(side) ? side[static_cast<std::size_t>(f)] : 0.0F;
    }
  }
  std::array<std::span<const float>, 2> sides_;
  std::int64_t at_;
};

}  // namespace

FrameRange pitchReads(FrameRange range, int rate) {
  const Frames lead{static_cast<std::int64_t>(kPitchLeadSeconds * rate)};
  return {range.start - lead, range.end + kMadeTail + lead};
}

Channels pitched(const Clip& clip, const Channels& sound, FrameRange reads, FrameRange range, int rate,
                 std::optional<double> formants) {
  const auto n = static_cast<std::size_t>(reads.length().value);
  std::vector<double> at(n + 1, 0.0);  // in the stretched sound
  for (std::size_t i = 0; i < n; ++i) {
    const auto take = clip.map.take(reads.start + Frames{static_cast<std::int64_t>(i)});
    at[i + 1] = at[i] + std::exp2(valueAt(clip.extras->pitch, take, 0) / 1200);
  }
  const auto first = static_cast<std::size_t>((range.start - reads.start).value);
  const auto count = static_cast<std::size_t>((range.length() + kMadeTail).value);
  Channels recorded;
  for (const auto& x : sound)
    recorded.emplace_back(x.begin() + static_cast<std::ptrdiff_t>(first),
                          x.begin() + static_cast<std::ptrdiff_t>(first + count));
  auto out = clip.extras->pitch.empty() ? recorded : repitched(rate, {sound.begin(), sound.end()}, at, first, count);
  if (!formants) return out;
  const double wanted = std::exp2(*formants / 1200);
  for (std::size_t c = 0; c < out.size(); ++c)
    out[c] = withFormants(out[c], recorded[c], rate, [&](std::size_t i) {
      return FormantPlace{at[first + i + 1] - at[first + i], wanted};
    });
  return out;
}

Voices retunedLine(const Clip& clip, FrameRange take, const Voices& voices) {
  const auto formants = heldFormants(clip.extras->formants, voices.method);
  const auto centsAt = [&](std::size_t value) {
    const double seconds = PitchTrack::secondsAt(value);
    return valueAt(clip.extras->pitch, Frames{std::llround(seconds * voices.rate)}, 0);
  };
  const auto& track = voices.line->track;
  const auto moved = transposed(track, centsAt, [&](std::size_t v) { return formants.value_or(centsAt(v)); });
  Channels recorded;
  for (const auto& v : voices.list) recorded.push_back(v.read(take.start, take.length().value));
  auto sound = recorded;
  for (const auto& s : moved) {
    const auto start = windowStart(s, voices.rate);
    if (start >= take.end || windowEnd(s, voices.rate) <= take.start) continue;
    const auto window = movedWindow(voices, track, s);
    for (std::size_t c = 0; c < sound.size(); ++c) layWindow(window[c], start - take.start, recorded[c], sound[c]);
  }
  Voices out = voices;
  KeyMaker key(voices, "retuned line");
  for (const auto& e : clip.extras->pitch) key.add(e.at.value, e.value, e.bend);
  key.add(formants.has_value(), formants.value_or(0));
  out.digest = key.value();
  out.line = {};
  for (std::size_t c = 0; c < sound.size(); ++c) {
    out.list[c].sound = DecodedMedia::fromSamples(voices.rate, {std::move(sound[c])});
    out.list[c].channel = 0;
    out.list[c].offset = take.start;
  }
  return out;
}

Channels quicklyPitched(const Clip& clip, const Channels& sound, FrameRange reads, FrameRange range, int rate) {
  constexpr std::int64_t kBlock = 256;  // frames of one pitch
  const auto first = (range.start - reads.start).value;
  const auto count = (range.length() + kMadeTail).value;
  Channels out(sound.size(), std::vector<float>(static_cast<std::size_t>(count)));
  std::vector<float> unused(static_cast<std::size_t>(kBlock));
  std::vector<float> unheard(static_cast<std::size_t>(kBlock));
  for (std::size_t c = 0; c < out.size(); c += 2) {
    const bool pair = c + 1 < out.size();
    const auto lead = framesFromMs(kGrainLeadMs, rate).value / kBlock * kBlock;
    SoundBeside source(sound[c], sound[pair ? c + 1 : c], first - lead);
    GrainShift shift(rate);
    for (std::int64_t i = -lead; i < count; i += kBlock) {
      const auto n = static_cast<std::size_t>(std::min(kBlock, count - i));
      const auto place = clip.map.take(range.start + Frames{i});
      shift.setCents(valueAt(clip.extras->pitch, place, 0));
      if (i < 0) {
        shift.process(unused, unheard, source);
        continue;
      }
      const auto left = std::span(out[c]).subspan(static_cast<std::size_t>(i), n);
      const auto right =
          pair ? std::span(out[c + 1]).subspan(static_cast<std::size_t>(i), n) : std::span(unused).first(n);
      shift.process(left, right, source);
    }
  }
  return out;
}

}  // namespace ochron
