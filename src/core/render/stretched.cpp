#include "render/stretched.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <span>

#include "dsp/fade.h"
#include "dsp/stream_stretch.h"
#include "dsp/varispeed.h"
#include "render/splices.h"

namespace ochron {
namespace {

constexpr double kHoldMs = 45;               // of each attack, played as recorded
constexpr double kJoinMs = 10;               // crossfade from the attack into the stretched sustain
constexpr double kBeforePinMs = 12;          // crossfade back to the recording, ending at the pin
constexpr std::int64_t kLeastSustain = 512;  // shorter than this is not worth an engine's window
constexpr double kAroundMs = 20;             // beside what goes through the engine
constexpr double kUntouchedMs = 4;           // before the next attack
constexpr double kMostByOneSplice = 0.5;     // of a sustain, that one jump may repeat or leave out
constexpr double kOneSpliceMs = 28;
constexpr double kMostBySplices = 0.2;  // of a sustain, that several may
constexpr double kSpliceMs = 5;         // crossfade where nothing is stretched

/// The sound after `a`, crossfaded to the sound before `b` as late as it holds no attack of `b`. Where both together do
/// not reach over the whole there is silence between them, faded on both sides.
void splice(const Pin& a, const Pin& b, const Voice& voice, int rate, std::vector<float>& out) {
  const auto source = (b.take - a.take).value;
  const auto target = (b.stretched - a.stretched).value;
  const auto forward = voice.read(a.take, std::min(source, target));
  const auto back = voice.read(b.take - Frames{std::min(source, target)}, std::min(source, target));
  const auto first = target - std::ssize(back);  // where `back` begins
  const auto end = std::ssize(forward);
  const auto longest = std::min(framesFromMs(kSpliceMs, rate).value, end);
  std::copy(forward.begin(), forward.end(), out.begin());
  if (end > first) {
    const auto fade = static_cast<std::size_t>(std::min(end - first, longest));
    const auto from = static_cast<std::size_t>(end) - fade;
    const auto later = std::span<const float>(back).subspan(from - static_cast<std::size_t>(first));
    crossInto(std::span(out).subspan(from, fade), later.first(fade));
    std::copy(later.begin() + static_cast<std::ptrdiff_t>(fade), later.end(),
              out.begin() + static_cast<std::ptrdiff_t>(from + fade));
    return;
  }
  std::copy(back.begin(), back.end(), out.begin() + first);
  for (std::int64_t i = 0; i < longest; ++i) {
    const float g = static_cast<float>(i + 1) / static_cast<float>(longest + 1);
    out[static_cast<std::size_t>(end - 1 - i)] *= g;
    out[static_cast<std::size_t>(first + i)] *= g;
  }
}

/// A few jumps inside the sustain: all else is the recording to the bit. None where the change is too large for that.
Channels bySplices(const Pin& a, const Pin& b, const Voices& voices, std::int64_t hold) {
  const auto source = (b.take - a.take).value;
  const auto change = (b.stretched - a.stretched).value - source;
  const auto last = source - framesFromMs(kUntouchedMs, voices.rate).value;
  const auto sustain = static_cast<double>(last - hold);
  const double one =
      std::min(kMostByOneSplice * sustain, static_cast<double>(framesFromMs(kOneSpliceMs, voices.rate).value));
  if (static_cast<double>(std::abs(change)) > std::max(one, kMostBySplices * sustain)) return {};
  Channels sound;
  std::vector<std::span<const float>> in;
  for (const auto& v : voices.list) sound.push_back(v.read(a.take, source));
  for (const auto& x : sound) in.emplace_back(x);
  const auto splices = splicesFor(in, change, {voices.rate, hold, last});
  if (splices.empty()) return {};
  for (auto& x : sound) x = along(x, splices);
  return sound;
}

/// What sounds in a stretch of take time brought to so many frames by the engine. An engine takes the end of what it is
/// given for a stroke: it gets up to `before` frames of what was played before, and after the end the sound turned
/// round and fading out, for what follows in the recording is the next attack.
Channels sustainOf(FrameRange take, std::int64_t frames, std::int64_t before, const Voices& voices) {
  const auto around = framesFromMs(kAroundMs, voices.rate).value;
  const auto lead = std::min(around, before);
  const auto length = take.length().value;
  const auto tail = std::min(around, length);
  Channels given;
  std::vector<std::span<const float>> in;
  for (const auto& v : voices.list) {
    auto& x = given.emplace_back(v.read(take.start - Frames{lead}, lead + length));
    for (std::int64_t i = 0; i < tail; ++i) {
      const double fade = std::cos((static_cast<double>(i) + 0.5) / static_cast<double>(tail) * std::numbers::pi / 2);
      x.push_back(x[static_cast<std::size_t>(lead + length - 1 - i)] * static_cast<float>(fade));
    }
  }
  for (const auto& x : given) in.emplace_back(x);
  const auto at = [](std::int64_t frame) { return static_cast<std::size_t>(frame); };
  auto made = soundStretched(voices.rate, in,
                             {at(lead + length + tail),
                              at(lead + frames + tail),
                              {{at(lead), at(lead)}, {at(lead + length), at(lead + frames)}}});
  for (auto& y : made) y = {y.begin() + lead, y.begin() + lead + frames};
  return made;
}

}  // namespace

Channels betweenPins(const Pin& a, const Pin& b, const Voices& voices) {
  const auto rate = voices.rate;
  const auto source = (b.take - a.take).value;
  const auto target = (b.stretched - a.stretched).value;
  const auto hold = std::min({framesFromMs(kHoldMs, rate).value, source / 2, target / 2});
  const auto join = std::min(framesFromMs(kJoinMs, rate).value, hold / 2);
  const auto sustain = source - hold;
  const auto wanted = target - hold;
  if (auto spliced = bySplices(a, b, voices, hold); !spliced.empty()) return spliced;
  Channels out(voices.list.size(), std::vector<float>(static_cast<std::size_t>(target), 0.0f));
  if (sustain < kLeastSustain || wanted < kLeastSustain) {
    for (std::size_t v = 0; v < out.size(); ++v) splice(a, b, voices.list[v], rate, out[v]);
    return out;
  }
  // The sustain is read from a little before the end of the attack, for the crossfade.
  const auto stretched = sustainOf({a.take + Frames{hold - join}, b.take}, wanted + join, hold - join, voices);
  const auto back = std::min({framesFromMs(kBeforePinMs, rate).value, wanted, source});
  for (std::size_t v = 0; v < out.size(); ++v) {
    const auto plain = voices.list[v].read(a.take, hold);
    const std::span<float> made(out[v]);
    std::copy(plain.begin(), plain.end(), made.begin());
    const std::span<const float> tail(stretched[v]);
    const auto joined = static_cast<std::size_t>(join);
    const auto from = static_cast<std::size_t>(hold - join);
    crossInto(made.subspan(from, joined), tail.first(joined));
    std::copy(tail.begin() + join, tail.begin() + join + wanted, made.begin() + hold);
    // Back to the recording right before the next pin, so that its attack comes out of its own sound.
    const auto before = voices.list[v].read(b.take - Frames{back}, back);
    crossInto(made.last(static_cast<std::size_t>(back)), before);
  }
  return out;
}

Channels atSpeed(const Pin& a, const Pin& b, const Voices& voices) {
  prepareSpeedReading();
  const auto source = (b.take - a.take).value;
  const auto target = (b.stretched - a.stretched).value;
  const double speed = static_cast<double>(source) / static_cast<double>(target);
  const auto around = speedReach(speed) + 1;
  Channels out;
  for (const auto& v : voices.list) {
    const auto x = v.read(a.take - Frames{around}, source + 2 * around);
    auto& y = out.emplace_back(static_cast<std::size_t>(target));
    for (std::int64_t i = 0; i < target; ++i)
      y[static_cast<std::size_t>(i)] =
          speedRead({x.data(), 1, std::ssize(x)}, static_cast<double>(around) + static_cast<double>(i) * speed, speed);
  }
  return out;
}

}  // namespace ochron
