#include <algorithm>
#include <cmath>

#include "song/range_rules.h"
#include "song/ranges.h"

namespace ochron {
namespace {

/// Collects what lies outside its range, said by what it belongs to.
class Ranges {
 public:
  explicit Ranges(std::vector<std::string>& broken) : broken_(broken) {}

  void of(std::string whose) { whose_ = std::move(whose); }
  void hold(bool ok, const char* what) {
    if (!ok) broken_.push_back(std::string("I24: ") + what + " of " + whose_ + " is outside what a song can hold");
  }
  void text(std::string_view t, const char* what) { hold(within(t), what); }
  void place(Frames f, const char* what = "a place") { hold(within(f), what); }
  void length(Frames f, const char* what = "the length") { hold(f.value >= 0 && f <= kFarthest, what); }
  void place(Ticks t, const char* what = "a place") { hold(within(t), what); }
  void number(double v, const SettingRange& range, const char* what) { hold(range.accepts(v), what); }
  template <class List>
  void few(const List& list, std::size_t most, const char* what) {
    hold(list.size() <= most, what);
  }
  void fade(const Fade& f) {
    length(f.length, "a fade");
    number(f.bend, kUnitRange, "a fade's bend");
  }
  void envelope(const Envelope& e) {
    few(e, kMostPoints, "an envelope");
    for (const auto& p : e) place(p.at, "an envelope's point");
  }
  void map(const TakeMap& m) {
    few(m.pins(), kMostPoints, "the pins");
    for (const auto& p : m.pins()) place(p.take, "a pin"), place(p.stretched, "a pin");
  }

 private:
  std::vector<std::string>& broken_;
  std::string whose_;
};

void checkClip(const Clip& c, Ranges& r) {
  r.place(c.start, "the start");
  r.place(c.source, "what is played");
  r.place(c.end(), "the end");
  r.length(c.length);
  r.number(c.gainDb, kGainRange, "the gain");
  r.number(c.pan, kPanRange, "the pan");
  r.fade(c.fadeIn);
  r.fade(c.fadeOut);
  r.length(c.seam.before, "the seam");
  r.length(c.seam.after, "the seam");
  r.number(c.seam.bias, kUnitRange, "the seam's bias");
  r.map(c.map);
  if (c.piece) {
    r.place(c.piece->covers.start), r.place(c.piece->covers.end), r.place(c.piece->home);
    r.map(c.piece->map);
  }
  const auto& x = *c.extras;
  r.text(x.name, "the name");
  r.hold(!x.colour || (*x.colour >= 0 && *x.colour <= kMostColours), "the colour");
  r.hold(x.choke >= 0 && x.choke <= kMostChokes, "the choke group");
  if (x.sync) r.length(*x.sync, "the sync point");
  if (x.sound) r.place(x.sound->offset, "where its own sound begins");
  r.envelope(x.gain);
  r.envelope(x.pitch);
  if (x.formants && !x.formants->along) r.number(x.formants->cents, kFormantsRange, "the formants");
}

void checkGrid(const Grid& g, Ranges& r) { r.number(g.swing, kSwingRange, "the swing"); }

void checkGroove(const Groove& g, Ranges& r) {
  r.text(g.name, "the name of a groove");
  checkGrid(g.grid, r);
  r.few(g.offsetsMs, kMostPlaces, "a groove");
  r.few(g.loudness, kMostPlaces, "a groove");
  r.few(g.scatterMs, kMostPlaces, "a groove");
  for (const double v : g.offsetsMs) r.number(v, kGroovePlaceRange, "a place of a groove");
  for (const double v : g.loudness) r.number(v, kShareRange, "a loudness of a groove");
  for (const auto& place : g.scatterMs) {
    r.few(place, kMostScatter, "the scatter of a groove");
    for (const double v : place) r.number(v, kGroovePlaceRange, "the scatter of a groove");
  }
}

void checkTimingPlan(const TimingPlan& plan, Ranges& r) {
  const auto& s = plan.settings;
  for (const auto& n : kTimingNumbers) r.number(s.*n.field, n.range, std::string(n.range.name).c_str());
  checkGrid(s.grid, r);
  r.few(s.gridRules, kMostTracks, "the exceptions to the grid");
  for (const auto& rule : s.gridRules) {
    checkGrid(rule.grid, r);
    if (rule.stretch) r.place(rule.stretch->first), r.place(rule.stretch->second);
  }
  if (s.groove) checkGroove(*s.groove, r);
  r.few(plan.overrides, kMostDecisions, "the decisions about hits");
  for (const auto& [hit, o] : plan.overrides) {
    if (o.target) r.place(*o.target, "a hit's place");
    for (const auto& f : {o.seam.leadIn, o.seam.length})
      if (f) r.hold(f->value >= 0 && *f <= kLongestSeamChoice, "a seam");
    if (o.seam.bias) r.number(*o.seam.bias, kBiasRange, "a seam's bias");
  }
  r.few(plan.gaps, kMostMarks, "what is left alone");
  for (const auto& g : plan.gaps) r.place(g.range.start), r.place(g.range.end);
}

void checkPitchPlan(const PitchPlan& plan, Ranges& r) {
  for (const auto& n : kTuneNumbers) r.number(plan.settings.*n.field, n.range, std::string(n.range.name).c_str());
  const auto& scale = plan.settings.scale;
  r.text(scale.name, "the name of the scale");
  r.hold(scale.tonic >= 0 && scale.tonic <= 11, "the tonic");
  r.number(scale.octave, kOctaveRange, "the octave");
  r.number(scale.reference, kReferencePitchRange, "the A4");
  r.hold(!scale.steps.empty() && scale.steps.size() <= kMostScaleSteps && scale.steps.front() == 0, "the scale");
  for (std::size_t i = 0; i < scale.steps.size(); ++i)
    r.hold(scale.steps[i] < scale.octave && (i == 0 || scale.steps[i] > scale.steps[i - 1]), "the scale");
  r.few(plan.wishes, kMostDecisions, "the wishes for notes");
  for (const auto& [name, wish] : plan.wishes) {
    if (wish.target) r.number(*wish.target, kNoteTargetRange, "a note's pitch");
    r.hold(name.second >= 0 && static_cast<double>(name.second) <= kNoteSecondsRange.high * 1000, "a note's place");
    for (std::size_t i = 0; i < kNoteNumbers; ++i)
      if (wish.own[i]) r.number(*wish.own[i], kTuneNumbers[i].range, std::string(kTuneNumbers[i].range.name).c_str());
  }
}

void checkHits(const HitList& hits, Ranges& r) {
  r.few(hits, kMostHits, "the list of hits");
  for (const auto& h : hits) {
    r.length(h.at, "a hit's place");
    r.number(h.strength, kShareRange, "a hit's strength");
    r.number(h.confidence, kShareRange, "a hit's confidence");
    r.few(h.heardBy, kMostHearers, "the guides of a hit");
    for (const auto& g : h.heardBy) r.number(g.strength, kShareRange, "a hit's strength");
    r.few(h.strokes, kMostStrokes, "the strokes of a hit");
    for (const auto& s : h.strokes)
      r.length(s.at, "a stroke's place"), r.number(s.strength, kShareRange, "a stroke's strength");
    if (h.foundAt) r.length(*h.foundAt, "a hit's place");
  }
}

void checkLine(const SungLine& line, Ranges& r) {
  r.few(line.track.values, kMostPitches, "the line");
  for (const auto& v : line.track.values)
    r.number(v.hertz, kSungHertzRange, "a pitch"), r.number(v.voiced, kShareRange, "a pitch");
  for (std::size_t i = 0; i < line.notes.size(); ++i) {
    const auto& n = line.notes[i];
    r.number(n.start, kNoteSecondsRange, "a note's start");
    r.number(n.end, kNoteSecondsRange, "a note's end");
    r.number(n.hertz, kNoteHertzRange, "a note's pitch");
    r.hold(n.end > n.start && (i == 0 || n.start >= line.notes[i - 1].end), "the order of the notes");
  }
}

void checkTake(const Take& t, const Take* known, Ranges& r) {
  r.of("take \"" + t.name + "\"");
  r.text(t.name, "the name");
  r.length(t.length);
  r.few(t.mics, kMostMembers, "the mics");
  for (const auto& m : t.mics) r.length(m.offset, "the start of a recording");
  if (t.tempo) r.number(t.tempo->bpm, kBpmRange, "the tempo"), r.place(t.tempo->firstDownbeat, "the first downbeat");
  for (const auto& f : t.facts) {
    const auto same = [&](const SetFacts& k) { return k.hits.sameObject(f.hits) && k.line.sameObject(f.line); };
    if (f.struck) r.number(*f.struck, kShareRange, "what is struck");
    if (known && std::any_of(known->facts.begin(), known->facts.end(), same)) continue;
    checkHits(*f.hits, r);
    checkLine(*f.line, r);
  }
}

void checkSet(const MicSet& s, const MicSet* known, Ranges& r) {
  r.of("\"" + s.name + "\"");
  r.text(s.name, "the name");
  r.few(s.tracks, kMostMembers, "the tracks");
  for (const auto& n : kHitNumbers) r.number(s.hits.*n.field, n.range, std::string(n.range.name).c_str());
  r.few(s.hits.guides, kMostMembers, "the guides");
  for (const auto& [track, g] : s.hits.guides)
    for (const auto& n : kGuideNumbers) r.number(g.*n.field, n.range, std::string(n.range.name).c_str());
  r.few(s.locks, kMostMarks, "the locks");
  for (const auto& l : s.locks) r.place(l.start, "a lock"), r.place(l.end, "a lock");
  if (!known || !known->plan.sameObject(s.plan)) checkTimingPlan(*s.plan, r);
  if (!known || !known->pitch.sameObject(s.pitch)) checkPitchPlan(*s.pitch, r);
  if (known && known->clips.sameObject(s.clips)) return;
  r.few(*s.clips, kMostClips, "the clips");
  r.of("a clip of \"" + s.name + "\"");
  for (const auto& c : *s.clips) checkClip(c, r);
}

void checkInserts(const InsertList& inserts, Ranges& r) {
  r.few(inserts, kMostInserts, "the effects");
  for (const auto& i : inserts) {
    r.text(i.effect, "the effect's name");
    r.text(i.name, "the effect's name");
    r.text(i.state->id, "the effect's state");
    r.few(i.values, kMostInsertValues, "the effect's values");
    for (const auto& [symbol, value] : i.values) r.number(value, kInsertValueRange, "the effect's value");
    r.few(i.moved, kMostMovedControls, "the effect's moved controls");
    for (const auto& [symbol, m] : i.moved) {
      r.text(symbol, "a control's name");
      r.text(m.name, "a control's name");
      r.text(m.unit, "a control's unit");
      r.number(m.low, kInsertValueRange, "a control's range");
      r.number(m.high, kInsertValueRange, "a control's range");
      r.envelope(m.points);
    }
  }
}

void checkTrack(const Track& t, Ranges& r) {
  r.of("track \"" + t.name + "\"");
  r.text(t.name, "the name");
  r.hold(t.colour >= 0 && t.colour <= kMostColours, "the colour");
  r.number(t.gainDb, kGainRange, "the gain");
  r.number(t.pan, kPanRange, "the pan");
  for (const auto* e : {&t.gainEnvelope, &t.panEnvelope, &t.muteEnvelope}) r.envelope(**e);
  checkInserts(*t.inserts, r);
}

void checkMedia(const Media& m, Ranges& r) {
  r.of("recording \"" + m.name + "\"");
  r.text(m.name, "the name");
  r.hold(m.path.size() <= kLongestText, "the path");
  r.text(m.fingerprint, "the fingerprint");
  r.hold(m.channels >= 1 && m.channels <= kMostChannels, "the number of channels");
  r.number(m.fileRate, kFileRateRange, "the rate");
  r.hold(m.length.value >= 1 && m.length <= kFarthest, "the length");
  r.hold(!m.timeReference || *m.timeReference >= 0, "the time stamp");
  r.few(m.printedFrom, kMostMembers, "what it was printed from");
  if (m.bpm) r.number(*m.bpm, kBpmRange, "the tempo");
}

void checkMarks(const Song& song, Ranges& r) {
  r.few(song.markers, kMostMarks, "the markers");
  for (const auto& m : song.markers) {
    r.of("marker \"" + m.name + "\"");
    r.text(m.name, "the name");
    r.place(m.at);
    r.hold(m.length.value >= 0 && m.length <= kFarthestTick, "the length");
  }
  r.of("the song");
  r.few(song.spans, kMostMarks, "the silent spans");
  for (const auto& s : song.spans) {
    r.text(s.label, "a silent span's name");
    r.few(s.tracks, kMostMembers, "a silent span's tracks");
    r.place(s.range.start, "a silent span");
    r.place(s.range.end, "a silent span");
  }
  r.few(song.bundles, kMostMarks, "the bundles");
  for (const auto& b : song.bundles) {
    r.text(b.name, "a bundle's name");
    r.number(b.gainDb, kGainRange, "a bundle's gain");
    r.fade(b.fadeIn);
    r.fade(b.fadeOut);
  }
}

void checkLayer(const Layer& l, Ranges& r) {
  r.of("layer \"" + l.name + "\"");
  r.text(l.name, "the name");
  for (const auto& n : kLayerNumbers) r.number(l.settings.*n.field, n.range, std::string(n.range.name).c_str());
  r.few(l.curve, kMostPlaces, "the curve");
  for (const auto& p : l.curve)
    r.number(p.strength, kShareRange, "a strength of the curve"), r.number(p.db, kCurveRange, "a level of the curve");
  r.text(l.sounds->name, "the name of the sounds");
  r.hold(l.sounds->origin.size() <= kLongestText, "the path of the sounds");
  r.few(l.sounds->sounds, kMostSounds, "the sounds");
  for (const auto& s : l.sounds->sounds) {
    r.text(s.name, "the name of a sound");
    r.length(s.range.start, "a sound's start");
    r.hold(s.range.end > s.range.start && s.range.end <= kFarthest, "a sound's end");
    r.hold(kShareRange.accepts(s.low) && kShareRange.accepts(s.high) && s.low <= s.high, "the strengths of a sound");
    r.number(s.gainDb, kStrokeGainRange, "the level of a sound");
    r.number(s.pan, kPanRange, "the pan of a sound");
    r.number(s.cents, kLayerPitchRange, "the pitch of a sound");
    r.length(s.attack, "the attack of a sound");
    r.place(s.lag, "the lag of a sound");
    r.hold(std::isfinite(s.peakDb) && std::isfinite(s.likeness), "what is known of a sound");
  }
  r.few(l.wishes, kMostDecisions, "the decisions about strokes");
  for (const auto& [hit, w] : l.wishes) r.number(w.gainDb, kStrokeGainRange, "the level of a stroke");
  for (const auto& [take, attacks] : l.heard->takes) {
    r.few(attacks, kMostHits, "the strokes heard");
    for (std::size_t i = 0; i < attacks.size(); ++i)
      r.hold(within(attacks[i].at) && within(attacks[i].stroke) && std::isfinite(attacks[i].db) &&
                 (i == 0 || attacks[i].stroke >= attacks[i - 1].stroke),
             "a stroke heard");
  }
}

void checkPattern(const Pattern& p, Ranges& r) {
  r.of("a pattern");
  r.text(p.name, "the name");
  r.place(p.length, "the length");
  r.few(*p.strokes, kMostClips, "the strokes");
  for (const auto& s : *p.strokes) {
    r.place(s.at, "a stroke");
    checkClip(s.clip, r);
  }
}

void checkPrint(const Print& p, Ranges& r) {
  r.of("a print");
  r.place(p.start, "the start");
  r.few(*p.clips, kMostClips, "the clips");
  for (const auto& c : *p.clips) checkClip(c, r);
  r.few(p.bundles, kMostMarks, "the bundles");
  for (const auto& b : p.bundles) {
    r.text(b.name, "a bundle's name");
    r.number(b.gainDb, kGainRange, "a bundle's gain");
    r.fade(b.fadeIn);
    r.fade(b.fadeOut);
  }
  r.few(p.mixer, kMostMembers, "the tracks");
  for (const auto& m : p.mixer) {
    r.number(m.gainDb, kGainRange, "the gain");
    r.number(m.pan, kPanRange, "the pan");
    for (const auto* e : {&m.gain, &m.panning, &m.mute}) r.envelope(**e);
  }
  r.few(p.trimmed, kMostMarks, "the trimmed recordings");
  for (const auto& t : p.trimmed) r.length(t.offset, "the start of a recording");
  if (p.manner.peakDb) r.number(*p.manner.peakDb, kPrintPeakRange, "the peak");
  r.number(p.manner.tailSeconds, kTailRange, "the tail");
  for (const auto* c : {&p.cutBefore, &p.cutAfter})
    if (*c) checkClip(**c, r);
  r.number(-p.levelDb, kGainRange, "the level");
  if (!p.with) return;
  checkPitchPlan(*p.with->pitch, r);
  r.few(p.with->recordings, kMostMarks, "the recordings");
  for (const auto& m : p.with->recordings) r.text(m.fingerprint, "a recording's fingerprint");
}

void checkTempo(const Song& song, Ranges& r) {
  r.place(song.tempo.origin(), "the first bar");
  r.few(song.tempo.tempos(), kMostPoints, "the tempo map");
  for (const auto& t : song.tempo.tempos()) r.place(t.at, "a tempo");
  r.few(song.tempo.meters(), kMostMarks, "the list of meters");
  for (const auto& m : song.tempo.meters()) r.hold(std::abs(m.bar) <= kMostBars, "a meter's bar");
  r.few(*song.anchors, kMostPoints, "the list of anchors");
  for (const auto& a : *song.anchors) r.place(a.at, "an anchor"), r.place(a.frame, "an anchor");
  for (const auto& n : kAnchorNumbers)
    r.number(song.anchorSettings.*n.field, n.range, std::string(n.range.name).c_str());
  for (const auto& [kind, at] : song.acceptedTempo) r.place(at, "an accepted place");
  if (const auto& d = song.tempoDoubt) {
    r.number(d->beat, kShareRange, "how sure the beat is");
    r.number(d->bars, kShareRange, "how sure the bars are");
    r.hold(d->otherBpm >= 0 && d->otherBpm <= kBpmRange.high, "the other tempo");
    if (d->otherBar) r.place(*d->otherBar, "the other bar");
  }
}

template <class T>
const T* sameId(const std::vector<T>& list, const T& wanted) {
  for (const auto& x : list)
    if (x.id == wanted.id) return &x;
  return nullptr;
}

}  // namespace

void checkRangesOf(const Song& song, const Song* known, std::vector<std::string>& broken) {
  Ranges r(broken);
  r.of("the song");
  r.text(song.name, "the name");
  r.number(song.rate, kSongRateRange, "the rate");
  r.few(song.media, kMostMarks, "the recordings");
  r.few(song.takes, kMostTracks, "the takes");
  r.few(song.tracks, kMostTracks, "the tracks");
  r.few(song.sets, kMostTracks, "the mic sets");
  r.few(song.grooves, kMostTracks, "the grooves");
  r.envelope(*song.gainEnvelope);
  r.envelope(*song.speedEnvelope);
  checkTempo(song, r);
  for (const auto& g : song.grooves) checkGroove(g, r);
  checkMarks(song, r);
  r.few(song.layers, kMostTracks, "the layers");
  for (const auto& m : song.media) checkMedia(m, r);
  for (const auto& t : song.takes) checkTake(t, known ? sameId(known->takes, t) : nullptr, r);
  for (const auto& t : song.tracks) checkTrack(t, r);
  for (const auto& l : song.layers) checkLayer(l, r);
  r.few(song.patterns, kMostMarks, "the patterns");
  if (!known || known->patterns != song.patterns)
    for (const auto& p : song.patterns) checkPattern(p, r);
  r.few(song.prints, kMostMarks, "the prints");
  if (!known || known->prints != song.prints)
    for (const auto& p : song.prints) checkPrint(p, r);
  for (const auto& s : song.sets) checkSet(s, known ? sameId(known->sets, s) : nullptr, r);
}

}  // namespace ochron
