#include "document/selection.h"

#include <algorithm>
#include <unordered_set>

#include "document/document.h"
#include "document/pin_desk.h"
#include "document/pitch_desk.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "edits/arrange.h"
#include "edits/pin_edits.h"
#include "seams/seam_edits.h"

namespace ochron {
namespace {
constexpr FrameRange kEverywhere{Frames{INT64_MIN / 2}, Frames{INT64_MAX / 2}};
}

Selection::Selection(Document& document) : QObject(&document), doc_(document) {
  connect(&document, &Document::songPreviewed, this, [this] {
    if (const auto parts = forgetGonePins()) emit changed(parts);
  });
}

void Selection::songChanged() {
  const auto& song = doc_.song();
  if (!song.find(activeSet_)) activeSet_ = {};
  if (!song.find(track_)) track_ = {};
  if (const auto* s = std::get_if<SeamRef>(&place_); s && !seamClip()) {
    const auto hit = s->hit;
    place_ = hit ? Place(*hit) : Place();
  }
  std::erase_if(rangeSets_, [&](SetId s) { return !song.find(s); });
  auto parts = forgetGoneClips() | forgetGonePins();
  if (hasMark() && !isThere(mark_)) mark_ = {}, parts |= kMark;
  if (openBundle_ && !song.find(openBundle_)) openBundle_ = {};
  if (parts) emit changed(parts);
}

void Selection::forget() {
  activeSet_ = {};
  track_ = {};
  place_ = {};
  range_ = {};
  rangeSets_.clear();
  clips_.clear();
  anchor_ = {};
  openBundle_ = {};
  mark_ = {};
  pins_.clear();
  notes_.clear();
}

// Where ---------------------------------------------------------------------------------------------------------------

SetId Selection::set() const {
  const auto& song = doc_.song();
  if (song.find(activeSet_)) return activeSet_;
  // The set with most mics is the kit.
  const auto most = std::max_element(song.sets.begin(), song.sets.end(),
                                     [](auto& a, auto& b) { return a.tracks.size() < b.tracks.size(); });
  return most == song.sets.end() ? SetId{} : most->id;
}

void Selection::chooseSet(SetId id) {
  if (id == set()) return;
  activeSet_ = id;
  place_ = {};
  emit changed(kSet | kPlace);
}

void Selection::chooseTrack(TrackId track) {
  if (track == track_) return;
  track_ = track;
  if (const auto* s = doc_.song().setOf(track)) chooseSet(s->id);
  emit changed(kSet);
}

// What is meant ------------------------------------------------------------------------------------------------------

bool Selection::isChosen(Thing thing) const {
  switch (thing) {
    case Thing::notes: return doc_.step() == Step::pitch && !notes_.empty() && doc_.pitchDesk().anyChosen();
    case Thing::pins: return doc_.pinDesk().shown() && !pins_.empty();
    case Thing::point: return point().has_value();
    case Thing::span: return span() && doc_.song().find(*span());
    case Thing::marker: return marker() && doc_.song().find(*marker());
    case Thing::clips: return hasClips();
    case Thing::seam: return doc_.step() == Step::seams && std::holds_alternative<SeamRef>(place_) && seamClip();
    case Thing::hit: return plannedHit() != nullptr;
    case Thing::range: return !range_.empty();
  }
  return false;
}

std::optional<Selection::Thing> Selection::meant(Things can) const {
  for (const auto thing : {Thing::notes, Thing::pins, Thing::point, Thing::span, Thing::marker, Thing::clips,
                           Thing::seam, Thing::hit, Thing::range})
    if (can.testFlag(thing) && isChosen(thing)) return thing;
  return {};
}

void Selection::chooseNothing() {
  setRange({});
  chooseSeam({});
  chooseHit({});
  choosePins({});
  chooseNotes({});
  clear();
}

// The hit or seam that is looked at -----------------------------------------------------------------------------------

std::optional<HitRef> Selection::hit() const {
  if (const auto* h = std::get_if<HitRef>(&place_)) return *h;
  const auto* s = std::get_if<SeamRef>(&place_);
  return s ? s->hit : std::nullopt;
}

void Selection::chooseHit(std::optional<HitRef> hit) {
  if (hit == this->hit()) return;
  setPlace(hit ? Place(*hit) : Place());
}

/// Commands are meant for what was chosen last: a hit takes the place of pins.
void Selection::setPlace(const Place& place) {
  const auto before = hit();
  place_ = place;
  Parts parts = kPlace;
  if (hit() && hit() != before && !pins_.empty()) pins_.clear(), parts |= kPins;
  emit changed(parts);
}

const PlannedHit* Selection::plannedHit() const {
  const auto ref = hit();
  if (!ref) return nullptr;
  for (const auto& p : doc_.timingDesk().planned().hits)
    if (p.hit.id == ref->hit && p.take == ref->take) return &p;
  return nullptr;
}

std::optional<ClipId> Selection::seam() const {
  if (const auto* s = std::get_if<SeamRef>(&place_)) return s->clip;
  const auto* h = std::get_if<HitRef>(&place_);
  const auto* s = doc_.song().find(set());
  std::optional<ClipId> out;
  if (h && s)
    for (const auto& c : *s->clips)
      if (c.piece && c.piece->hit == h->hit) out = c.id;
  return out;
}

const Clip* Selection::seamClip() const {
  const auto id = seam();
  return id ? seamOf(*id) : nullptr;
}

const Clip* Selection::seamOf(ClipId clip) const {
  const auto* s = doc_.song().find(set());
  if (!s) return nullptr;
  const auto& clips = *s->clips;
  for (std::size_t i = 1; i < clips.size(); ++i)
    if (clips[i].id == clip && isSeam(clips, i)) return &clips[i];
  return nullptr;
}

void Selection::chooseSeam(std::optional<ClipId> clip) {
  if (clip == seam()) return;
  if (!clip) return setPlace({});
  SeamRef ref{*clip, {}};
  if (const auto* c = seamOf(*clip); c && c->piece && c->piece->hit) ref.hit = HitRef{c->take, c->piece->hit};
  setPlace(ref);
}

void Selection::setRange(FrameRange range) {
  range_ = range;
  doc_.transport().rangeChanged();
  emit changed(kRange);
}

std::vector<SetId> Selection::rangeSets() const { return rangeSets_.empty() ? setsInOrder(doc_.song()) : rangeSets_; }

std::vector<SetId> Selection::targetSets() const {
  if (!range_.empty()) return rangeSets();
  std::vector<SetId> out;
  for (const auto& s : doc_.song().sets)
    if (std::any_of(s.clips->begin(), s.clips->end(), [&](auto& c) { return isChosen(c.id); })) out.push_back(s.id);
  if (out.empty() && set()) out.push_back(set());
  return out;
}

// Clips ---------------------------------------------------------------------------------------------------------------

Selection::Parts Selection::forgetGoneClips() {
  if (clips_.empty()) return {};
  ChosenClips there;
  for (const auto& s : doc_.song().sets)
    for (const auto& c : *s.clips)
      if (isChosen(c.id)) there.insert(c.id);
  const bool gone = there.size() != clips_.size();
  clips_ = std::move(there);
  return gone ? Parts(kClips) : Parts();
}

ClipIds Selection::clips() const {
  ClipIds out;
  if (clips_.empty()) return out;
  for (const auto& s : doc_.song().sets)
    for (const auto& c : *s.clips)
      if (isChosen(c.id)) out.push_back(c.id);
  return out;
}

ClipIds Selection::withBundles(const ClipIds& clips) const {
  ClipIds out = clips;
  std::unordered_set<BundleId> bundles;
  const ChosenClips asked(clips.begin(), clips.end());
  const auto& song = doc_.song();
  for (const auto& s : song.sets)
    for (const auto& c : *s.clips)
      if (c.bundle && c.bundle != openBundle_ && asked.contains(c.id)) bundles.insert(c.bundle);
  if (bundles.empty()) return out;
  for (const auto& s : song.sets)
    for (const auto& c : *s.clips)
      if (bundles.contains(c.bundle) && !asked.contains(c.id)) out.push_back(c.id);
  return out;
}

void Selection::choose(const ClipIds& clips, bool add) {
  if (!add) clips_.clear();
  const auto all = withBundles(clips);
  clips_.insert(all.begin(), all.end());
  if (!clips.empty()) anchor_ = clips.back();
  mark_ = {};
  chooseHit({});
  if (clips.size() == 1)
    if (const auto* s = doc_.song().setOf(clips.front()); s && s->id == set())
      chooseSeam(clips.front());  // the loupe shows the joint it begins with
  emit changed(kClips | kMark);
}

void Selection::toggle(ClipId clip) {
  if (!isChosen(clip)) return choose({clip}, true);
  mark_ = {};
  for (const auto id : withBundles({clip})) clips_.erase(id);
  emit changed(kClips | kMark);
}

void Selection::chooseTo(ClipId clip) {
  const auto& song = doc_.song();
  const auto* from = song.find(anchor_);
  const auto* to = song.find(clip);
  if (!from || !to) return choose({clip});
  const auto order = setsInOrder(song);
  const auto row = [&](ClipId id) { return std::find(order.begin(), order.end(), song.setOf(id)->id); };
  auto a = row(anchor_);
  auto b = row(clip);
  if (b < a) std::swap(a, b);
  const FrameRange range{std::min(from->start, to->start), std::max(from->end(), to->end())};
  const auto anchor = anchor_;
  chooseIn(range, {a, b + 1}, true);
  anchor_ = anchor;
}

void Selection::chooseIn(FrameRange range, const std::vector<SetId>& sets, bool add) {
  ClipIds inside;
  for (const auto& s : doc_.song().sets) {
    if (std::find(sets.begin(), sets.end(), s.id) == sets.end()) continue;
    for (const auto& c : *s.clips)
      if (c.start >= range.start && c.end() <= range.end) inside.push_back(c.id);
  }
  choose(inside, add);
}

void Selection::chooseAll() { chooseIn(kEverywhere, setsInOrder(doc_.song())); }

void Selection::chooseOnTrack() { chooseIn(kEverywhere, hasClips() ? targetSets() : std::vector{set()}); }

void Selection::chooseAfter(Frames at) {
  const auto from = hasClips() ? extentOf(doc_.song(), clips()).start : at;
  chooseIn({from, kEverywhere.end}, hasClips() ? targetSets() : setsInOrder(doc_.song()));
}

void Selection::chooseLike(bool byColour) {
  const auto& song = doc_.song();
  const auto colourOf = [&](const MicSet& s, const Clip& c) {
    return c.extras->colour.value_or(song.find(s.tracks.front())->colour);
  };
  const auto nameOf = [&](const Clip& c) {
    const auto* take = song.find(c.take);
    return c.extras->name.empty() && take ? take->name : c.extras->name;
  };
  std::set<int> colours;
  std::set<std::string> names;
  for (const auto& s : song.sets)
    for (const auto& c : *s.clips)
      if (isChosen(c.id)) {
        colours.insert(colourOf(s, c));
        names.insert(nameOf(c));
      }
  ClipIds alike;
  for (const auto& s : song.sets)
    for (const auto& c : *s.clips)
      if (byColour ? colours.contains(colourOf(s, c)) : names.contains(nameOf(c))) alike.push_back(c.id);
  choose(alike);
}

void Selection::clear() {
  if (!hasClips() && !hasMark() && rangeSets_.empty()) return;
  clips_.clear();
  rangeSets_.clear();
  mark_ = {};
  emit changed(kClips | kMark);
}

void Selection::openBundle(BundleId bundle) {
  if (bundle == openBundle_) return;
  openBundle_ = bundle;
  clear();
  emit changed(kClips);
}

// Marks ---------------------------------------------------------------------------------------------------------------

bool Selection::isThere(const Mark& mark) const {
  const auto& song = doc_.song();
  if (const auto* s = std::get_if<SpanId>(&mark)) return song.find(*s) != nullptr;
  if (const auto* m = std::get_if<MarkerId>(&mark)) return song.find(*m) != nullptr;
  if (const auto* p = std::get_if<PointRef>(&mark)) {
    const auto* e = envelopeOf(song, p->envelope);
    return e && std::any_of(e->begin(), e->end(), [&](auto& x) { return x.at == p->at; });
  }
  return true;
}

void Selection::chooseSpan(std::optional<SpanId> span) {
  clips_.clear();
  mark_ = {};
  if (span) mark_ = *span;
  emit changed(kClips | kMark);
}

void Selection::chooseMarker(std::optional<MarkerId> marker) {
  clips_.clear();
  mark_ = {};
  if (marker) mark_ = *marker;
  emit changed(kClips | kMark);
}

void Selection::choosePoint(std::optional<PointRef> point) {
  if (point == this->point()) return;
  mark_ = {};
  if (point) mark_ = *point;
  emit changed(kMark);
}

// Pins and notes ------------------------------------------------------------------------------------------------------

bool Selection::isChosen(const PinRef& pin) const { return std::find(pins_.begin(), pins_.end(), pin) != pins_.end(); }

void Selection::choosePins(const std::vector<PinRef>& pins, bool add) {
  if (!add) pins_.clear();
  for (const auto& p : pins)
    if (!isChosen(p)) pins_.push_back(p);
  (void)forgetGonePins();
  emit changed(kPins);
}

void Selection::toggle(const PinRef& pin) {
  if (const auto found = std::find(pins_.begin(), pins_.end(), pin); found != pins_.end())
    pins_.erase(found);
  else
    pins_.push_back(pin);
  emit changed(kPins);
}

/// What was chosen and is no pin any more is forgotten. A plan that is carried out anew may have given the clip around
/// it another name.
Selection::Parts Selection::forgetGonePins() {
  const auto before = pins_;
  const auto& song = doc_.song();
  for (auto& p : pins_) {
    const auto* clip = song.find(p.clip);
    if (clip && clip->played().contains(p.take)) continue;
    const auto* s = song.find(p.set);
    if (!s) continue;
    for (const auto& c : *s->clips) {
      const auto pins = handPins(c);
      if (std::find(pins.begin(), pins.end(), p.take) != pins.end()) p.clip = c.id;
    }
  }
  std::erase_if(pins_, [&](const PinRef& p) {
    const auto* clip = song.find(p.clip);
    if (!clip) return true;
    const auto pins = handPins(*clip);
    return std::find(pins.begin(), pins.end(), p.take) == pins.end();
  });
  return pins_ != before ? Parts(kPins) : Parts();
}

void Selection::chooseNotes(const std::vector<NoteName>& notes, bool add) {
  if (!add) notes_.clear();
  notes_.insert(notes.begin(), notes.end());
  emit changed(kNotes);
}

void Selection::toggle(const NoteName& note) {
  if (!notes_.erase(note)) notes_.insert(note);
  emit changed(kNotes);
}

}  // namespace ochron
