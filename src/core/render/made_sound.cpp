#include "render/made_sound.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <set>
#include <span>

#include "files/content_id.h"
#include "render/made_key.h"
#include "render/made_store.h"
#include "render/part_stream.h"
#include "render/pitched.h"
#include "render/stretched.h"
#include "render/tone_run.h"

namespace ochron {
namespace {

constexpr int kEngineVersion = 10;         // raised when the same key would give other sound
constexpr double kEvenSeconds = 0.1;       // an even stretch between pins this short does not end a run of the engine
constexpr double kRunSeconds = 8;          // of one run, where pins allow
constexpr std::int64_t kPitchSeconds = 2;  // of each part of a clip with a pitch envelope

/// Of what lies between the first and the last of some pins.
MadeKey pinKey(const Voices& voices, std::span<const Pin> pins) {
  KeyMaker k(voices, kStretchMethodNames[static_cast<std::size_t>(voices.method)]);
  k.add(kEngineVersion);
  for (const auto& p : pins) k.add(p.take.value, (p.stretched - pins.front().stretched).value);
  return k.key();
}

/// The pins that have a say in a range of stretched time.
std::vector<Pin> pinsFor(const TakeMap& map, FrameRange range) {
  const auto& p = map.pins();
  auto first =
      std::upper_bound(p.begin(), p.end(), range.start, [](Frames f, const Pin& x) { return f < x.stretched; });
  auto last = std::lower_bound(p.begin(), p.end(), range.end, [](const Pin& x, Frames f) { return x.stretched < f; });
  if (first != p.begin()) --first;
  if (last != p.end()) ++last;
  return {first, last};
}

MadeKey pitchKey(const Clip& clip, FrameRange range, const Voices& voices) {
  KeyMaker k(voices, "pitch");
  k.add(kEngineVersion);
  k.add(range.start.value, range.end.value, voices.method);
  for (const auto& p : pinsFor(clip.map, pitchReads(range, voices.rate))) k.add(p.take.value, p.stretched.value);
  for (const auto& e : clip.extras->pitch) k.add(e.at.value, e.value, e.bend);
  const auto formants = heldFormants(clip.extras->formants, voices.method);
  k.add(formants.has_value(), formants.value_or(0));
  return k.key();
}

/// Of what stands in for a part; never on the disk.
MadeKey quickKey(const MadeKey& key) { return {key.text + " quick", false}; }

/// Of a line's pitch. That of the line last asked for is known: many clips play one.
std::uint64_t digestOf(const Shared<SungLine>& line) {
  thread_local std::pair<Shared<SungLine>, std::uint64_t> known{{}, 0};
  if (known.second == 0 || !known.first.sameObject(line)) {
    ContentHash hash;
    const auto& values = line->track.values;
    hash.add(values.data(), values.size() * sizeof(PitchTrack::Value));
    known = {line, hash.value()};
  }
  return known.second;
}

/// Whether the stretch between two pins plays at another speed than the recording.
bool uneven(const Pin& a, const Pin& b) { return b.take - a.take != b.stretched - a.stretched; }

/// How many pins after `from` end what is made in one run. Drums and tape: the next one. Tones go through the engine
/// over short even stretches too, and in runs of bounded length.
std::size_t endOfRun(std::span<const Pin> pins, std::size_t from, const Voices& voices) {
  auto end = from + 1;
  if (voices.method == StretchMethod::drums || voices.method == StretchMethod::tape) return end;
  const Frames shortest{static_cast<std::int64_t>(kEvenSeconds * voices.rate)};
  const Frames longest{static_cast<std::int64_t>(kRunSeconds * voices.rate)};
  for (auto i = end; i + 1 < pins.size(); ++i) {
    if (!uneven(pins[i], pins[i + 1]) && pins[i + 1].take - pins[i].take > shortest) break;
    if (pins[i + 1].stretched - pins[from].stretched > longest) break;
    if (uneven(pins[i], pins[i + 1])) end = i + 1;
  }
  return end;
}

void addPinParts(const TakeMap& map, FrameRange range, const Voices& voices, std::vector<MadePart>& out) {
  const std::span<const Pin> pins(map.pins());
  std::size_t first = 0;
  // What lies between two pins is a part of its own, or one of a run that begins at the first pin of all.
  if (voices.method == StretchMethod::drums || voices.method == StretchMethod::tape) {
    const auto after =
        std::upper_bound(pins.begin(), pins.end(), range.start, [](Frames f, const Pin& p) { return f < p.stretched; });
    first = static_cast<std::size_t>(std::max<std::ptrdiff_t>(0, after - pins.begin() - 1));
  }
  for (std::size_t i = first; i + 1 < pins.size();) {
    if (!uneven(pins[i], pins[i + 1])) {
      ++i;
      continue;
    }
    if (pins[i].stretched >= range.end) break;
    const auto end = endOfRun(pins, i, voices);
    if (pins[end].stretched > range.start)
      out.push_back({{pins[i].stretched, pins[end].stretched}, false, pinKey(voices, pins.subspan(i, end - i + 1))});
    i = end;
  }
}

std::int64_t floorDiv(std::int64_t a, std::int64_t b) { return a >= 0 ? a / b : -((-a + b - 1) / b); }

/// A clip's stretched take before its pitch is changed.
Channels stretchedSound(const Clip& clip, FrameRange range, const Voices& voices, MadeStore& store) {
  Channels out(voices.list.size(), std::vector<float>(static_cast<std::size_t>(range.length().value), 0.0f));
  std::vector<MadePart> parts;
  addPinParts(clip.map, range, voices, parts);
  for (const auto& piece : clip.map.pieces(range)) {
    const auto to = static_cast<std::ptrdiff_t>((piece.range.start - range.start).value);
    const auto made = std::find_if(parts.begin(), parts.end(),
                                   [&](const MadePart& p) { return p.range.contains(piece.range.start); });
    if (made == parts.end()) {
      for (std::size_t v = 0; v < out.size(); ++v) {
        const auto plain = voices.list[v].read(piece.take, piece.range.length().value);
        std::copy(plain.begin(), plain.end(), out[v].begin() + to);
      }
      continue;
    }
    auto sound = store.find(made->key);
    if (!sound) sound = makePart(clip, *made, voices, store);
    for (std::size_t v = 0; v < out.size(); ++v) {
      const auto from = sound->channel(static_cast<int>(v))
                            .floats()
                            .subspan(static_cast<std::size_t>((piece.range.start - made->range.start).value),
                                     static_cast<std::size_t>(piece.range.length().value));
      std::copy(from.begin(), from.end(), out[v].begin() + to);
    }
  }
  return out;
}

/// The take time that stretchedSound() reads for a range.
FrameRange readsOf(const Clip& clip, FrameRange range, const Voices& voices) {
  std::vector<MadePart> parts;
  addPinParts(clip.map, range, voices, parts);
  if (!parts.empty()) {
    range.start = std::min(range.start, parts.front().range.start);
    range.end = std::max(range.end, parts.back().range.end);
  }
  const Frames around{voices.rate};  // what the engine reads before and after
  return {clip.map.take(range.start) - around, clip.map.take(range.end) + around};
}

/// What a range of a clip sounds like with its pitch envelope, and kMadeTail after it.
Channels pitchedSound(const Clip& clip, FrameRange part, const Voices& voices, MadeStore& store) {
  const FrameRange range{part.start, part.end + kMadeTail};
  if (!voices.line->notes.empty())
    return stretchedSound(clip, range, retunedLine(clip, readsOf(clip, range, voices), voices), store);
  const auto reads = pitchReads(part, voices.rate);
  return pitched(clip, stretchedSound(clip, reads, voices, store), reads, part, voices.rate,
                 heldFormants(clip.extras->formants, voices.method));
}

/// Whether stretchedSound() would have to make nothing.
bool allAtHand(const Clip& clip, FrameRange range, const Voices& voices, const MadeStore& store) {
  std::vector<MadePart> parts;
  addPinParts(clip.map, range, voices, parts);
  return std::all_of(parts.begin(), parts.end(), [&](const MadePart& p) { return store.atHand(p.key) != nullptr; });
}

/// What of a clip is heard, in stretched time: its window and what crossfades show beyond it.
FrameRange heardOf(const ClipList& clips, std::size_t i) {
  const auto& c = clips[i];
  const bool joinsNext = i + 1 < clips.size() && clips[i + 1].start == c.end();
  auto before = c.seam.before;
  auto after = joinsNext ? clips[i + 1].seam.after : Frames{};
  if (c.reversed) std::swap(before, after);
  return {c.window().start - before, c.window().end + after};
}

/// How far a clip's part is from a place of the song.
Frames away(const Clip& clip, FrameRange part, Frames from) {
  const auto a = clip.placed(part.start) - from;
  const auto b = clip.placed(part.end) - from;
  if (std::min(a, b).value <= 0 && std::max(a, b).value > 0) return {};
  return Frames{std::min(std::abs(a.value), std::abs(b.value))};
}

}  // namespace

void Voice::read(Frames from, std::span<float> out) const {
  sound->channel(channel).readAround((from - offset).value, out);
}

std::vector<float> Voice::read(Frames from, std::int64_t length) const {
  std::vector<float> out(static_cast<std::size_t>(std::max<std::int64_t>(0, length)));
  read(from, out);
  return out;
}

Voices voicesOf(const Song& song, const MicSet& set, const Clip& clip, const MediaPool& pool) {
  Voices out;
  out.rate = song.rate;
  out.method = song.methodOf(set, clip);
  ContentHash hash;
  hash.add(&song.rate, sizeof song.rate);
  for (auto track : set.tracks) {
    const auto* mic = song.micFor(set, clip, track);
    if (!mic) continue;
    const auto found = pool.find(mic->media);
    if (found == pool.end()) continue;
    const auto* media = song.find(mic->media);
    if (media && isContentId(media->fingerprint))
      hash.add(media->fingerprint.data(), media->fingerprint.size());
    else {
      hash.add(&mic->media, sizeof mic->media);
      out.lasting = false;
    }
    const auto channels = found->second->channels();
    const auto variant = found->second->variant();
    hash.add(&channels, sizeof channels);
    hash.add(&variant, sizeof variant);
    hash.add(&mic->offset, sizeof mic->offset);
    for (int c = 0; c < channels; ++c) out.list.push_back({mic->media, found->second, c, mic->offset});
  }
  if (out.method == StretchMethod::single) {
    out.line = song.lineOf(clip.take, set.id);
    const auto heard = digestOf(out.line);
    hash.add(&heard, sizeof heard);
  }
  out.digest = hash.value();
  return out;
}

bool needsMaking(const Clip& clip) {
  if (clip.extras->retuned()) return true;
  const auto& p = clip.map.pins();
  for (std::size_t i = 1; i < p.size(); ++i)
    if (uneven(p[i - 1], p[i])) return true;
  return false;
}

std::vector<MadePart> madeParts(const Clip& clip, FrameRange stretched, const Voices& voices) {
  std::vector<MadePart> out;
  if (voices.list.empty() || stretched.empty()) return out;
  if (!clip.extras->retuned()) {
    addPinParts(clip.map, stretched, voices, out);
    return out;
  }
  const auto length = kPitchSeconds * voices.rate;
  for (auto k = floorDiv(stretched.start.value, length); k * length < stretched.end.value; ++k) {
    const FrameRange range{Frames{k * length}, Frames{(k + 1) * length}};
    out.push_back({range, true, pitchKey(clip, range, voices)});
  }
  return out;
}

MadeKey keyNow(MadeKey key, const Voices& voices) {
  for (const auto& v : voices.list) key.lasting = key.lasting && !v.sound->touched();
  return key;
}

std::shared_ptr<const DecodedMedia> makePart(const Clip& clip, const MadePart& part, const Voices& voices,
                                             MadeStore& store, const PartGoing& going) {
  auto frames = part.range.length();
  std::function<bool(const StreamSink&)> make;
  if (part.pitched) {
    frames += kMadeTail;
    make = [&](const StreamSink& to) { return passOn(pitchedSound(clip, part.range, voices, store), to); };
  } else {
    make = [&, pins = pinsFor(clip.map, part.range)](const StreamSink& to) {
      switch (voices.method) {
        case StretchMethod::drums: return betweenPins(pins.front(), pins.back(), voices, to);
        case StretchMethod::tape: return atSpeed(pins.front(), pins.back(), voices, to);
        case StretchMethod::single:
        case StretchMethod::chords: return throughPins(pins, voices, to);
      }
      return false;
    };
  }
  const SoundShape shape{voices.rate, voices.list.size(), frames};
  return store.keep([&] { return keyNow(part.key, voices); }, shape,
                    [&](const StreamSink& to) {
                      double made = 0;
                      return make([&](ChannelSpans sound) {
                        made += static_cast<double>(sound.front().size());
                        return to(sound) && (!going || going(made / static_cast<double>(frames.value)));
                      });
                    });
}

ClipSound soundAtHand(const Song& song, const MicSet& set, std::size_t clip, const MediaPool& pool,
                      const MadeStore* store) {
  ClipSound sound;
  const auto& clips = *set.clips;
  const auto voices = voicesOf(song, set, clips[clip], pool);
  for (std::size_t v = 0; v < voices.list.size(); ++v)
    sound.firstChannel.try_emplace(voices.list[v].media, static_cast<int>(v));
  for (const auto& part : madeParts(clips[clip], heardOf(clips, clip), voices)) {
    auto& p = sound.parts.emplace_back(ClipSound::Part{part.range, store ? store->atHand(part.key) : nullptr});
    if (p.sound || !store || !part.pitched) continue;
    p.sound = store->atHand(quickKey(part.key));
    p.quick = p.sound != nullptr;
  }
  return sound;
}

MadeSounds soundsAtHand(const Song& song, const MediaPool& pool, const MadeStore* store) {
  MadeSounds out;
  for (const auto& set : song.sets)
    for (std::size_t i = 0; i < set.clips->size(); ++i)
      if (const auto& clip = (*set.clips)[i]; needsMaking(clip)) out[clip.id] = soundAtHand(song, set, i, pool, store);
  return out;
}

bool anyMissing(const MadeSounds& sounds) {
  return std::any_of(sounds.begin(), sounds.end(), [](const auto& s) {
    return std::any_of(s.second.parts.begin(), s.second.parts.end(), [](const auto& p) { return !p.sound || p.quick; });
  });
}

std::vector<MissingPart> missingParts(const Song& song, const MediaPool& pool, const MadeStore& store, Frames near) {
  std::vector<std::pair<Frames, MissingPart>> found;
  std::set<std::string> known;
  for (const auto& set : song.sets) {
    const auto& clips = *set.clips;
    for (std::size_t i = 0; i < clips.size(); ++i) {
      if (!needsMaking(clips[i])) continue;
      const auto voices = std::make_shared<const Voices>(voicesOf(song, set, clips[i], pool));
      for (const auto& part : madeParts(clips[i], heardOf(clips, i), *voices))
        if (!store.atHand(part.key) && known.insert(part.key.text).second)
          found.push_back({away(clips[i], part.range, near), {&clips[i], part, voices}});
    }
  }
  std::stable_sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
  std::vector<MissingPart> out;
  out.reserve(found.size());
  for (auto& f : found) out.push_back(std::move(f.second));
  return out;
}

void makeQuickly(const Song& song, const MediaPool& pool, MadeStore& store, FrameRange near) {
  for (const auto& set : song.sets) {
    const auto& clips = *set.clips;
    for (std::size_t i = 0; i < clips.size(); ++i) {
      const auto& clip = clips[i];
      if (!clip.extras->retuned() || !clip.range().overlaps(near)) continue;
      const auto voices = voicesOf(song, set, clip, pool);
      for (const auto& part : madeParts(clip, heardOf(clips, i), voices)) {
        const auto at = away(clip, part.range, near.start);
        const auto reads = pitchReads(part.range, voices.rate);
        if (at >= near.length() || store.atHand(part.key) || store.atHand(quickKey(part.key))) continue;
        if (!allAtHand(clip, reads, voices, store)) continue;
        store.keep(quickKey(part.key), voices.rate,
                   quicklyPitched(clip, stretchedSound(clip, reads, voices, store), reads, part.range, voices.rate));
      }
    }
  }
}

Result<void> makeMissing(const Song& song, const MediaPool& pool, MadeStore& store, Frames near, Progress& progress,
                         const std::function<void()>& made) {
  constexpr std::chrono::milliseconds kOften{150};
  auto told = std::chrono::steady_clock::now();
  const auto missing = missingParts(song, pool, store, near);
  double done = 0;
  for (const auto& m : missing) {
    if (progress.cancelled()) return cancelledError();
    const auto going = [&](double share) {
      progress.report((done + share) / static_cast<double>(missing.size()));
      return !progress.cancelled();
    };
    if (!store.find(m.part.key) && !makePart(*m.clip, m.part, *m.voices, store, going)) return cancelledError();
    going(1);
    ++done;
    const auto now = std::chrono::steady_clock::now();
    if (made && now - told > kOften) {
      told = now;
      made();
    }
  }
  progress.report(1);
  return {};
}

}  // namespace ochron
