#include "edits/tempo_edits.h"

#include <algorithm>

#include "edits/edit_tools.h"
#include "edits/pieces.h"
#include "song/insert_place.h"

namespace ochron {
namespace {

Envelope carried(const Envelope& envelope, const TempoMap& from, const TempoMap& to) {
  Envelope out = envelope;
  for (auto& p : out) p.at = to.toFrames(from.toTicks(p.at));
  out.erase(std::unique(out.begin(), out.end(), [](auto& a, auto& b) { return a.at == b.at; }), out.end());
  return out;
}

void carryMarks(Song& song, const TempoMap& from, const TempoMap& to) {
  for (auto& m : song.markers) {
    if (m.hold == Hold::grid) continue;  // its place is in ticks
    const auto end = to.toTicks(from.toFrames(m.end()));
    m.at = to.toTicks(from.toFrames(m.at));
    m.length = std::max(Ticks{}, end - m.at);
  }
  std::stable_sort(song.markers.begin(), song.markers.end(), [](auto& a, auto& b) { return a.at < b.at; });
  for (auto& s : song.spans) {
    if (s.hold == Hold::clock) continue;
    const FrameRange range{to.toFrames(from.toTicks(s.range.start)), to.toFrames(from.toTicks(s.range.end))};
    if (!range.empty()) s.range = range;
  }
  std::stable_sort(song.spans.begin(), song.spans.end(),
                   [](auto& a, auto& b) { return a.range.start < b.range.start; });
  const auto carry = [&](Hold hold, const std::vector<Shared<Envelope>*>& envelopes) {
    for (auto* e : envelopes)
      if (hold == Hold::grid && !(*e)->empty()) *e = carried(**e, from, to);
  };
  const auto carryMoved = [&](Hold hold, Shared<InsertList>& inserts) {
    if (hold != Hold::grid) return;
    changeMoved(inserts, [&](Envelope& e) { e = carried(e, from, to); });
  };
  for (auto& t : song.tracks) {
    carry(t.envelopeHold, {&t.gainEnvelope, &t.panEnvelope, &t.muteEnvelope});
    carryMoved(t.envelopeHold, t.inserts);
  }
  for (auto& s : song.sets) carryMoved(song.envelopeHold, s.inserts);
  carryMoved(song.envelopeHold, song.inserts);
  carry(song.envelopeHold, {&song.gainEnvelope, &song.speedEnvelope});
}

}  // namespace

Result<Song> setTempoMap(const Song& song, const TempoMap& map) {
  if (map.rate() != song.rate) return fail(ErrorKind::badInput, "The tempo map has another sample rate than the song.");
  Song next = song;
  next.tempo = map;
  next.anchors = TempoAnchors{};
  next.tempoDoubt.reset();
  std::erase_if(next.acceptedTempo,
                [](const auto& a) { return a.first == CheckKind::unsureTempo || a.first == CheckKind::unsureBars; });
  for (std::size_t i = 0; i < next.sets.size(); ++i) {
    auto& s = next.sets[i];
    if (std::none_of(s.clips->begin(), s.clips->end(), [](auto& c) { return c.hold == Hold::grid; })) continue;
    ClipList clips = withoutPlan(*s.clips);
    ClipList placed;
    for (auto& c : clips) {
      if (c.hold == Hold::grid) moveAlong(c, map.toFrames(song.tempo.toTicks(c.start)) - c.start);
      placeClip(next, placed, c);
    }
    s.clips = std::move(placed);
  }
  carryMarks(next, song.tempo, map);
  return next;
}

Song withTempoDoubt(const Song& song, const TempoDoubt& doubt) {
  Song next = song;
  if (std::min(doubt.beat, doubt.bars) < kTempoSure) next.tempoDoubt = doubt;
  return next;
}

Result<Song> setMeter(const Song& song, int bar, Meter meter, bool alone) {
  const auto& map = song.tempo;
  bar = std::max(0, bar);
  const auto following = map.meterOfBar(bar + 1);
  auto wanted = map.meters();
  // A bar that had a meter of its own gives the one before back after it: that goes with it.
  const bool wasAlone =
      bar > 0 && map.meterOfBar(bar) != map.meterOfBar(bar - 1) && following == map.meterOfBar(bar - 1);
  std::erase_if(wanted, [&](const MeterEvent& e) { return e.bar == bar || ((alone || wasAlone) && e.bar == bar + 1); });
  wanted.push_back({bar, meter});
  if (alone) wanted.push_back({bar + 1, following});
  std::sort(wanted.begin(), wanted.end(), [](auto& a, auto& b) { return a.bar < b.bar; });
  // What changes nothing is no change of meter.
  std::vector<MeterEvent> meters;
  for (const auto& e : wanted)
    if (meters.empty() || meters.back().meter != e.meter) meters.push_back(e);
  auto made = TempoMap::make(map.rate(), map.origin(), map.tempos(), meters);
  if (!made) return tl::unexpected(made.error());
  Song next = song;
  next.tempo = std::move(*made);
  return next;
}

}  // namespace ochron
