#include "support/random_edits.h"

#include <algorithm>
#include <cmath>
#include <optional>

#include "edits/anchor_edits.h"
#include "edits/arrange.h"
#include "edits/cell_edits.h"
#include "edits/clip_edits.h"
#include "edits/fade_edits.h"
#include "edits/hit_edits.h"
#include "edits/layer_edits.h"
#include "edits/locks.h"
#include "edits/mark_edits.h"
#include "edits/note_edits.h"
#include "edits/pattern_edits.h"
#include "edits/pin_edits.h"
#include "edits/pitch_edits.h"
#include "edits/plan_edits.h"
#include "edits/stretch_edits.h"
#include "edits/take_edits.h"
#include "edits/tempo_edits.h"
#include "edits/track_edits.h"
#include "seams/seam_edits.h"

namespace ochron::test {
namespace {

Result<Song> song(Result<Placed> placed) {
  if (!placed) return tl::unexpected(placed.error());
  return std::move(placed->song);
}

}  // namespace

Result<Song> clipEdit(const Song& s, Dice& d) {
  const auto clips = d.clips(s);
  const auto by = d.frames(-40'000, 40'000);
  const auto overlap = d.coin() ? Overlap::cover : Overlap::crossfade;
  switch (d.below(17)) {
    case 0: return splitAt(s, d.set(s), {d.frames(0, 480'000), d.frames(0, 480'000)}, d.frames(0, 2000));
    case 1: return moveClips(s, clips, by, overlap);
    case 2: return moveClipsAcross(s, clips, by, static_cast<int>(d.below(5)) - 2, overlap);
    case 3: return trimStarts(s, clips, by, d.coin());
    case 4: return trimEnds(s, clips, by, d.coin());
    case 5: return slipClips(s, clips, by);
    case 6: return slideClips(s, clips, by);
    case 7: return clips.size() < 3 ? deleteClips(s, clips, d.coin()) : Result<Song>(s);
    case 8: return deleteRange(s, {d.set(s), d.set(s)}, d.range(), d.coin());
    case 9: return closeGapsBefore(s, clips);
    case 10: return reverseClips(s, clips);
    case 11: return clips.size() > 1 ? swapClips(s, clips[0], clips[1]) : Result<Song>(s);
    case 12:
      return changeClips(s, clips, [&](Clip& c) {
        c.gainDb = -3, c.pan = 20, c.muted = d.coin();
        changeExtras(c, [&](ClipExtras& e) { e.name = "n", e.colour = 2, e.sync = c.played().start; });
      });
    case 13: {
      const auto* clip = clips.empty() ? nullptr : s.find(clips[0]);
      if (!clip) return s;
      const auto take = clip->played().start + Frames{static_cast<std::int64_t>(d.below(static_cast<std::uint64_t>(
                                                   std::max<std::int64_t>(1, clip->played().length().value))))};
      const auto reach = static_cast<PinReach>(d.below(3));
      return d.coin() ? movePins(s, clips[0], {take}, by, reach) : removePins(s, clips[0], handPins(*clip));
    }
    case 14:
      return d.coin() ? transposeClips(s, clips, d.coin() ? 300 : -250)
                      : setFormants(s, clips, d.coin() ? std::optional(Formants{d.coin(), 120}) : std::nullopt);
    case 15:
      return setStretchMethod(s, clips,
                              d.coin() ? std::optional(static_cast<StretchMethod>(d.below(4))) : std::nullopt);
    default: {
      const auto copied = d.coin() ? copyClips(s, clips) : copyRange(s, {d.set(s)}, d.range());
      if (!copied) return tl::unexpected(copied.error());
      return song(
          pasteClips(s, *copied, d.frames(0, 600'000), overlap, d.coin() ? std::optional(d.set(s)) : std::nullopt));
    }
  }
}

namespace {

Result<Song> patternEdit(const Song& s, Dice& d) {
  if (s.patterns.empty() || d.below(4) == 0) return keepPattern(s, d.set(s), d.range(), "pattern");
  const auto& p = s.patterns[d.below(s.patterns.size())];
  switch (d.below(6)) {
    case 0: return changePattern(s, shuffled(p, 7));
    case 1: return changePattern(s, varied(s, p, Grid{}, 8));
    case 2: return duplicatePattern(s, p.id);
    case 3: return removePattern(s, p.id);
    case 4: {
      const auto stroke = d.below(p.strokes->size());
      if (d.coin()) return changePattern(s, drawn(p, (*p.strokes)[stroke].clip, Ticks{p.length.value / 3}, Ticks{900}));
      const auto less = erased(p, stroke);
      return less ? changePattern(s, *less) : tl::unexpected(less.error());
    }
    default: return layPattern(s, p.id, d.frames(0, 600'000), 1 + static_cast<int>(d.below(3)));
  }
}

}  // namespace

Result<Song> otherEdit(const Song& s, Dice& d) {
  const auto clips = d.clips(s);
  switch (d.below(15)) {
    case 0:
      return changeFades(s, clips, d.coin() ? FadeEnd::in : FadeEnd::out, [&](const Clip&, Fade) {
        return Fade{d.frames(0, 30'000), FadeShape::sCurve, 0.3, d.coin() ? FadeKind::gain : FadeKind::tape};
      });
    case 1: return removeFades(s, clips);
    case 2: {
      CrossfadeChange change;
      change.before = d.frames(0, 3000), change.after = d.frames(0, 3000), change.bias = 0.2;
      return changeCrossfades(s, clips, change);
    }
    case 3: return tapeFade(s, {d.set(s)}, d.range(), FadeEnd::out);
    case 4: return addSpan(s, {d.track(s)}, d.range(), "quiet");
    case 5:
      return s.spans.empty() ? Result<Song>(s) : copySpan(s, s.spans[d.below(s.spans.size())].id, d.frames(0, 9000));
    case 6: return s.spans.empty() ? Result<Song>(s) : removeSpan(s, s.spans[d.below(s.spans.size())].id);
    case 7: return bundleClips(s, clips, "bundle");
    case 8: return s.bundles.empty() ? Result<Song>(s) : unbundle(s, s.bundles[d.below(s.bundles.size())].id);
    case 9: return addMarker(s, Ticks{static_cast<std::int64_t>(d.below(9'000'000))}, Ticks{d.coin() ? 0 : 5000}, "m");
    case 10: {
      const EnvelopeRef ref{static_cast<EnvelopeKind>(d.below(7)), d.track(s), clips.empty() ? ClipId{} : clips[0]};
      return setEnvelope(s, ref, {{d.frames(0, 9000), 1, 0.4}, {d.frames(9000, 90'000), -9, 0}});
    }
    case 11: return song(duplicateClips(s, clips, 1 + static_cast<int>(d.below(2))));
    case 12: {
      if (d.coin()) return giveRecordingBack(s, clips);
      IncomingSound sound;
      sound.name = "clap", sound.path = "/nowhere/clap.wav", sound.fingerprint = "clap", sound.length = Frames{9'000};
      return giveSound(s, clips, sound, d.frames(0, 400));
    }
    case 13: return patternEdit(s, d);
    default: return lockRange(s, d.set(s), {d.frames(0, 480'000), d.frames(480'000, 481'000)});
  }
}

namespace {

/// A hit of a set's takes; none when there is none.
std::optional<Hit> anyHit(const Song& s, SetId set, Dice& d) {
  const auto& hits = s.hitsOf(s.takes.front().id, set);
  if (hits->empty()) return {};
  return (*hits)[d.below(hits->size())];
}

Result<Song> hitEdit(const Song& s, SetId set, Dice& d) {
  const auto take = s.takes.front().id;
  const auto hit = anyHit(s, set, d);
  if (!hit || d.below(6) == 0) return addHit(s, take, set, d.frames(0, 480'000), DrumClass::snare);
  switch (d.below(4)) {
    case 0: return moveHit(s, take, set, hit->id, hit->at + d.frames(-900, 900));
    case 1: return removeHits(s, take, set, {hit->id});
    case 2: return setHitClass(s, take, set, {hit->id}, static_cast<DrumClass>(d.below(6)));
    default: {
      HitSettings settings = s.find(set)->hits;
      settings.sensitivity = static_cast<double>(d.below(101));
      return setHitSettings(s, set, settings);
    }
  }
}

Result<Song> timingEdit(const Song& s, SetId set, Dice& d) {
  TimingPlan plan = *s.find(set)->plan;
  const auto hit = anyHit(s, set, d);
  switch (d.below(7)) {
    case 0: plan.settings.on = d.below(4) != 0; break;
    case 1: plan.settings.strength = static_cast<double>(d.below(101)); break;
    case 2: plan.settings.method = d.coin() ? TimingMethod::slices : TimingMethod::stretch; break;
    case 3: plan.settings.keepPocket = static_cast<double>(d.below(101)); break;
    case 4:
      if (hit) plan.overrides[hit->id].frozen = d.coin();
      break;
    case 5:
      if (hit) plan.overrides[hit->id].target = Ticks{static_cast<std::int64_t>(d.below(2'000'000))};
      break;
    default: return leaveAlone(s, set, d.range(), d.coin());
  }
  return setTimingPlan(s, set, plan);
}

Result<Song> seamEdit(const Song& s, SetId set, Dice& d) {
  const auto& clips = *s.find(set)->clips;
  if (clips.size() < 2) return s;
  const auto id = clips[1 + d.below(clips.size() - 1)].id;
  if (d.below(4) == 0) return releaseSeams(s, set, {id});
  SeamOverride change;
  if (d.coin()) change.leadIn = d.frames(-2000, 18'000);
  if (d.coin()) change.length = d.frames(0, 1500);
  if (d.coin()) change.fill = static_cast<SeamFill>(d.below(5));
  return changeSeams(s, set, {id}, change);
}

Result<Song> tempoEdit(const Song& s, Dice& d) {
  const auto& map = s.tempo;
  switch (d.below(5)) {
    case 0: return setAnchor(s, map.barStart(static_cast<int>(d.below(5))), d.frames(0, 480'000));
    case 1: {
      const auto made = TempoMap::steady(s.rate, 60 + static_cast<double>(d.below(120)), {}, map.origin());
      return made ? setTempoMap(s, *made) : tl::unexpected(made.error());
    }
    case 2: return setMeter(s, static_cast<int>(d.below(4)), {3 + static_cast<int>(d.below(4)), 4}, d.coin());
    case 3: return shiftBars(s, Ticks{}, d.frames(-9000, 9000));
    default:
      return removeAnchors(s, s.anchors->empty() ? std::vector<Ticks>{} : std::vector<Ticks>{s.anchors->front().at});
  }
}

Result<Song> trackEdit(const Song& s, Dice& d) {
  Track t = *s.find(d.track(s));
  switch (d.below(5)) {
    case 0: t.gainDb = static_cast<double>(d.below(120)) - 70; break;  // beyond its range now and then
    case 1: t.muted = !t.muted; break;
    case 2: t.pan = static_cast<double>(d.below(300)) - 150; break;
    case 3: t.name = std::string(d.below(20) == 0 ? 20'000 : 5, 'n'); break;
    default: t.name = d.coin() ? "\xff\xfe" : "m\xc3\xbc"; break;
  }
  return setTrack(s, t);
}

Result<Song> pitchEdit(const Song& s, SetId set, Dice& d) {
  switch (d.below(4)) {
    case 0: {
      auto settings = s.find(set)->pitch->settings;
      settings.on = d.coin();
      settings.keepVibrato = static_cast<double>(d.below(200));
      return setTuning(s, set, settings);
    }
    case 1: {
      NoteWish wish;
      wish.target = static_cast<double>(d.below(60'000)) - 20'000;
      return setNoteWishes(s, set, {{{s.takes.front().id, static_cast<std::int64_t>(d.below(9000))}, wish}});
    }
    case 2: {
      SungLine line;
      line.track.values.assign(200, {220, 0.9});
      line.notes = {{0.1, 0.4 + 0.1 * static_cast<double>(d.below(4)), 220, false}};
      return setLine(s, s.takes.front().id, set, line);
    }
    default: return setStretchMethod(s, set, d.coin() ? std::optional(StretchMethod::chords) : std::nullopt);
  }
}

/// Layers come and go, and everything about them is turned.
Result<Song> layerEdit(const Song& s, Dice& d) {
  if (s.layers.empty() || d.below(6) == 0)
    return addLayer(s, d.set(s), d.coin() ? std::optional(DrumClass::snare) : std::nullopt, "layer");
  auto layer = s.layers[d.below(s.layers.size())];
  switch (d.below(7)) {
    case 0: return removeLayer(s, layer.id);
    case 1: return duplicateLayer(s, layer.id);
    case 2: {
      IncomingSoundSet in;
      in.name = "sounds";
      in.origin = "s.sfz";
      in.files.push_back({"a", "a.wav", "x1", 1, 44'100, Frames{9000}});
      for (int i = 0; i < 3; ++i) {
        KitSound sound;
        sound.range = {Frames{100 * i}, Frames{9000}};
        sound.low = 0.3 * i, sound.high = 0.3 * i + 0.3;
        in.sounds.push_back({0, sound});
      }
      return setLayerSounds(s, layer.id, in);
    }
    case 3: {
      StrokeWish wish;
      if (d.coin()) wish.heard = d.coin();
      wish.gainDb = static_cast<double>(d.below(200)) - 100;  // beyond its range now and then
      const auto hit = anyHit(s, layer.set, d);
      return setStrokeWish(s, layer.id, hit ? std::vector{hit->id} : std::vector<HitId>{}, wish);
    }
    case 4: layer.settings.blend = static_cast<double>(d.below(120)); break;
    case 5: layer.curve = {{0.1, -30}, {d.coin() ? 0.1 : 0.9, 0}}; break;  // does not rise now and then
    default:
      layer.on = d.coin();
      layer.turned = d.coin();
      layer.settings.offsetMs = static_cast<double>(d.below(40)) - 20;
  }
  return setLayer(s, layer);
}

/// Values as they may be typed.
Result<Song> typedEdit(const Song& s, Dice& d) {
  const auto clips = d.clips(s);
  const double odd[] = {1e10, -1e10, 1e300, 0, 48'000, std::nan("")};
  const double v = odd[d.below(std::size(odd))];
  switch (d.below(3)) {
    case 0: {
      Groove g;
      g.name = "g";
      g.offsetsMs = {0, v};
      g.loudness = {1, 0};
      return keepGroove(s, g);
    }
    case 1: return changeClips(s, clips, [&](Clip& c) { c.gainDb = v; });
    default: return moveClips(s, clips, Frames{static_cast<std::int64_t>(std::clamp(v == v ? v : 0.0, -1e17, 1e17))});
  }
}

}  // namespace

Result<Song> planEdit(const Song& s, Dice& d) {
  const auto set = d.set(s);
  switch (d.below(10)) {
    case 0:
    case 1: return hitEdit(s, set, d);
    case 2:
    case 3: return timingEdit(s, set, d);
    case 4: return seamEdit(s, set, d);
    case 5: return tempoEdit(s, d);
    case 6: return trackEdit(s, d);
    case 7: return pitchEdit(s, set, d);
    case 8: return layerEdit(s, d);
    default: return typedEdit(s, d);
  }
}

}  // namespace ochron::test
