#include "render/stretched.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <span>

#include "dsp/fade.h"
#include "dsp/stretch.h"
#include "dsp/varispeed.h"
#include "render/line_stretch.h"
#include "render/splices.h"

namespace ochron {
namespace {

constexpr double kHoldMs = 45;               // of each attack, played as recorded
constexpr double kJoinMs = 10;               // crossfade from the attack into the stretched sustain
constexpr double kBeforePinMs = 12;          // crossfade back to the recording, ending at the pin
constexpr double kToneJoinMs = 15;           // crossfade from the recording into one run of the finer engine, and back
constexpr double kToneHoldMs = 45;           // of an attack in such a run, the crossfade included
constexpr double kToneClearMs = 6;           // before an attack: the engine's own copy of it comes some ms early
constexpr double kHiddenMs = 8;              // of what is played as recorded, under which other sound may begin or end
constexpr double kRiseMs = 15;               // before and after a pin, to see whether an attack begins there
constexpr double kFaint = 1e-3;              // of the mean power: noise that begins is no attack
constexpr double kRise = 1.6;                // of power, that is one
constexpr std::int64_t kLeastTone = 1024;    // shorter than this is not worth such a run
constexpr double kLeadSeconds = 0.25;        // read before and after what goes through the finer engine
constexpr std::int64_t kLeastSustain = 512;  // shorter than this is not worth an engine's window
constexpr double kAroundMs = 20;             // beside what goes through the engine
constexpr double kUntouchedMs = 4;           // before the next attack
constexpr double kMostByOneSplice = 0.5;     // of a sustain, that one jump may repeat or leave out
constexpr double kOneSpliceMs = 28;
constexpr double kMostBySplices = 0.2;  // of a sustain, that several may
constexpr double kSpliceMs = 5;         // crossfade where nothing is stretched

std::int64_t framesOf(double ms, int rate) { return framesFromMs(ms, rate).value; }

/// Brings what lies in `to` over into `from`, as loud as what it joins.
void crossInto(std::span<float> to, std::span<const float> from) {
  const double likeness = crossfadeLikeness(to, from, FadeShape::sCurve, 0);
  for (std::size_t i = 0; i < to.size(); ++i) {
    const double x = (static_cast<double>(i) + 0.5) / static_cast<double>(to.size());
    const auto g = crossfadeGains(CrossfadeLaw::matched, FadeShape::sCurve, 0, likeness, x);
    to[i] = to[i] * g.out + from[i] * g.in;
  }
}

/// The sound after `a`, crossfaded to the sound before `b` as late as it holds no attack of `b`. Where both together do
/// not reach over the whole there is silence between them, faded on both sides.
void splice(const Pin& a, const Pin& b, const Voice& voice, int rate, std::vector<float>& out) {
  const auto source = (b.take - a.take).value;
  const auto target = (b.stretched - a.stretched).value;
  const auto forward = voice.read(a.take, std::min(source, target));
  const auto back = voice.read(b.take - Frames{std::min(source, target)}, std::min(source, target));
  const auto first = target - std::ssize(back);  // where `back` begins
  const auto end = std::ssize(forward);
  const auto longest = std::min(framesOf(kSpliceMs, rate), end);
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
  const auto last = source - framesOf(kUntouchedMs, voices.rate);
  const auto sustain = static_cast<double>(last - hold);
  const double one = std::min(kMostByOneSplice * sustain, static_cast<double>(framesOf(kOneSpliceMs, voices.rate)));
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
  const auto around = framesOf(kAroundMs, voices.rate);
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
  Stretcher stretcher(voices.rate, static_cast<int>(voices.list.size()), Stretcher::Material::drums);
  const auto at = [](std::int64_t frame) { return static_cast<std::size_t>(frame); };
  auto made =
      stretcher.stretch(in, at(lead + frames + tail), {{at(lead), at(lead)}, {at(lead + length), at(lead + frames)}});
  for (auto& y : made) y = {y.begin() + lead, y.begin() + lead + frames};
  return made;
}

/// How much of the recording is heard around a pin in a run of the finer engine.
struct Recorded {
  std::int64_t before = 0;  ///< frames up to the pin in which it comes back
  std::int64_t after = 0;   ///< frames from the pin on, the crossfade back included
  bool attack = false;      ///< else only a run's end
};

/// Around each pin of a run: its attack where there is one, for the engine smears it; a pin within a sounding note is
/// left to the engine. A run begins and ends on the recording. `sounds` begin `lead` frames before the first pin.
std::vector<Recorded> recordedAttacks(std::span<const Pin> pins, const std::vector<std::span<const float>>& sounds,
                                      std::int64_t lead, int rate) {
  const auto join = framesOf(kToneJoinMs, rate);
  const auto window = framesOf(kRiseMs, rate);
  // Of the slope: what rings on is mostly low, attacks are high.
  const auto power = [&](std::int64_t from, std::int64_t length) {
    double sum = 0;
    for (const auto& x : sounds)
      for (auto i = std::max<std::int64_t>(1, from); i < std::min(std::ssize(x), from + length); ++i) {
        const double slope = static_cast<double>(x[static_cast<std::size_t>(i)]) - x[static_cast<std::size_t>(i - 1)];
        sum += slope * slope;
      }
    return sum;
  };
  const auto length = std::ssize(sounds.front());
  const double faint = kFaint * power(0, length) * static_cast<double>(window) / static_cast<double>(length);
  std::vector<Recorded> out;
  for (std::size_t i = 0; i < pins.size(); ++i) {
    const auto at = lead + (pins[i].take - pins.front().take).value;
    const bool attack = power(at, window) > kRise * power(at - window, window) + faint;
    // Half of what lies between two pins at most.
    const auto room = [&](std::size_t from) {
      return std::min(pins[from + 1].take - pins[from].take, pins[from + 1].stretched - pins[from].stretched).value / 2;
    };
    auto& r = out.emplace_back();
    r.attack = attack;
    const auto back = join + framesOf(kToneClearMs, rate);
    if (i > 0) r.before = attack || i + 1 == pins.size() ? std::min(back, room(i - 1)) : 0;
    if (i + 1 < pins.size()) r.after = attack ? std::min(framesOf(kToneHoldMs, rate), room(i)) : i == 0 ? join : 0;
  }
  return out;
}

/// What of the sounds of a run stays as it is: what lies outside of it, and attacks but for the ends of their
/// crossfades, under which a line's periods may begin and end.
std::vector<FrameRange> playedAsRecorded(std::span<const Pin> pins, const std::vector<Recorded>& attacks,
                                         std::int64_t lead, int rate) {
  const Frames hidden = framesFromMs(kHiddenMs, rate);
  std::vector<FrameRange> out{{Frames{}, Frames{lead} - hidden}};
  for (std::size_t i = 0; i < pins.size(); ++i) {
    const auto at = Frames{lead} + (pins[i].take - pins.front().take);
    const Frames back{std::min(framesOf(kToneJoinMs, rate), attacks[i].after)};
    const FrameRange kept{attacks[i].before > 0 ? at - framesFromMs(kToneClearMs, rate) + hidden : at,
                          at + Frames{attacks[i].after} - back - hidden};
    if (i + 1 < pins.size() && kept.start < kept.end) out.push_back(kept);
  }
  const auto end = Frames{lead} + (pins.back().take - pins.front().take);
  out.push_back({end + hidden, end + Frames{lead}});
  return out;
}

}  // namespace

Channels betweenPins(const Pin& a, const Pin& b, const Voices& voices) {
  const auto rate = voices.rate;
  const auto source = (b.take - a.take).value;
  const auto target = (b.stretched - a.stretched).value;
  const auto hold = std::min({framesOf(kHoldMs, rate), source / 2, target / 2});
  const auto join = std::min(framesOf(kJoinMs, rate), hold / 2);
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
  const auto back = std::min({framesOf(kBeforePinMs, rate), wanted, source});
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

Channels throughPins(std::span<const Pin> pins, const Voices& voices) {
  const auto& a = pins.front();
  const auto& b = pins.back();
  const auto rate = voices.rate;
  const auto source = (b.take - a.take).value;
  const auto target = (b.stretched - a.stretched).value;
  const auto join = framesOf(kToneJoinMs, rate);
  if (std::min(source, target) < kLeastTone + 4 * join) return betweenPins(a, b, voices);
  const auto lead = static_cast<std::int64_t>(kLeadSeconds * rate);
  Channels around;
  std::vector<std::span<const float>> in;
  for (const auto& v : voices.list) around.push_back(v.read(a.take - Frames{lead}, source + 2 * lead));
  for (const auto& x : around) in.emplace_back(x);
  std::map<std::size_t, std::size_t> keys;
  const auto key = [&](const Pin& p, std::int64_t by) {
    keys[static_cast<std::size_t>(lead + (p.take - a.take).value + by)] =
        static_cast<std::size_t>(lead + (p.stretched - a.stretched).value + by);
  };
  // Around an attack that is played as recorded the engine runs at the recording's own speed, so that both are in time.
  const auto attacks = recordedAttacks(pins, in, lead, rate);
  for (std::size_t i = 0; i < pins.size(); ++i) {
    key(pins[i], 0);
    if (attacks[i].attack && attacks[i].before > 0) key(pins[i], -attacks[i].before);
    if (attacks[i].attack && attacks[i].after > 0) key(pins[i], attacks[i].after);
  }
  Stretcher stretcher(rate, static_cast<int>(voices.list.size()), Stretcher::Material::tone);
  const auto stretched = stretcher.stretch(in, static_cast<std::size_t>(target + 2 * lead), keys);
  Channels out;
  for (std::size_t v = 0; v < around.size(); ++v) {
    const auto first = stretched[v].begin() + static_cast<std::ptrdiff_t>(lead);
    out.emplace_back(first, first + static_cast<std::ptrdiff_t>(target));
  }
  if (!voices.line->track.values.empty()) {
    LineRun run{in, a.take - Frames{lead}, {}, playedAsRecorded(pins, attacks, lead, rate), rate};
    for (const auto& [from, to] : keys) run.keys[from] = to - static_cast<std::size_t>(lead);
    layVoiced(voices.line->track, run, out);
  }
  for (std::size_t v = 0; v < around.size(); ++v) {
    auto& made = out[v];
    const std::span<const float> recorded(around[v]);
    const auto fromRecording = [&](std::int64_t take, std::int64_t length) {
      return recorded.subspan(static_cast<std::size_t>(lead + take), static_cast<std::size_t>(length));
    };
    for (std::size_t i = 0; i < pins.size(); ++i) {
      const auto before = attacks[i].before;
      const auto after = attacks[i].after;
      const auto take = (pins[i].take - a.take).value;
      const auto at = (pins[i].stretched - a.stretched).value;
      // From the engine to the recording, which the attack comes out of; and back while it rings.
      if (before > 0) {
        const auto clear = std::min(framesOf(kToneClearMs, rate), before / 2);
        const auto fade = static_cast<std::size_t>(before - clear);
        const auto plain = fromRecording(take - before, before);
        crossInto(std::span(made).subspan(static_cast<std::size_t>(at - before), fade), plain.first(fade));
        std::copy(plain.begin() + static_cast<std::ptrdiff_t>(fade), plain.end(), made.begin() + at - clear);
      }
      if (after == 0) continue;
      const auto back = std::min(join, after);
      const auto plain = fromRecording(take, after);
      std::vector<float> attack(plain.begin(), plain.end());
      crossInto(std::span(attack).last(static_cast<std::size_t>(back)),
                std::span<const float>(made).subspan(static_cast<std::size_t>(at + after - back),
                                                     static_cast<std::size_t>(back)));
      std::copy(attack.begin(), attack.end(), made.begin() + at);
    }
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
