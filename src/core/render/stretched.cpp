#include "render/stretched.h"

#include <algorithm>
#include <cmath>

#include "dsp/stretch.h"
#include "dsp/varispeed.h"

namespace ochron {
namespace {

constexpr double kHoldMs = 45;                 // of each attack, played as recorded
constexpr double kJoinMs = 6;                  // crossfade from the attack into the stretched sustain
constexpr double kBeforePinMs = 1.5;           // crossfade back to the recording, ending at the pin
constexpr double kLeadSeconds = 0.25;          // made before and after a clip with a pitch envelope
constexpr std::size_t kPitchKeyFrames = 1024;  // between two points of its stretch map
constexpr std::int64_t kLeastSustain = 512;    // shorter than this is not worth an engine's window

struct Voice {
  MediaId media;
  std::shared_ptr<const DecodedMedia> sound;
  int channel = 0;
  Frames offset;

  /// Take time [from, from + length); silence outside the recording.
  std::vector<float> read(Frames from, std::int64_t length) const {
    std::vector<float> out(static_cast<std::size_t>(std::max<std::int64_t>(0, length)), 0.0f);
    const auto samples = sound->channel(channel);
    const auto first = (from - offset).value;
    for (auto i = std::max<std::int64_t>(0, -first); i < std::min<std::int64_t>(length, std::ssize(samples) - first);
         ++i)
      out[static_cast<std::size_t>(i)] = samples[static_cast<std::size_t>(first + i)];
    return out;
  }
};

std::vector<Voice> voicesOf(const Song& song, const MicSet& set, const Clip& clip, const MediaPool& pool) {
  std::vector<Voice> out;
  for (auto track : set.tracks) {
    const auto* mic = song.micFor(set, clip, track);
    const auto found = mic ? pool.find(mic->media) : pool.end();
    if (found == pool.end()) continue;
    for (int c = 0; c < found->second->channels(); ++c) out.push_back({mic->media, found->second, c, mic->offset});
  }
  return out;
}

using Channels = std::vector<std::vector<float>>;

/// Writes what lies between two pins into `out`, one channel a voice, from index `at` on.
void renderBetween(const Pin& a, const Pin& b, const std::vector<Voice>& voices, Stretcher& stretcher, int rate,
                   std::vector<std::vector<float>>& out, std::size_t at) {
  const auto ms = [&](double x) { return static_cast<std::int64_t>(x * rate / 1000); };
  const auto source = (b.take - a.take).value;
  const auto target = (b.song - a.song).value;
  const auto hold = source == target ? source : std::min({ms(kHoldMs), source / 2, target / 2});
  const auto join = std::min(ms(kJoinMs), hold / 2);
  const auto sustain = source - hold;
  const auto wanted = target - hold;
  for (std::size_t v = 0; v < voices.size(); ++v) {
    const auto plain = voices[v].read(a.take, std::min(source, target));
    std::copy(plain.begin(), plain.end(), out[v].begin() + static_cast<std::ptrdiff_t>(at));
  }
  if (source == target || sustain < kLeastSustain || wanted < kLeastSustain) return;
  // The sustain is read from a little before the end of the attack, for the crossfade.
  std::vector<std::vector<float>> tails;
  std::vector<std::span<const float>> in;
  for (const auto& v : voices) tails.push_back(v.read(a.take + Frames{hold - join}, sustain + join));
  for (const auto& t : tails) in.emplace_back(t);
  const auto stretched = stretcher.stretch(in, static_cast<std::size_t>(wanted + join));
  const auto back = std::min(ms(kBeforePinMs), wanted);
  for (std::size_t v = 0; v < voices.size(); ++v) {
    float* to = out[v].data() + at + static_cast<std::size_t>(hold - join);
    for (std::int64_t i = 0; i < wanted + join; ++i) {
      const float s = stretched[v][static_cast<std::size_t>(i)];
      to[i] = i < join ? to[i] + (s - to[i]) * static_cast<float>(i + 1) / static_cast<float>(join + 1) : s;
    }
    // Back to the recording right before the next pin, so that its attack comes out of its own sound.
    const auto before = voices[v].read(b.take - Frames{back}, back);
    for (std::int64_t i = 0; i < back; ++i) {
      float& s = out[v][at + static_cast<std::size_t>(target - back + i)];
      s += (before[static_cast<std::size_t>(i)] - s) * static_cast<float>(i + 1) / static_cast<float>(back + 1);
    }
  }
}

/// A clip between its pins, from the first pin's song time on.
Result<Channels> pinned(const Clip& clip, const std::vector<Voice>& voices, int rate, Progress& progress) {
  const auto& pins = *clip.pins;
  Stretcher stretcher(rate, static_cast<int>(voices.size()), Stretcher::Material::drums);
  const auto length = static_cast<std::size_t>((pins.back().song - pins.front().song).value);
  Channels sound(voices.size(), std::vector<float>(length, 0.0f));
  for (std::size_t i = 0; i + 1 < pins.size(); ++i) {
    if (progress.cancelled()) return cancelledError();
    renderBetween(pins[i], pins[i + 1], voices, stretcher, rate, sound,
                  static_cast<std::size_t>((pins[i].song - pins.front().song).value));
    progress.report(static_cast<double>(i) / static_cast<double>(pins.size()));
  }
  return sound;
}

/// Sound whose first frame is at song time `from`, its pitch led by the clip's envelope: stretched by the ratio
/// of each place, then read at that speed.
Channels pitched(const Clip& clip, const Channels& sound, Frames from, int rate) {
  const auto n = sound.front().size();
  std::vector<double> at(n + 1, 0.0);  // in the stretched sound
  std::map<std::size_t, std::size_t> keys;
  for (std::size_t i = 0; i < n; ++i) {
    const double cents = valueAt(clip.extras->pitch, clip.toTake(from + Frames{static_cast<std::int64_t>(i)}), 0);
    at[i + 1] = at[i] + std::exp2(cents / 1200);
    if (i % kPitchKeyFrames == 0 && i > 0) keys[i] = static_cast<std::size_t>(std::llround(at[i]));
  }
  const auto length = static_cast<std::size_t>(std::ceil(at[n])) + 1;
  Stretcher stretcher(rate, static_cast<int>(sound.size()), Stretcher::Material::tone);
  std::vector<std::span<const float>> in(sound.begin(), sound.end());
  const auto stretched = stretcher.stretch(in, length, keys);
  Channels out(sound.size(), std::vector<float>(n));
  for (std::size_t c = 0; c < out.size(); ++c) {
    const SpeedSource source{stretched[c].data(), 1, std::ssize(stretched[c])};
    for (std::size_t i = 0; i < n; ++i) out[c][i] = speedRead(source, at[i], at[i + 1] - at[i]);
  }
  return out;
}

/// What a clip without pins plays, with some of what lies before and after it for its crossfades.
Channels plainSound(const Clip& clip, const std::vector<Voice>& voices, Frames lead) {
  Channels out;
  const auto length = clip.length + lead * 2;
  const auto first = clip.source - lead;
  for (const auto& v : voices) {
    out.push_back(v.read(first, length.value));
    if (clip.reversed) std::reverse(out.back().begin(), out.back().end());
  }
  return out;
}

SoundRecipe recipeOf(const Clip& clip) {
  SoundRecipe r{clip.pins, clip.extras->pitch, {}, false};
  if (!r.pitch.empty()) r.take = {clip.source, clip.source + clip.length}, r.reversed = clip.reversed;
  return r;
}

bool hasPins(const Clip& clip) { return clip.pins->size() >= 2; }

Result<StretchedSound> make(const Clip& clip, const std::vector<Voice>& voices, int rate, Progress& progress) {
  StretchedSound made;
  made.recipe = recipeOf(clip);
  Channels sound;
  if (hasPins(clip)) {
    auto done = pinned(clip, voices, rate, progress);
    if (!done) return tl::unexpected(done.error());
    sound = std::move(*done);
  } else {
    made.lead = Frames{static_cast<std::int64_t>(kLeadSeconds * rate)};
    sound = plainSound(clip, voices, made.lead);
  }
  if (!clip.extras->pitch.empty()) sound = pitched(clip, sound, made.startOf(clip), rate);
  for (std::size_t v = 0; v < voices.size();) {
    Channels channels;
    const auto media = voices[v].media;
    while (v < voices.size() && voices[v].media == media) channels.push_back(std::move(sound[v++]));
    made.media[media] = DecodedMedia::fromSamples(rate, std::move(channels));
  }
  return made;
}

}  // namespace

Frames StretchedSound::startOf(const Clip& clip) const {
  return hasPins(clip) ? clip.pins->front().song : clip.start - lead;
}

bool needsMaking(const Clip& clip) { return hasPins(clip) || !clip.extras->pitch.empty(); }

const StretchedSound* madeSound(const Clip& clip, const StretchedSounds& sounds) {
  if (!needsMaking(clip)) return nullptr;
  const auto found = sounds.find(clip.id);
  return found != sounds.end() && found->second.recipe == recipeOf(clip) ? &found->second : nullptr;
}

Result<StretchedSounds> renderStretched(const Song& song, const MediaPool& pool, const StretchedSounds& have,
                                        Progress& progress) {
  StretchedSounds out;
  for (const auto& set : song.sets) {
    for (const auto& clip : *set.clips) {
      if (!needsMaking(clip)) continue;
      if (progress.cancelled()) return cancelledError();
      if (const auto* old = madeSound(clip, have)) {
        out[clip.id] = *old;
        continue;
      }
      const auto voices = voicesOf(song, set, clip, pool);
      if (voices.empty()) continue;
      auto made = make(clip, voices, song.rate, progress);
      if (!made) return tl::unexpected(made.error());
      out[clip.id] = std::move(*made);
    }
  }
  progress.report(1);
  return out;
}

}  // namespace ochron
