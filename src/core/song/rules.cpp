#include <algorithm>
#include <cmath>
#include <set>

#include "song/range_rules.h"
#include "song/song.h"

namespace ochron {
namespace {

using Broken = std::vector<std::string>;

bool isEnvelope(const Envelope& e, const SettingRange& range) {
  for (std::size_t i = 0; i < e.size(); ++i)
    if (!range.accepts(e[i].value) || !(std::abs(e[i].bend) <= 1) || (i > 0 && e[i].at <= e[i - 1].at)) return false;
  return true;
}

void checkClip(const Song& song, const MicSet& set, const Clip& c, Broken& broken,
               const std::vector<Bundle>& kept = {}) {
  const auto say = [&](const std::string& what) { broken.push_back(what + " (a clip of " + set.name + ")"); };
  if (c.length.value <= 0) say("I2: it has no length");
  const auto* take = song.find(c.take);
  if (!take)
    say("I3: it plays a take that is not there");
  else if (!c.map.valid() || (c.piece && !c.piece->map.valid()))
    say("I18: its pins do not rise");
  else if (c.handleBefore(take->length).value < 0 || c.handleAfter(take->length).value < 0)
    say("I3: it reaches beyond its take");
  const auto& extras = *c.extras;
  if (const auto& sound = extras.sound) {
    const bool there =
        std::any_of(song.media.begin(), song.media.end(), [&](const Media& m) { return m.id == sound->media; });
    if (!there) say("I3: its own sound is not there");
    if (c.piece || !extras.media.empty()) say("I3: it has a sound of its own and plays something else too");
  }
  if (!extras.media.empty()) {
    if (extras.media.size() != set.tracks.size()) say("I3: it has not one recording for each track");
    for (const auto m : extras.media)
      if (m && take && std::none_of(take->mics.begin(), take->mics.end(), [&](auto& mic) { return mic.media == m; }))
        say("I3: it plays a recording that is not of its take");
  }
  if (c.fadeIn.length.value < 0 || c.fadeOut.length.value < 0 || c.fadeIn.length + c.fadeOut.length > c.length)
    say("I4: its fades are longer than the clip");
  if (c.seam.before.value < 0 || c.seam.after.value < 0) say("I4: its seam has a negative length");
  if (c.id.value > song.lastId) say("I5: its id was never given out");
  const bool keptWith = std::any_of(kept.begin(), kept.end(), [&](const Bundle& b) { return b.id == c.bundle; });
  if (c.bundle && !song.find(c.bundle) && !keptWith) say("I16: its bundle is not there");
  if (c.reversed && c.piece) say("I18: it is reversed and planned");
  if (!isEnvelope(extras.gain, kGainEnvelopeRange) || !isEnvelope(extras.pitch, kPitchRange))
    say("I17: its envelope is not valid");
}

bool sameSound(const Take& a, const Take& b) { return a.id == b.id && a.length == b.length && a.mics == b.mics; }

/// What the rules of clips read, besides the clips and their set, is as it was.
bool sameAround(const Song& a, const Song& b) {
  return a.bundles == b.bundles &&
         std::equal(a.takes.begin(), a.takes.end(), b.takes.begin(), b.takes.end(), sameSound);
}

void checkClipIds(const Song& song, Broken& broken) {
  std::vector<std::uint64_t> ids;
  for (const auto& s : song.sets)
    for (const auto& c : *s.clips) ids.push_back(c.id.value);
  std::sort(ids.begin(), ids.end());
  if (std::adjacent_find(ids.begin(), ids.end()) != ids.end()) broken.push_back("I5: two clips share an id");
  if (!ids.empty() && ids.front() == 0) broken.push_back("I5: a clip has no id");
}

void checkSets(const Song& song, const Song* known, Broken& broken) {
  std::set<TrackId> grouped;
  const bool around = known && sameAround(song, *known);
  checkClipIds(song, broken);
  for (const auto& s : song.sets) {
    if (s.tracks.empty()) broken.push_back("I1: mic set " + s.name + " has no track");
    for (auto t : s.tracks) {
      if (!song.find(t)) broken.push_back("I1: mic set " + s.name + " names a track that is not there");
      if (!grouped.insert(t).second) broken.push_back("I1: a track belongs to two mic sets");
    }
    for (std::size_t i = 0; i < s.locks.size(); ++i)
      if (s.locks[i].empty() || (i > 0 && s.locks[i].start <= s.locks[i - 1].end))
        broken.push_back("I7: locked ranges of " + s.name + " are empty, touch or are out of order");
    const auto* was = around ? known->find(s.id) : nullptr;
    if (was && was->clips.sameObject(s.clips) && was->tracks == s.tracks) continue;
    const Clip* before = nullptr;
    for (const auto& c : *s.clips) {
      checkClip(song, s, c, broken);
      if (before && c.start < before->end())
        broken.push_back("I2: clips of " + s.name + " overlap or are out of order");
      before = &c;
    }
  }
  for (const auto& t : song.tracks) {
    if (!grouped.contains(t.id)) broken.push_back("I1: track " + t.name + " belongs to no mic set");
    if (!isEnvelope(*t.gainEnvelope, kGainEnvelopeRange) || !isEnvelope(*t.panEnvelope, kPanRange) ||
        !isEnvelope(*t.muteEnvelope, kMuteRange))
      broken.push_back("I17: an envelope of track " + t.name + " is not valid");
  }
}

void checkMoved(const Song& song, Broken& broken) {
  const auto check = [&](const InsertList& inserts) {
    for (const auto& i : inserts)
      for (const auto& [symbol, m] : i.moved)
        if (!(m.low < m.high) || (m.way == EnvelopeWay::octaves && m.low <= 0) || m.points.empty() ||
            !isEnvelope(m.points, m.range()))
          broken.push_back("I17: what moves control " + symbol + " of " + i.name + " is not valid");
  };
  check(*song.inserts);
  for (const auto& t : song.tracks) check(*t.inserts);
  for (const auto& s : song.sets) check(*s.inserts);
  for (const auto& p : song.prints) {
    check(*p.inserts);
    for (const auto& m : p.mixer) check(*m.inserts);
  }
}

void checkTakes(const Song& song, Broken& broken) {
  for (const auto& t : song.takes) {
    for (const auto& m : t.mics)
      if (!song.find(m.media)) broken.push_back("I3: take " + t.name + " names a recording that is not there");
    for (const auto& h : t.facts)
      if (!std::is_sorted(h.hits->begin(), h.hits->end(), [](const Hit& a, const Hit& b) { return a.at < b.at; }))
        broken.push_back("I6: hits of take " + t.name + " are out of order");
  }
}

void checkMarks(const Song& song, Broken& broken) {
  if (!isEnvelope(*song.gainEnvelope, kGainEnvelopeRange) || !isEnvelope(*song.speedEnvelope, kSpeedRange))
    broken.push_back("I17: an envelope of the song is not valid");
  for (std::size_t i = 0; i < song.markers.size(); ++i)
    if (song.markers[i].length.value < 0 || (i > 0 && song.markers[i].at < song.markers[i - 1].at))
      broken.push_back("I19: markers are out of order, or a section has a negative length");
  for (const auto& s : song.spans) {
    if (s.range.empty() || s.tracks.empty()) broken.push_back("I19: a silent span has no length or no track");
    for (auto t : s.tracks)
      if (!song.find(t)) broken.push_back("I19: a silent span lies on a track that is not there");
  }
  if (song.bundles.empty()) return;
  std::set<BundleId> held;
  for (const auto& s : song.sets)
    for (const auto& c : *s.clips) held.insert(c.bundle);
  for (const auto& b : song.bundles)
    if (!held.contains(b.id)) broken.push_back("I16: bundle " + b.name + " holds no clip");
}

void checkPrints(const Song& song, const Song* known, Broken& broken) {
  if (known && known->prints == song.prints && known->takes == song.takes) return;
  for (const auto& p : song.prints) {
    const auto say = [&](const std::string& what) { broken.push_back("I28: " + what + " (a print)"); };
    if (!p.id || p.id.value > song.lastId) say("its id was never given out");
    const auto* set = song.find(p.set);
    if (!set) {
      say("it belongs to a mic set that is not there");
      continue;
    }
    if (p.depth != PrintDepth::trim && !song.find(p.take)) say("what was printed is not there");
    for (const auto& c : *p.clips) checkClip(song, *set, c, broken, p.bundles);
    for (const auto* cut : {&p.cutBefore, &p.cutAfter})
      if (*cut) checkClip(song, *set, **cut, broken, p.bundles);
    for (const auto& t : p.trimmed)
      if (!song.find(t.was)) say("the recording it was trimmed from is not there");
  }
}

void checkPatterns(const Song& song, const Song* known, Broken& broken) {
  if (known && known->patterns == song.patterns && known->takes == song.takes && known->sets == song.sets) return;
  for (const auto& p : song.patterns) {
    const auto say = [&](const std::string& what) { broken.push_back("I30: " + what + " (pattern " + p.name + ")"); };
    if (!p.id || p.id.value > song.lastId) say("its id was never given out");
    const auto* set = song.find(p.set);
    if (!set) {
      say("it belongs to a mic set that is not there");
      continue;
    }
    if (p.length.value <= 0 || p.strokes->empty()) say("it has no length or no stroke");
    Ticks last{0};
    for (const auto& s : *p.strokes) {
      if (s.at < last || s.at >= p.length) say("its strokes do not rise within its length");
      last = s.at;
      if (s.clip.start.value != 0 || s.clip.bundle || s.clip.piece) say("a stroke is tied to the lanes");
      checkClip(song, *set, s.clip, broken);
    }
  }
}

void checkLayers(const Song& song, Broken& broken) {
  std::set<TrackId> played;
  for (const auto& l : song.layers) {
    const auto say = [&](const std::string& what) { broken.push_back("I27: " + what + " (layer " + l.name + ")"); };
    if (!l.id || l.id.value > song.lastId) say("its id was never given out");
    if (!song.find(l.set)) say("it lies on a mic set that is not there");
    const auto* home = song.setOf(l.track);
    if (!home || home->tracks.size() != 1)
      say("it has no track of its own");
    else if (home->id == l.set)
      say("it is heard on the drum's own track");
    if (!played.insert(l.track).second) say("it shares its track with another layer");
    for (const auto& s : l.sounds->sounds)
      if (!song.find(s.media)) say("it plays a sound that is not there");
    for (std::size_t i = 1; i < l.curve.size(); ++i)
      if (l.curve[i].strength <= l.curve[i - 1].strength) say("its curve does not rise from soft to hard");
  }
}

}  // namespace

std::vector<std::string> brokenRules(const Song& song, const Song* known) {
  Broken broken;
  checkRangesOf(song, known, broken);
  if (!broken.empty()) return broken;  // places that far away cannot be reckoned with
  checkSets(song, known, broken);
  checkTakes(song, broken);
  checkMarks(song, broken);
  checkMoved(song, broken);
  checkLayers(song, broken);
  checkPrints(song, known, broken);
  checkPatterns(song, known, broken);
  const auto& anchors = *song.anchors;
  for (std::size_t i = 1; i < anchors.size(); ++i)
    if (anchors[i].at <= anchors[i - 1].at || anchors[i].frame <= anchors[i - 1].frame)
      broken.push_back("I23: tempo anchors do not rise");
  return broken;
}

}  // namespace ochron
