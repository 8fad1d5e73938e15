#include "render/stretched.h"

#include <algorithm>
#include <cmath>

#include "dsp/stretch.h"

namespace ochron {
namespace {

constexpr double kHoldMs = 45;               // of each attack, played as recorded
constexpr double kJoinMs = 6;                // crossfade from the attack into the stretched sustain
constexpr double kBeforePinMs = 1.5;         // crossfade back to the recording, ending at the pin
constexpr std::int64_t kLeastSustain = 512;  // shorter than this is not worth an engine's window

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

std::vector<Voice> voicesOf(const Song& song, const MicSet& set, TakeId take, const MediaPool& pool) {
  std::vector<Voice> out;
  for (auto track : set.tracks) {
    const auto* mic = song.micOf(take, track);
    const auto found = mic ? pool.find(mic->media) : pool.end();
    if (found == pool.end()) continue;
    for (int c = 0; c < found->second->channels(); ++c) out.push_back({mic->media, found->second, c, mic->offset});
  }
  return out;
}

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

}  // namespace

Result<StretchedSounds> renderStretched(const Song& song, const MediaPool& pool, const StretchedSounds& have,
                                        Progress& progress) {
  StretchedSounds out;
  for (const auto& set : song.sets) {
    for (const auto& clip : *set.clips) {
      if (clip.pins->size() < 2) continue;
      if (const auto old = have.find(clip.id); old != have.end() && old->second.pins == clip.pins) {
        out[clip.id] = old->second;
        continue;
      }
      const auto& pins = *clip.pins;
      const auto voices = voicesOf(song, set, clip.take, pool);
      if (voices.empty()) continue;
      Stretcher stretcher(song.rate, static_cast<int>(voices.size()), Stretcher::Material::drums);
      const auto length = static_cast<std::size_t>((pins.back().song - pins.front().song).value);
      std::vector<std::vector<float>> sound(voices.size(), std::vector<float>(length, 0.0f));
      for (std::size_t i = 0; i + 1 < pins.size(); ++i) {
        if (progress.cancelled()) return cancelledError();
        renderBetween(pins[i], pins[i + 1], voices, stretcher, song.rate, sound,
                      static_cast<std::size_t>((pins[i].song - pins.front().song).value));
        progress.report(static_cast<double>(i) / static_cast<double>(pins.size()));
      }
      auto& made = out[clip.id];
      made.pins = clip.pins;
      for (std::size_t v = 0; v < voices.size();) {
        std::vector<std::vector<float>> channels;
        const auto media = voices[v].media;
        while (v < voices.size() && voices[v].media == media) channels.push_back(std::move(sound[v++]));
        made.media[media] = DecodedMedia::fromSamples(song.rate, std::move(channels));
      }
    }
  }
  progress.report(1);
  return out;
}

}  // namespace ochron
