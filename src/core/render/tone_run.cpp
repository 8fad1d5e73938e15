#include "render/tone_run.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <map>

#include "dsp/fade.h"
#include "dsp/stream_stretch.h"
#include "render/line_stretch.h"
#include "render/part_stream.h"

namespace ochron {
namespace {

constexpr double kToneJoinMs = 15;         // crossfade from the recording into a run, and back
constexpr double kToneHoldMs = 45;         // of an attack in such a run, the crossfade included
constexpr double kToneClearMs = 6;         // before an attack: it is smeared into what is made
constexpr double kHiddenMs = 8;            // of what is played as recorded, under which other sound may begin or end
constexpr double kRiseMs = 15;             // before and after a pin, to see whether an attack begins there
constexpr double kFaint = 1e-3;            // of the mean power: noise that begins is no attack
constexpr double kRise = 1.6;              // of power, that is one
constexpr std::int64_t kLeastTone = 1024;  // shorter than this is not worth such a run
constexpr double kLeadSeconds = 0.25;      // read before and after a run

/// How much of the recording is heard around a pin of a run.
struct Recorded {
  std::int64_t before = 0;  ///< frames up to the pin in which it comes back
  std::int64_t after = 0;   ///< frames from the pin on, the crossfade back included
  std::int64_t back = 0;    ///< frames of that crossfade
  bool attack = false;      ///< else only a run's end
};

/// Power of the slope of sound: what rings on is mostly low, attacks are high.
double slopePower(std::span<const float> x) {
  double sum = 0;
  for (std::size_t i = 1; i < x.size(); ++i) {
    const double slope = static_cast<double>(x[i]) - x[i - 1];
    sum += slope * slope;
  }
  return sum;
}

/// Of all voices in a range of take time, each slope once.
double slopePower(const Voices& voices, FrameRange take) {
  constexpr std::int64_t kAtOnce = 65'536;
  double sum = 0;
  for (const auto& v : voices.list)
    for (auto at = take.start; at < take.end; at += Frames{kAtOnce})
      sum += slopePower(v.read(at - Frames{1}, std::min(kAtOnce, (take.end - at).value) + 1));
  return sum;
}

/// Around each pin of a run: its attack where there is one, for the engine smears it; a pin within a sounding note is
/// left to the engine. A run begins and ends on the recording. `lead`: frames that the engine hears before and after.
std::vector<Recorded> recordedAttacks(std::span<const Pin> pins, const Voices& voices, std::int64_t lead) {
  const auto rate = voices.rate;
  const auto join = framesFromMs(kToneJoinMs, rate).value;
  const auto window = framesFromMs(kRiseMs, rate);
  const FrameRange all{pins.front().take - Frames{lead}, pins.back().take + Frames{lead}};
  const double faint =
      kFaint * slopePower(voices, all) * static_cast<double>(window.value) / static_cast<double>(all.length().value);
  std::vector<Recorded> out;
  for (std::size_t i = 0; i < pins.size(); ++i) {
    const auto at = pins[i].take;
    const bool attack = slopePower(voices, {at, at + window}) > kRise * slopePower(voices, {at - window, at}) + faint;
    // Less than half of what lies between two pins, so that something is left between them to be longer or shorter.
    const auto room = [&](std::size_t from) {
      return std::min(pins[from + 1].take - pins[from].take, pins[from + 1].stretched - pins[from].stretched).value / 3;
    };
    auto& r = out.emplace_back();
    r.attack = attack;
    const auto comes = join + framesFromMs(kToneClearMs, rate).value;
    if (i > 0) r.before = attack || i + 1 == pins.size() ? std::min(comes, room(i - 1)) : 0;
    if (i + 1 < pins.size())
      r.after = attack ? std::min(framesFromMs(kToneHoldMs, rate).value, room(i)) : i == 0 ? join : 0;
    r.back = attack ? std::min(join, r.after / 2) : r.after;
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
    const FrameRange kept{attacks[i].before > 0 ? at - framesFromMs(kToneClearMs, rate) + hidden : at,
                          at + Frames{attacks[i].after - attacks[i].back} - hidden};
    if (i + 1 < pins.size() && kept.start < kept.end) out.push_back(kept);
  }
  const auto end = Frames{lead} + (pins.back().take - pins.front().take);
  out.push_back({end + hidden, end + Frames{lead}});
  return out;
}

/// Where the frames of a run's sounds land. Around an attack that is played as recorded the engine runs at the
/// recording's own speed, so that both are in time.
std::map<std::size_t, std::size_t> keysOf(std::span<const Pin> pins, const std::vector<Recorded>& attacks,
                                          std::int64_t lead) {
  std::map<std::size_t, std::size_t> keys;
  const auto key = [&](const Pin& p, std::int64_t by) {
    keys[static_cast<std::size_t>(lead + (p.take - pins.front().take).value + by)] =
        static_cast<std::size_t>(lead + (p.stretched - pins.front().stretched).value + by);
  };
  for (std::size_t i = 0; i < pins.size(); ++i) {
    key(pins[i], 0);
    if (attacks[i].attack && attacks[i].before > 0) key(pins[i], -attacks[i].before);
    if (attacks[i].attack && attacks[i].after > 0) key(pins[i], attacks[i].after);
  }
  return keys;
}

/// Frames of the result in which a run takes on the recording's phases again: those under its attacks, so that what
/// follows them is in phase with them.
std::vector<FrameRange> afresh(std::span<const Pin> pins, const std::vector<Recorded>& attacks, std::int64_t lead) {
  std::vector<FrameRange> out;
  for (std::size_t i = 0; i < pins.size(); ++i) {
    const auto at = Frames{lead} + (pins[i].stretched - pins.front().stretched);
    if (attacks[i].attack && attacks[i].after > 0)
      out.push_back({at - Frames{attacks[i].before}, at + Frames{attacks[i].after}});
  }
  return out;
}

/// The attacks over what is made: the recording comes back up to `clear` frames before each, and leaves while it rings.
std::vector<Laid> laidAttacks(std::span<const Pin> pins, const std::vector<Recorded>& attacks, std::int64_t clear) {
  std::vector<Laid> out;
  for (std::size_t i = 0; i < pins.size(); ++i) {
    const auto before = attacks[i].before;
    const auto after = attacks[i].after;
    if (before + after == 0) continue;
    const auto at = (pins[i].stretched - pins.front().stretched).value;
    out.push_back({at - before, pins[i].take - Frames{before}, before + after, before - std::min(clear, before / 2),
                   after > 0 ? attacks[i].back : 0});
  }
  return out;
}

}  // namespace

bool throughPins(std::span<const Pin> pins, const Voices& voices, const StreamSink& to) {
  const auto& a = pins.front();
  const auto& b = pins.back();
  const auto rate = voices.rate;
  const auto source = (b.take - a.take).value;
  const auto target = (b.stretched - a.stretched).value;
  const auto join = framesFromMs(kToneJoinMs, rate).value;
  if (std::min(source, target) < kLeastTone + 4 * join) return betweenPins(a, b, voices, to);
  const auto lead = static_cast<std::int64_t>(kLeadSeconds * rate);
  const auto attacks = recordedAttacks(pins, voices, lead);
  const auto keys = keysOf(pins, attacks, lead);
  const auto whole = source + 2 * lead;
  LayOver laid(voices, laidAttacks(pins, attacks, framesFromMs(kToneClearMs, rate).value), to);
  const auto stretched = [&](const StreamSink& sink) {
    Progress unseen;
    return streamStretched(rate, voices.list.size(),
                           {static_cast<std::size_t>(whole), static_cast<std::size_t>(target + 2 * lead), keys,
                            afresh(pins, attacks, lead)},
                           takeSource(voices, a.take - Frames{lead}, whole), Trimmed(lead, target, sink), unseen);
  };
  if (voices.line->track.values.empty()) return stretched(std::ref(laid)) && laid.finish();
  Channels made(voices.list.size());
  stretched([&](ChannelSpans sound) {
    for (std::size_t v = 0; v < made.size(); ++v) made[v].insert(made[v].end(), sound[v].begin(), sound[v].end());
    return true;
  });
  Channels around;
  for (const auto& v : voices.list) around.push_back(v.read(a.take - Frames{lead}, whole));
  LineRun run{
      {around.begin(), around.end()}, a.take - Frames{lead}, {}, playedAsRecorded(pins, attacks, lead, rate), rate};
  for (const auto& [from, at] : keys) run.keys[from] = at - static_cast<std::size_t>(lead);
  layVoiced(voices.line->track, run, made);
  return passOn(made, std::ref(laid)) && laid.finish();
}

}  // namespace ochron
