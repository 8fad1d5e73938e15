#include "render/stretched.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>
#include <span>

#include "dsp/fade.h"
#include "dsp/stream_stretch.h"
#include "dsp/varispeed.h"
#include "render/part_stream.h"
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
std::optional<std::vector<Splice>> sustainSplices(const Pin& a, const Pin& b, const SplicedSound& sound,
                                                  std::int64_t hold, const std::function<bool()>& going) {
  const auto change = (b.stretched - a.stretched).value - sound.frames;
  const auto last = sound.frames - framesFromMs(kUntouchedMs, sound.rate).value;
  const auto sustain = static_cast<double>(last - hold);
  const double one =
      std::min(kMostByOneSplice * sustain, static_cast<double>(framesFromMs(kOneSpliceMs, sound.rate).value));
  if (static_cast<double>(std::abs(change)) > std::max(one, kMostBySplices * sustain)) return std::vector<Splice>{};
  return splicesFor(sound, change, {Frames{hold}, Frames{last}}, going);
}

/// What sounds in a stretch of take time brought to so many frames by the engine. An engine takes the end of what it is
/// given for a stroke: it gets up to `before` frames of what was played before, and after the end the sound turned
/// round and fading out, for what follows in the recording is the next attack.
bool sustainOf(FrameRange take, std::int64_t frames, std::int64_t before, const Voices& voices, const StreamSink& to) {
  const auto around = framesFromMs(kAroundMs, voices.rate).value;
  const auto lead = std::min(around, before);
  const auto length = take.length().value;
  const auto tail = std::min(around, length);
  Channels turned;
  for (const auto& v : voices.list) {
    auto& x = turned.emplace_back(v.read(take.end - Frames{tail}, tail));
    std::reverse(x.begin(), x.end());
    for (std::int64_t i = 0; i < tail; ++i) {
      const double fade = std::cos((static_cast<double>(i) + 0.5) / static_cast<double>(tail) * std::numbers::pi / 2);
      x[static_cast<std::size_t>(i)] *= static_cast<float>(fade);
    }
  }
  const auto plain = takeSource(voices, take.start - Frames{lead}, lead + length);
  const auto given = [&](std::size_t from, ChannelSpans channels) {
    plain(from, channels);
    const auto begin = std::max<std::int64_t>(0, lead + length - static_cast<std::int64_t>(from));  // of the tail, here
    const auto first = static_cast<std::int64_t>(from) + begin - (lead + length);
    const auto n = std::min(std::ssize(channels.front()) - begin, tail - first);
    for (std::size_t v = 0; n > 0 && v < channels.size(); ++v)
      std::copy_n(turned[v].begin() + first, n, channels[v].begin() + begin);
  };
  const auto at = [](std::int64_t frame) { return static_cast<std::size_t>(frame); };
  Progress unseen;
  return streamStretched(voices.rate, voices.list.size(),
                         {at(lead + length + tail),
                          at(lead + frames + tail),
                          {{at(lead), at(lead)}, {at(lead + length), at(lead + frames)}}},
                         given, Trimmed(lead, frames, to), unseen);
}

}  // namespace

bool betweenPins(const Pin& a, const Pin& b, const Voices& voices, const StreamSink& to) {
  const auto rate = voices.rate;
  const auto source = (b.take - a.take).value;
  const auto target = (b.stretched - a.stretched).value;
  const auto hold = std::min({framesFromMs(kHoldMs, rate).value, source / 2, target / 2});
  const auto join = std::min(framesFromMs(kJoinMs, rate).value, hold / 2);
  const auto sustain = source - hold;
  const auto wanted = target - hold;
  const SplicedSound plain{takeSource(voices, a.take, source), voices.list.size(), source, rate};
  const auto splices = sustainSplices(a, b, plain, hold, [&] { return goesOn(to, voices.list.size()); });
  if (!splices) return false;
  if (!splices->empty()) return along(plain, *splices, to);
  if (sustain < kLeastSustain || wanted < kLeastSustain) {
    Channels out(voices.list.size(), std::vector<float>(static_cast<std::size_t>(target), 0.0f));
    for (std::size_t v = 0; v < out.size(); ++v) splice(a, b, voices.list[v], rate, out[v]);
    return passOn(out, to);
  }
  // The attack as recorded; the sustain is read from a little before its end, for the crossfade; and back to the
  // recording right before the next pin, so that its attack comes out of its own sound.
  const auto back = std::min({framesFromMs(kBeforePinMs, rate).value, wanted, source});
  LayOver laid(voices, {{0, a.take, hold, 0, join}, {target - back, b.take - Frames{back}, back, back, 0}}, to);
  const Channels unheard(voices.list.size(), std::vector<float>(static_cast<std::size_t>(hold - join)));
  return passOn(unheard, std::ref(laid)) &&
         sustainOf({a.take + Frames{hold - join}, b.take}, wanted + join, hold - join, voices, std::ref(laid)) &&
         laid.finish();
}

bool atSpeed(const Pin& a, const Pin& b, const Voices& voices, const StreamSink& to) {
  constexpr std::int64_t kAtOnce = 4'096;
  prepareSpeedReading();
  const auto source = (b.take - a.take).value;
  const auto target = (b.stretched - a.stretched).value;
  const double speed = static_cast<double>(source) / static_cast<double>(target);
  const auto around = speedReach(speed) + 1;
  Channels out(voices.list.size());
  for (std::int64_t at = 0; at < target; at += kAtOnce) {
    const auto n = std::min(kAtOnce, target - at);
    const auto first = static_cast<std::int64_t>(static_cast<double>(at) * speed);
    const auto last = static_cast<std::int64_t>(static_cast<double>(at + n) * speed) + 1;
    std::vector<std::span<float>> spans;
    for (std::size_t v = 0; v < out.size(); ++v) {
      const auto x = voices.list[v].read(a.take + Frames{first - around}, last - first + 2 * around);
      out[v].resize(static_cast<std::size_t>(n));
      for (std::int64_t i = 0; i < n; ++i)
        out[v][static_cast<std::size_t>(i)] =
            speedRead({x.data(), 1, std::ssize(x)},
                      static_cast<double>(around - first) + static_cast<double>(at + i) * speed, speed);
      spans.emplace_back(out[v]);
    }
    if (!to(spans)) return false;
  }
  return true;
}

}  // namespace ochron
