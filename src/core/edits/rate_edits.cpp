#include "edits/rate_edits.h"

#include <algorithm>
#include <string>

#include "base/hop.h"
#include "song/insert_place.h"

namespace ochron {
namespace {

/// Carries places from one rate to another.
class Carrier {
 public:
  Carrier(int from, int to) : steps_(to, from) {}

  Frames at(Frames f) const { return Frames{steps_.nearest(f.value)}; }
  void carry(Frames& f) const { f = at(f); }
  void carry(std::optional<Frames>& f) const {
    if (f) f = at(*f);
  }
  void carry(FrameRange& r) const { r = {at(r.start), at(r.end)}; }
  void carry(Envelope& e) const {
    for (auto& p : e) p.at = at(p.at);
    // Of two points that fall on one frame the later one counts from there on.
    for (std::size_t i = 0; i + 1 < e.size();)
      if (e[i + 1].at <= e[i].at)
        e.erase(e.begin() + static_cast<std::ptrdiff_t>(i));
      else
        ++i;
  }
  void carry(Shared<Envelope>& e) const {
    if (e->empty()) return;
    auto points = *e;
    carry(points);
    e = std::move(points);
  }
  void carry(Shared<InsertList>& inserts) const {
    changeMoved(inserts, [this](Envelope& e) { carry(e); });
  }
  void carry(TakeMap& m) const {
    if (m.identity()) return;
    std::vector<Pin> pins;
    for (const auto& p : m.pins()) {
      const Pin carried{at(p.take), at(p.stretched)};
      if (pins.empty() || (carried.take > pins.back().take && carried.stretched > pins.back().stretched))
        pins.push_back(carried);
    }
    m = TakeMap(std::move(pins));
  }

 private:
  Hop steps_;
};

void carryFades(const Carrier& c, Frames length, Fade& in, Fade& out) {
  c.carry(in.length);
  c.carry(out.length);
  in.length = std::min(in.length, length);
  out.length = std::min(out.length, length - in.length);
}

void carryClip(const Carrier& c, Clip& clip, Frames takeLength) {
  const auto end = c.at(clip.end());
  const auto shift = clip.shift();
  c.carry(clip.start);
  clip.length = end - clip.start;
  c.carry(clip.map);
  // A clip that plays on from where its neighbour ends does so still: both take their source by the same shift.
  clip.source = clip.reversed ? c.at(clip.source) : clip.start - c.at(shift);
  const auto first = clip.map.stretched(Frames{});
  const auto last = clip.map.stretched(takeLength);
  clip.source = std::clamp(clip.source, first, std::max(first, last - Frames{1}));
  clip.length = std::min(clip.length, last - clip.source);
  carryFades(c, clip.length, clip.fadeIn, clip.fadeOut);
  c.carry(clip.seam.before);
  c.carry(clip.seam.after);
  if (clip.piece) {
    c.carry(clip.piece->covers);
    c.carry(clip.piece->home);
    c.carry(clip.piece->map);
  }
  if (clip.extras->sync || clip.extras->sound || !clip.extras->gain.empty() || !clip.extras->pitch.empty()) {
    auto extras = *clip.extras;
    c.carry(extras.sync);
    if (extras.sound) c.carry(extras.sound->offset);
    c.carry(extras.gain);
    c.carry(extras.pitch);
    clip.extras = std::move(extras);
  }
}

void carryTake(const Carrier& c, Take& take) {
  c.carry(take.length);
  for (auto& m : take.mics) c.carry(m.offset);
  if (take.tempo) c.carry(take.tempo->firstDownbeat);
  for (auto& f : take.facts) {
    auto hits = *f.hits;
    for (auto& h : hits) {
      c.carry(h.at);
      c.carry(h.foundAt);
      for (auto& s : h.strokes) c.carry(s.at);
    }
    f.hits = std::move(hits);
  }
}

void carrySet(const Carrier& c, const Song& song, MicSet& set) {
  ClipList clips = *set.clips;
  for (auto& clip : clips) carryClip(c, clip, song.find(clip.take)->length);
  set.clips = std::move(clips);
  for (auto& l : set.locks) c.carry(l);
  auto plan = *set.plan;
  for (auto& [hit, wish] : plan.overrides) {
    c.carry(wish.seam.leadIn);
    c.carry(wish.seam.length);
  }
  for (auto& g : plan.gaps) c.carry(g.range);
  set.plan = std::move(plan);
}

void carryLayer(const Carrier& c, Layer& layer) {
  auto sounds = *layer.sounds;
  for (auto& s : sounds.sounds) {
    c.carry(s.range);
    c.carry(s.attack);
    c.carry(s.lag);
    s.range.end = std::max(s.range.end, s.range.start + Frames{1});
  }
  layer.sounds = std::move(sounds);
  auto heard = *layer.heard;
  for (auto& [take, attacks] : heard.takes)
    for (auto& a : attacks) {
      c.carry(a.stroke);
      c.carry(a.at);
    }
  layer.heard = std::move(heard);
}

}  // namespace

Result<Song> songAtRate(const Song& song, int rate) {
  if (!kSongRateRange.accepts(rate))
    return fail(ErrorKind::badInput, "A song runs at 8 to 384 kHz, not at " + std::to_string(rate) + " Hz.");
  if (rate == song.rate) return song;
  const Carrier c(song.rate, rate);
  auto next = song;
  next.rate = rate;
  auto tempo = TempoMap::make(rate, c.at(song.tempo.origin()), song.tempo.tempos(), song.tempo.meters());
  if (!tempo) return tl::unexpected(tempo.error());
  next.tempo = std::move(*tempo);
  auto anchors = *song.anchors;
  for (auto& a : anchors) c.carry(a.frame);
  next.anchors = std::move(anchors);
  if (next.tempoDoubt) c.carry(next.tempoDoubt->otherBar);
  for (auto& m : next.media) c.carry(m.length);
  for (auto& t : next.takes) carryTake(c, t);
  for (auto& t : next.tracks) {
    c.carry(t.gainEnvelope);
    c.carry(t.panEnvelope);
    c.carry(t.muteEnvelope);
    c.carry(t.inserts);
  }
  for (auto& s : next.sets) {
    carrySet(c, next, s);
    c.carry(s.inserts);
  }
  for (auto& l : next.layers) carryLayer(c, l);
  for (auto& p : next.patterns) {
    auto strokes = *p.strokes;
    for (auto& s : strokes) carryClip(c, s.clip, next.find(s.clip.take)->length);
    p.strokes = std::move(strokes);
  }
  for (auto& p : next.prints) {
    c.carry(p.start);
    ClipList clips = *p.clips;
    for (auto& clip : clips) carryClip(c, clip, next.find(clip.take)->length);
    p.clips = std::move(clips);
    for (auto* cut : {&p.cutBefore, &p.cutAfter})
      if (*cut) carryClip(c, **cut, next.find((*cut)->take)->length);
    for (auto& m : p.mixer)
      for (auto* e : {&m.gain, &m.panning, &m.mute}) c.carry(*e);
    for (auto& m : p.mixer) c.carry(m.inserts);
    c.carry(p.inserts);
    for (auto& t : p.trimmed) c.carry(t.offset);
    for (auto& b : p.bundles) {
      c.carry(b.fadeIn.length);
      c.carry(b.fadeOut.length);
    }
  }
  for (auto& s : next.spans) c.carry(s.range);
  for (auto& b : next.bundles) {
    c.carry(b.fadeIn.length);
    c.carry(b.fadeOut.length);
  }
  c.carry(next.gainEnvelope);
  c.carry(next.speedEnvelope);
  c.carry(next.inserts);
  if (const auto broken = brokenRules(next); !broken.empty())
    return fail(
        ErrorKind::refused,
        "At " + std::to_string(rate) + " Hz something of this song would be too short to stay. Nothing was changed.",
        broken.front());
  return next;
}

}  // namespace ochron
